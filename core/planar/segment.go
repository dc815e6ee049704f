// Package planar computes with regions of the plane bounded by straight lines
// and circular arcs: union, difference, intersection, offset, clipping of
// curves, distances. Arcs stay arcs; nothing is replaced by chords.
//
// A region is a set of closed loops with the material on the left of the
// direction of travel: outer loops run counter-clockwise, holes clockwise.
// Lengths are mm. All decisions that depend on nearness take a tolerance;
// results move by no more than a few tolerances.
//
// The method is an arrangement with winding numbers: all pieces are cut where
// they meet, each piece learns the winding number on its two sides, and a rule
// says which sides are inside. Offsetting reduces to the same: the sum of the
// region and one positively oriented strip a segment. See offset.go.
package planar

import (
	"math"

	"arete/core/geom"
)

// Segment is a directed line (Turn 0) or arc (Turn +1 counter-clockwise, −1
// clockwise) from A to B; C is the centre of an arc. Arcs span at most half a
// circle; longer ones are stored as several segments.
type Segment struct {
	A, B, C geom.V2
	Turn    int8
}

// Line returns the straight segment from a to b.
func Line(a, b geom.V2) Segment { return Segment{A: a, B: b} }

// Arc returns the arc from a to b about c as segments of at most half a
// circle; turn is +1 or −1. Equal ends give the full circle.
func Arc(a, b, c geom.V2, turn int8) []Segment {
	ra, rb := a.Sub(c), b.Sub(c)
	sweep := math.Atan2(ra.Cross(rb), ra.Dot(rb)) * float64(turn)
	if a == b || sweep < 0 {
		sweep += 2 * math.Pi
	}
	if sweep <= math.Pi*(1+1e-12) {
		return []Segment{{a, b, c, turn}}
	}
	half := float64(turn) * sweep / 2
	m := c.Add(ra.Rotate(math.Cos(half), math.Sin(half)))
	return []Segment{{a, m, c, turn}, {m, b, c, turn}}
}

// Circle returns the loop around c with radius r, counter-clockwise.
func Circle(c geom.V2, r float64) Loop {
	e, w := c.Add(geom.V2{X: r}), c.Sub(geom.V2{X: r})
	return Loop{{e, w, c, 1}, {w, e, c, 1}}
}

// IsArc tells whether the segment is curved.
func (s Segment) IsArc() bool { return s.Turn != 0 }

// Radius returns the radius of an arc, taken at its start.
func (s Segment) Radius() float64 { return s.A.Dist(s.C) }

// Sweep returns the signed angle of an arc, 0 for a line.
func (s Segment) Sweep() float64 {
	if s.Turn == 0 {
		return 0
	}
	ra, rb := s.A.Sub(s.C), s.B.Sub(s.C)
	w := math.Atan2(ra.Cross(rb), ra.Dot(rb))
	if t := float64(s.Turn); w*t < -math.Pi/2 {
		w += t * 2 * math.Pi
	}
	return w
}

// Len returns the length of the segment.
func (s Segment) Len() float64 {
	if s.Turn == 0 {
		return s.A.Dist(s.B)
	}
	return math.Abs(s.Sweep()) * s.Radius()
}

// At returns the point at fraction t of the length.
func (s Segment) At(t float64) geom.V2 {
	if s.Turn == 0 || t == 0 {
		return s.A.Lerp(s.B, t)
	}
	if t == 1 {
		return s.B
	}
	w := s.Sweep() * t
	return s.C.Add(s.A.Sub(s.C).Rotate(math.Cos(w), math.Sin(w)))
}

// Reverse returns the same curve run the other way.
func (s Segment) Reverse() Segment { return Segment{s.B, s.A, s.C, -s.Turn} }

// TangentA returns the unit direction of travel at the start.
func (s Segment) TangentA() geom.V2 { return s.tangent(s.A) }

// TangentB returns the unit direction of travel at the end.
func (s Segment) TangentB() geom.V2 { return s.tangent(s.B) }

func (s Segment) tangent(p geom.V2) geom.V2 {
	if s.Turn == 0 {
		return s.B.Sub(s.A).Unit()
	}
	return p.Sub(s.C).Left().Mul(float64(s.Turn)).Unit()
}

// Curvature returns the signed curvature 1/mm, positive to the left.
func (s Segment) Curvature() float64 {
	if s.Turn == 0 {
		return 0
	}
	return float64(s.Turn) / s.Radius()
}

// Bounds returns the lower left and upper right corner of the segment's box.
func (s Segment) Bounds() (lo, hi geom.V2) {
	lo = geom.V2{X: math.Min(s.A.X, s.B.X), Y: math.Min(s.A.Y, s.B.Y)}
	hi = geom.V2{X: math.Max(s.A.X, s.B.X), Y: math.Max(s.A.Y, s.B.Y)}
	if s.Turn == 0 {
		return lo, hi
	}
	r := s.Radius()
	for k := 0; k < 4; k++ {
		e := s.C.Add(quarter[k].Mul(r))
		if s.spans(e) {
			lo = geom.V2{X: math.Min(lo.X, e.X), Y: math.Min(lo.Y, e.Y)}
			hi = geom.V2{X: math.Max(hi.X, e.X), Y: math.Max(hi.Y, e.Y)}
		}
	}
	return lo, hi
}

var quarter = [4]geom.V2{{X: 1}, {Y: 1}, {X: -1}, {Y: -1}}

// spans tells whether the direction of p from the centre lies strictly
// within the arc's angle.
func (s Segment) spans(p geom.V2) bool {
	t := float64(s.Turn)
	a, b, d := s.A.Sub(s.C), s.B.Sub(s.C), p.Sub(s.C)
	if sweep := s.Sweep() * t; sweep <= 0 {
		return false // shorter than rounding: the ends were snapped together
	} else if sweep > math.Pi-1e-9 {
		return a.Cross(d)*t > 0
	}
	return a.Cross(d)*t > 0 && d.Cross(b)*t > 0
}

// Nearest returns the point of the segment closest to p.
func (s Segment) Nearest(p geom.V2) geom.V2 {
	if s.Turn == 0 {
		d := s.B.Sub(s.A)
		l := d.Dot(d)
		if l == 0 {
			return s.A
		}
		t := p.Sub(s.A).Dot(d) / l
		return s.A.Lerp(s.B, math.Max(0, math.Min(1, t)))
	}
	if p.Dist(s.C) == 0 { // as far from every point
		return s.A
	}
	if s.spans(p) {
		return s.C.Add(p.Sub(s.C).Unit().Mul(s.Radius()))
	}
	if p.Dist(s.A) <= p.Dist(s.B) {
		return s.A
	}
	return s.B
}

// Dist returns the distance of p from the segment.
func (s Segment) Dist(p geom.V2) float64 { return p.Dist(s.Nearest(p)) }

// area returns the signed area between the segment and the origin.
func (s Segment) area() float64 {
	a := s.A.Cross(s.B) / 2
	if s.Turn != 0 {
		w := s.Sweep()
		r := s.Radius()
		a += r * r / 2 * (w - math.Sin(w))
	}
	return a
}

// fraction returns how far along the segment the point on it lies, 0 to 1.
func (s Segment) fraction(p geom.V2) float64 {
	if s.Turn == 0 {
		d := s.B.Sub(s.A)
		if l := d.Dot(d); l > 0 {
			return p.Sub(s.A).Dot(d) / l
		}
		return 0
	}
	a, b := s.A.Sub(s.C), p.Sub(s.C)
	if w := s.Sweep(); w != 0 {
		return math.Atan2(a.Cross(b), a.Dot(b)) / w
	}
	return 0
}
