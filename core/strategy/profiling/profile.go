// Package profiling finishes walls: passes along the wall at the tool's
// radius, each met and left on an arc tangent to it.
//
// Curves run with the free side on their left, which is climb milling for a
// spindle that turns clockwise. Lengths mm, feeds mm/min.
package profiling

import (
	"context"
	"math"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
)

// Pass is one depth of the profile.
type Pass struct {
	Z, Top   float64       // where the tip goes; top of what stands around
	Curves   []planar.Loop // paths of the centre, free side on the left
	Room     planar.Region // where the centre may be
	Material planar.Region // what stands at this level
}

// Input is the task.
type Input struct {
	Passes []Pass
	Radius float64 // of the tool
	Lead   float64 // radius of approach and retract arcs
	Extend float64 // straight on at open ends
	Spring int     // passes repeated without change
	Clear  float64
	Feed   float64
	Plunge float64
	Climb  bool
	Tol    float64
}

// Make returns the path.
func Make(ctx context.Context, in Input) (motion.Path, error) {
	b := motion.NewBuilder(in.Clear)
	for _, p := range in.Passes {
		if err := ctx.Err(); err != nil {
			return motion.Path{}, err
		}
		rest := append([]planar.Loop(nil), p.Curves...)
		for len(rest) > 0 {
			k := nearest(rest, b.At.XY())
			in.curve(b, p, rest[k])
			rest = append(rest[:k:k], rest[k+1:]...)
		}
	}
	b.Up()
	return b.Path, nil
}

func nearest(curves []planar.Loop, p geom.V2) int {
	best, dist := 0, math.Inf(1)
	for i, l := range curves {
		if _, _, d := l.Nearest(p); d < dist {
			best, dist = i, d
		}
	}
	return best
}

// curve cuts one curve with approach and retract.
func (in Input) curve(b *motion.Builder, p Pass, l planar.Loop) {
	side := int8(1) // the free side is left of travel
	closed := l[0].A.Dist(l[len(l)-1].B) < 1e-6
	if closed {
		l = in.bestStart(l, p.Room)
	} else {
		l = in.extended(l, p.Room)
	}
	if !in.Climb {
		l, side = l.Reverse(), -1
	}
	first, last := l[0], l[len(l)-1]
	into := in.lead(first.A, first.TangentA(), side, p.Room, true)
	out := in.lead(last.B, last.TangentB(), side, p.Room, false)
	start := first.A
	if len(into) > 0 {
		start = into[0].A
	}
	down := p.Top + 1
	if !p.Material.Contains(start) && p.Material.Dist(start) > in.Radius+0.05 {
		down = math.Min(down, p.Z+1) // cleared before: rapid nearly to depth
	}
	b.Over(start, down)
	b.Line(start.At(p.Z), in.Plunge)
	b.Follow(into, p.Z, in.Feed)
	for i := 0; i <= in.Spring; i++ {
		if i > 0 && !closed {
			l = l.Reverse()
		}
		b.Follow(l, p.Z, in.Feed)
	}
	if in.Spring%2 == 0 || closed {
		b.Follow(out, p.Z, in.Feed)
	}
}

// lead returns the quarter circle, tangent at p, on the free side; smaller
// where the room is narrow, none where even a small one does not fit.
func (in Input) lead(p, tangent geom.V2, side int8, room planar.Region, into bool) []planar.Segment {
	free := tangent.Left().Mul(float64(side))
	for r := in.Lead; r > 0.02*in.Radius; r *= 0.7 {
		c := p.Add(free.Mul(r))
		var arc []planar.Segment
		if into {
			arc = planar.Arc(c.Sub(tangent.Mul(r)), p, c, side)
		} else {
			arc = planar.Arc(p, c.Add(tangent.Mul(r)), c, side)
		}
		fits := len(arc) == 1
		for _, t := range []float64{0, 0.25, 0.5, 0.75, 1} {
			q := arc[0].At(t)
			fits = fits && (room.Contains(q) || room.Dist(q) < 1e-5)
		}
		if fits {
			return arc
		}
	}
	return nil
}

// bestStart begins a closed curve where the approach has most room: the
// middle of a segment that allows the full arc, the longest line first.
func (in Input) bestStart(l planar.Loop, room planar.Region) planar.Loop {
	best, score := 0, math.Inf(-1)
	for i, s := range l {
		m := s.At(0.5)
		t := s.TangentA()
		if s.IsArc() {
			t = m.Sub(s.C).Left().Mul(float64(s.Turn)).Unit()
		}
		v := s.Len()
		if s.IsArc() {
			v *= 0.25
		}
		if arc := in.lead(m, t, 1, room, true); len(arc) == 0 {
			v -= 1e6
		} else {
			v += 100 * arc[0].Radius()
		}
		if v > score {
			best, score = i, v
		}
	}
	return l.StartAt(best, l[best].At(0.5))
}

// extended carries an open curve straight on at both ends where that is free.
func (in Input) extended(l planar.Loop, room planar.Region) planar.Loop {
	first, last := l[0], l[len(l)-1]
	a := planar.Line(first.A.Sub(first.TangentA().Mul(in.Extend)), first.A)
	z := planar.Line(last.B, last.B.Add(last.TangentB().Mul(in.Extend)))
	out := planar.Loop{}
	if room.Inside(a, in.Tol) {
		out = append(out, a)
	}
	out = append(out, l...)
	if room.Inside(z, in.Tol) {
		out = append(out, z)
	}
	return out
}
