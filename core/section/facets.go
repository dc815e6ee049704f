package section

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
)

// Chord is how far triangles and chords that stand for curved faces and edges
// may lie off, mm.
const Chord = 0.005

// facets stands for faces whose projection is not made of lines and arcs: the
// triangles that face up. Their outline, run around with all of them on its
// left, has a positive winding number wherever one of them lies. Of a face
// that looks down nowhere all triangles are taken: some lean over by the
// chord, and the outline of all is the exact boundary.
func (sh *Shadow) facets(s *brep.View, i int) (*patch, error) {
	all, err := s.Triangles(i)
	if err != nil {
		return nil, err
	}
	tris := upward(s.Faces[i], all)
	if len(tris) == 0 {
		return nil, nil
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, t := range tris {
		for _, p := range t {
			lo, hi = math.Min(lo, p.Z), math.Max(hi, p.Z)
		}
	}
	arcs := levelArcs(s, s.Faces[i])
	above := func(z float64) planar.Region {
		o := outliner{next: map[geom.V2][]geom.V2{}, arcs: arcs}
		for _, t := range tris {
			o.add(clipAbove(t[:], z))
		}
		switch s.Faces[i].Surface.(type) {
		case brep.Plane, brep.Cylinder: // seen one-to-one: the outline does not cross itself
			return o.loops()
		}
		return planar.Normalize(o.loops(), sh.tol)
	}
	return &patch{region: above(math.Inf(-1)), lo: lo, hi: hi, above: above}, nil
}

// upward returns the triangles of a face that count from above.
func upward(f *brep.Face, tris [][3]geom.V3) [][3]geom.V3 {
	var up, rest [][3]geom.V3
	for _, t := range tris {
		if t[1].Sub(t[0]).Cross(t[2].Sub(t[0])).Unit().Z > flat {
			up = append(up, t)
		} else {
			rest = append(rest, t)
		}
	}
	if len(up) == 0 || len(rest) == 0 {
		return up
	}
	for _, t := range rest {
		for _, p := range t {
			if f.NormalAt(p).Z < -flat {
				return up
			}
		}
	}
	return tris
}

// levelArcs returns the chords of a face's level circular edges and the arcs
// that they stand for, both ways.
func levelArcs(v *brep.View, f *brep.Face) map[[2]geom.V2]planar.Segment {
	out := map[[2]geom.V2]planar.Segment{}
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			k, ok := c.Edge.Curve.(brep.Circle)
			if !ok || math.Abs(k.F.Z.Z) < 1-flat {
				continue
			}
			turn := int8(1)
			if k.F.Z.Z < 0 {
				turn = -1
			}
			points := v.Chords(c.Edge)
			for i := 1; i < len(points); i++ {
				a, b := points[i-1].XY(), points[i].XY()
				out[[2]geom.V2{a, b}] = planar.Segment{A: a, B: b, C: k.F.O.XY(), Turn: turn}
				out[[2]geom.V2{b, a}] = planar.Segment{A: b, B: a, C: k.F.O.XY(), Turn: -turn}
			}
		}
	}
	return out
}

// clipAbove returns the projection of the polygon's part above z. Cut points
// come out the same for both polygons at an edge.
func clipAbove(p []geom.V3, z float64) []geom.V2 {
	var out []geom.V2
	for i, a := range p {
		b := p[(i+1)%len(p)]
		if a.Z >= z {
			out = append(out, a.XY())
		}
		if (a.Z >= z) != (b.Z >= z) {
			if a.Z > b.Z {
				a, b = b, a
			}
			out = append(out, a.Lerp(b, (z-a.Z)/(b.Z-a.Z)).XY())
		}
	}
	return out
}

// outliner collects the directed sides of polygons and drops those that run
// both ways.
type outliner struct {
	next  map[geom.V2][]geom.V2
	order []geom.V2
	arcs  map[[2]geom.V2]planar.Segment // what a side stands for, unless itself
}

func (o *outliner) add(p []geom.V2) {
	if len(p) < 3 {
		return
	}
	for i, a := range p {
		b := p[(i+1)%len(p)]
		if a == b || o.drop(b, a) {
			continue
		}
		if o.next[a] == nil {
			o.order = append(o.order, a)
		}
		o.next[a] = append(o.next[a], b)
	}
}

// drop removes the side a→b if it is there.
func (o *outliner) drop(a, b geom.V2) bool {
	for i, q := range o.next[a] {
		if q == b {
			o.next[a] = append(o.next[a][:i], o.next[a][i+1:]...)
			return true
		}
	}
	return false
}

// loops chains what is left; every point has as many ways in as out.
func (o *outliner) loops() planar.Region {
	var out planar.Region
	for _, start := range o.order {
		for len(o.next[start]) > 0 {
			var l planar.Loop
			for at := start; len(o.next[at]) > 0; {
				n := len(o.next[at]) - 1
				to := o.next[at][n]
				o.next[at] = o.next[at][:n]
				side, round := o.arcs[[2]geom.V2{at, to}]
				if !round {
					side = planar.Line(at, to)
				}
				l = append(l, side)
				at = to
			}
			if len(l) > 1 {
				out = append(out, l)
			}
		}
	}
	return out
}
