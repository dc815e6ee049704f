package planar

import (
	"math"

	"arete/core/geom"
)

// Offset grows the region by d (shrinks it for negative d): the result is
// the set of points within d of the region, or at least −d away from its
// outside. Corners that open outward become arcs of radius |d|.
//
// Every point of the plane nearer than |d| to the boundary, on the side that
// changes, lies in the strip swept by the normal of length |d| along some
// segment, or in the sector around a corner. Strips and sectors are laid so
// that all run counter-clockwise; subtracted from (or added to) the boundary
// chain they leave positive winding exactly on the wanted set. An arc whose
// centre is nearer than |d| on that side has its strip end at the centre,
// since no point beyond has its nearest boundary point on it. Cost: one
// arrangement of about four times the segments.
func Offset(r Region, d, tol float64) Region {
	if d == 0 || len(r) == 0 {
		return r
	}
	var raw Region
	for _, l := range r {
		if l = l.joined(tol); len(l) > 1 {
			raw = append(raw, rawOffset(l, d, tol))
		}
	}
	return combine(raw, nil, tol, func(a, _ int) bool { return a > 0 })
}

// rawOffset returns the loop of the offset segments with connectors: the
// chain of the loop plus the chains of its strips and sectors. d > 0 moves to
// the right (outside).
func rawOffset(l Loop, d, tol float64) Loop {
	out := make(Loop, 0, 3*len(l))
	n := len(l)
	for i, s := range l {
		a, b := s.shift(s.A, s.TangentA(), d), s.shift(s.B, s.TangentB(), d)
		switch {
		case s.collapses(d):
			if s.C.Dist(s.A) > tol { // to the centre and back out again
				out = append(out, Line(s.A, s.C), Line(s.C, s.B))
			}
			b = s.B
		case s.Turn == 0:
			out = append(out, Line(a, b))
		default:
			out = append(out, Segment{a, b, s.C, s.Turn})
		}
		t := l[(i+1)%n]
		next := t.shift(t.A, t.TangentA(), d)
		if t.collapses(d) {
			next = t.A
		}
		out = append(out, connect(s, t, b, next, d, tol)...)
	}
	return out
}

// shift moves a point of the segment by d to the right of its tangent.
func (s Segment) shift(p, tangent geom.V2, d float64) geom.V2 {
	if s.Turn != 0 { // radially, so that the arc stays on its centre
		r := s.Radius()
		return s.C.Add(p.Sub(s.C).Mul((r + d*float64(s.Turn)) / r))
	}
	return p.Sub(tangent.Left().Mul(d))
}

// collapses tells whether the arc's centre is within the offset.
func (s Segment) collapses(d float64) bool {
	return s.Turn != 0 && s.Radius()+d*float64(s.Turn) <= 0
}

// connect joins the end b of one offset segment to the start a of the next,
// around the vertex v where the originals meet. Either may lie at v itself,
// when its arc has collapsed.
func connect(s, t Segment, b, a geom.V2, d, tol float64) []Segment {
	v := t.A
	p, q := s.TangentB(), t.TangentA()
	from, to := s.shift(s.B, p, d), t.shift(t.A, q, d)
	if turnsLeft(s, t) == (d > 0) {
		if from.Dist(to) > tol { // the corner opens to that side: a sector
			side := int8(1)
			if d < 0 {
				side = -1
			}
			return bridge(append(bridge(nil, b, from), Arc(from, to, v, side)...), to, a)
		}
	}
	if b.Dist(a) <= tol {
		return bridge(nil, b, a)
	}
	return bridge(bridge(nil, b, v), v, a)
}

// turnsLeft tells whether the path turns left from s to t. At a cusp, where t
// runs back along s, the curvatures tell on which side.
func turnsLeft(s, t Segment) bool {
	p, q := s.TangentB(), t.TangentA()
	if cross := p.Cross(q); math.Abs(cross) > 1e-6 || p.Dot(q) > 0 {
		return cross > 0
	}
	return s.Curvature()+t.Curvature() < 0
}

// bridge appends the line from a to b unless the points are one.
func bridge(dst []Segment, a, b geom.V2) []Segment {
	if a == b {
		return dst
	}
	return append(dst, Line(a, b))
}
