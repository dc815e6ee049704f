package planar

import (
	"math"

	"arete/core/geom"
)

// meet appends the points where two segments cross or touch within tol,
// including ends that lie on the other segment and the ends of overlaps. Where
// two of these lie apart, they are all: a crossing computed between them would
// only be the rounding of a stretch that both run along, and a third segment
// along it would not know of it.
func meet(dst []geom.V2, s, t Segment, tol float64) []geom.V2 {
	had := len(dst)
	for _, p := range [2]geom.V2{t.A, t.B} {
		if s.Dist(p) <= tol {
			dst = append(dst, p)
		}
	}
	for _, p := range [2]geom.V2{s.A, s.B} {
		if t.Dist(p) <= tol {
			dst = append(dst, p)
		}
	}
	for _, p := range dst[had:] {
		if p.Dist(dst[had]) > 8*tol {
			return dst
		}
	}
	switch {
	case s.Turn == 0 && t.Turn == 0:
		return meetLines(dst, s, t, tol)
	case s.Turn == 0:
		return meetLineArc(dst, s, t, tol)
	case t.Turn == 0:
		return meetLineArc(dst, t, s, tol)
	}
	return meetArcs(dst, s, t, tol)
}

func meetLines(dst []geom.V2, s, t Segment, tol float64) []geom.V2 {
	d, e := s.B.Sub(s.A), t.B.Sub(t.A)
	den := d.Cross(e)
	if math.Abs(den) < 1e-14*d.Len()*e.Len() || den == 0 {
		return dst
	}
	u := t.A.Sub(s.A).Cross(e) / den
	p := s.A.Add(d.Mul(u))
	if s.Dist(p) <= tol && t.Dist(p) <= tol {
		dst = append(dst, p)
	}
	return dst
}

func meetLineArc(dst []geom.V2, l, a Segment, tol float64) []geom.V2 {
	d := l.B.Sub(l.A).Unit()
	m := a.C.Sub(l.A)
	foot := l.A.Add(d.Mul(m.Dot(d)))
	h := math.Abs(d.Cross(m))
	r := a.Radius()
	if h > r+tol {
		return dst
	}
	k := 0.0
	if h < r {
		k = math.Sqrt((r - h) * (r + h))
	}
	for _, p := range [2]geom.V2{foot.Sub(d.Mul(k)), foot.Add(d.Mul(k))} {
		if l.Dist(p) <= tol && a.Dist(p) <= tol {
			dst = append(dst, p)
		}
	}
	return dst
}

func meetArcs(dst []geom.V2, s, t Segment, tol float64) []geom.V2 {
	r, q := s.Radius(), t.Radius()
	v := t.C.Sub(s.C)
	d := v.Len()
	if d < 1e-12*(r+q) || d > r+q+tol || d < math.Abs(r-q)-tol {
		return dst
	}
	x := (d*d + (r-q)*(r+q)) / (2 * d)
	h := 0.0
	if h2 := (r - x) * (r + x); h2 > 0 {
		h = math.Sqrt(h2)
	}
	e := v.Mul(1 / d)
	foot := s.C.Add(e.Mul(x))
	for _, p := range [2]geom.V2{foot.Add(e.Left().Mul(h)), foot.Sub(e.Left().Mul(h))} {
		if s.Dist(p) <= tol && t.Dist(p) <= tol {
			dst = append(dst, p)
		}
	}
	return dst
}

// Touch returns a point where two loops come within tol of each other.
func Touch(a, b Loop, tol float64) (geom.V2, bool) {
	for _, s := range a {
		lo, hi := s.Bounds()
		for _, t := range b {
			l, h := t.Bounds()
			if l.X > hi.X+tol || h.X < lo.X-tol || l.Y > hi.Y+tol || h.Y < lo.Y-tol {
				continue
			}
			if p := meet(nil, s, t, tol); len(p) > 0 {
				return p[0], true
			}
		}
	}
	return geom.V2{}, false
}
