// Package clearing removes an area level by level with contour-parallel
// passes (Held 1991): the curves at growing distance from the walls, cut from
// the inside out, or from the open side in.
//
// With a width of cut up to the tool's radius the passes overlap everywhere.
// Wider ones can leave spots in corners and along the middle; these are found
// by region arithmetic and cut by extra passes, so that nothing is left
// whatever the width (see spots.go).
package clearing

import (
	"context"
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// Level is one depth of cut.
type Level struct {
	Z, From  float64       // where the tip goes; where material begins
	Keep     planar.Region // what the tool must stay clear of, without allowance
	Stock    planar.Region // what is there to be removed
	Material planar.Region // all that stands at this level, Stock included
}

// Input is the task.
type Input struct {
	Levels    []Level
	Bound     planar.Region // where the tool's centre may be
	Radius    float64       // of the tool
	AE        float64       // width of cut
	Allowance float64       // left on walls
	Clear     float64       // clearance plane
	Feed      float64       // mm/min
	Plunge    float64       // mm/min, straight down in material
	RampAngle float64       // radians
	MinHelix  float64       // smallest helix radius, mm
	Plunges   bool          // the tool may go straight down
	Climb     bool
	Tol       float64
}

// Problem says why an area stayed untouched.
type Problem struct {
	Z   float64
	Say string
}

// area is one level's work: the region where the centre may be and the
// curves at each distance from the walls.
type area struct {
	in    *Input
	lv    Level
	room  planar.Region // for the centre
	touch planar.Region // centres that reach stock
	rings []planar.Region
}

// maxRings bounds the passes around of one task: more would take minutes to
// find and days to cut, and is a slip of the finger.
const maxRings = 4000

func (in *Input) area(ctx context.Context, lv Level) (*area, error) {
	a := &area{in: in, lv: lv}
	a.touch = planar.Offset(lv.Stock, in.Radius-in.skin(), in.Tol)
	a.room = a.ring(0)
	for k := 0; ; k++ {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if k*len(in.Levels) > maxRings {
			return nil, fmt.Errorf("more than %d passes around on %d levels: widen the width of cut, now %.3f mm, or the depth of cut", maxRings, len(in.Levels), in.AE)
		}
		q := a.room
		if k > 0 {
			q = a.ring(k)
		}
		if q.Empty() || planar.Intersection(q, a.touch, in.Tol).Empty() {
			break
		}
		a.rings = append(a.rings, q)
	}
	return a, nil
}

// skin is how deep a disc must reach into the stock to count as cutting.
func (in *Input) skin() float64 { return 0.02 * in.Radius }

// ring returns the centres at least k widths from the allowance on the walls.
func (a *area) ring(k int) planar.Region {
	d := a.in.Radius + a.in.Allowance + float64(k)*a.in.AE
	return planar.Difference(a.in.Bound, planar.Offset(a.lv.Keep, d, a.in.Tol), a.in.Tol)
}

// curves returns the boundary of a ring as far as it runs along walls (not
// along the bound) and reaches stock. Closed curves stay closed.
func (a *area) curves(q planar.Region) []planar.Loop {
	var out []planar.Loop
	for _, l := range q {
		for _, c := range a.alongWalls(l) {
			pieces := planar.Clip(c, a.touch, a.in.Tol)
			for _, p := range pieces {
				if isClosed(p) || p.Len() > 0.01*a.in.Radius {
					out = append(out, p)
				}
			}
		}
	}
	return out
}

// alongWalls drops the segments that lie on the bound.
func (a *area) alongWalls(l planar.Loop) []planar.Loop {
	on := func(s planar.Segment) bool { return a.in.Bound.Dist(s.At(0.5)) < 1e-5 }
	first := -1
	for i, s := range l {
		if on(s) {
			first = i
			break
		}
	}
	if first < 0 {
		return []planar.Loop{l}
	}
	var out []planar.Loop
	var cur planar.Loop
	for k := 1; k <= len(l); k++ {
		s := l[(first+k)%len(l)]
		if on(s) {
			if len(cur) > 0 {
				out = append(out, cur)
			}
			cur = nil
			continue
		}
		cur = append(cur, s)
	}
	return out
}

// isClosed tells whether the chain ends where it begins.
func isClosed(l planar.Loop) bool {
	return len(l) > 0 && l[0].A.Dist(l[len(l)-1].B) < 1e-6
}

// nearestStart turns or reverses nothing but the start of a closed curve, so
// that it begins next to p.
func nearestStart(l planar.Loop, p geom.V2) planar.Loop {
	if !isClosed(l) {
		return l
	}
	q, i, _ := l.Nearest(p)
	return l.StartAt(i, q)
}

// distance returns how far the chain is from p, by its start when open.
func distance(l planar.Loop, p geom.V2) float64 {
	if isClosed(l) {
		_, _, d := l.Nearest(p)
		return d
	}
	return math.Min(l[0].A.Dist(p), l[len(l)-1].B.Dist(p))
}
