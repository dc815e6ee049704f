package step

import (
	"arete/core/brep"
	"arete/core/geom"
)

// maxChain bounds how many curves or surfaces may stand for each other.
const maxChain = 8

// curve reads a curve in space.
func (b *reader) curve(v value, from *instance, depth int) (brep.Curve, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	if depth > maxChain {
		return nil, b.bad(in, "refers to itself")
	}
	if r := in.find("B_SPLINE_CURVE", "B_SPLINE_CURVE_WITH_KNOTS", "UNIFORM_CURVE", "QUASI_UNIFORM_CURVE", "BEZIER_CURVE"); r != nil {
		return b.splineCurve(in)
	}
	r := &in.records[0]
	if len(in.records) > 1 { // a complex instance: the record with a basis
		if s := in.find("SURFACE_CURVE", "SEAM_CURVE", "INTERSECTION_CURVE", "TRIMMED_CURVE"); s != nil {
			r = s
		}
	}
	if len(r.params) < 2 {
		return nil, b.unsupported(in)
	}
	switch r.name {
	case "SURFACE_CURVE", "SEAM_CURVE", "INTERSECTION_CURVE", "BOUNDED_SURFACE_CURVE":
		return b.curve(r.params[1], in, depth+1)
	case "TRIMMED_CURVE":
		c, err := b.curve(r.params[1], in, depth+1)
		if err == nil && len(r.params) > 4 && !isTrue(r.params[4]) {
			c = c.Reverse()
		}
		return c, err
	case "LINE":
		return b.line(in, r)
	case "POLYLINE":
		return b.polyline(in, r)
	case "COMPOSITE_CURVE":
		return b.composite(in, r, depth)
	case "CIRCLE", "ELLIPSE", "PARABOLA", "HYPERBOLA":
		return b.conic(in, r)
	}
	return nil, b.unsupported(in)
}

func (b *reader) line(in *instance, r *record) (brep.Curve, error) {
	if len(r.params) < 3 {
		return nil, b.bad(in, "has too few parameters")
	}
	p, err := b.point(r.params[1], in)
	if err != nil {
		return nil, err
	}
	d, err := b.vector(r.params[2], in)
	return brep.Line{P: p, D: d}, err
}

// vector reads the direction of a VECTOR.
func (b *reader) vector(v value, from *instance) (geom.V3, error) {
	vec, vr, err := b.want(v, from, 2, "VECTOR")
	if err != nil {
		return geom.V3{}, err
	}
	return b.direction(vr.params[1], vec)
}

func (b *reader) conic(in *instance, r *record) (brep.Curve, error) {
	if len(r.params) < 3 {
		return nil, b.bad(in, "has too few parameters")
	}
	f, err := b.frame(r.params[1], in)
	if err != nil {
		return nil, err
	}
	a := r.params[2].num * b.unit.length
	c := a
	if len(r.params) > 3 {
		c = r.params[3].num * b.unit.length
	}
	if !(a > 0) || !(c > 0) {
		return nil, b.bad(in, "has no positive radius")
	}
	switch r.name {
	case "CIRCLE":
		return brep.Circle{F: f, R: a}, nil
	case "ELLIPSE":
		return brep.Ellipse{F: f, A: a, B: c}, nil
	case "PARABOLA":
		return brep.Parabola{F: f, Focal: a}, nil
	}
	return brep.Hyperbola{F: f, A: a, B: c}, nil
}

// polyline reads a chain of straight pieces.
func (b *reader) polyline(in *instance, r *record) (brep.Curve, error) {
	var pts []geom.V3
	for _, v := range r.params[1].list {
		p, err := b.point(v, in)
		if err != nil {
			return nil, err
		}
		if n := len(pts); n == 0 || pts[n-1].Dist(p) > 1e-9 {
			pts = append(pts, p)
		}
	}
	return b.chain(in, pts)
}

func (b *reader) chain(in *instance, pts []geom.V3) (brep.Curve, error) {
	c, err := brep.NewPolyline(pts)
	if err != nil {
		return nil, b.bad(in, err.Error())
	}
	return c, nil
}

// composite reads a chain of curves as a polyline within a micrometre.
func (b *reader) composite(in *instance, r *record, depth int) (brep.Curve, error) {
	var pts []geom.V3
	for _, v := range r.params[1].list {
		seg, sr, err := b.want(v, in, 3, "COMPOSITE_CURVE_SEGMENT")
		if err != nil {
			return nil, err
		}
		piece, err := b.bounded(sr.params[2], seg, depth+1)
		if err != nil {
			return nil, err
		}
		if !isTrue(sr.params[1]) {
			for i, j := 0, len(piece)-1; i < j; i, j = i+1, j-1 {
				piece[i], piece[j] = piece[j], piece[i]
			}
		}
		if n := len(pts); n > 0 && len(piece) > 0 && pts[n-1].Dist(piece[0]) < 0.01 {
			piece = piece[1:]
		}
		pts = append(pts, piece...)
	}
	return b.chain(in, pts)
}

// bounded returns points of a bounded curve, from its trims or its knots.
func (b *reader) bounded(v value, from *instance, depth int) ([]geom.V3, error) {
	c, err := b.curve(v, from, depth)
	if err != nil {
		return nil, err
	}
	e := &brep.Edge{Curve: c}
	in, _ := b.ex.get(v.ref)
	if r := in.find("TRIMMED_CURVE"); r != nil && len(r.params) > 4 {
		if e.T0, err = b.trim(r.params[2], c, in); err != nil {
			return nil, err
		}
		if e.T1, err = b.trim(r.params[3], c, in); err != nil {
			return nil, err
		}
		if p := c.Period(); p > 0 && e.T1 <= e.T0 {
			e.T1 += p
		}
	} else if br := c.Breaks(); len(br) > 1 {
		e.T0, e.T1 = br[0], br[len(br)-1]
	} else if p := c.Period(); p > 0 {
		e.T1 = p
	} else {
		return nil, b.bad(in, "has no ends")
	}
	e.A, e.B = &brep.Vertex{P: c.At(e.T0)}, &brep.Vertex{P: c.At(e.T1)}
	return e.Points(1e-3), nil
}

// trim reads an end of a trimmed curve: a point if there is one, else its
// parameter.
func (b *reader) trim(v value, c brep.Curve, in *instance) (float64, error) {
	for _, t := range v.list {
		if t.kind == kRef {
			p, err := b.point(t, in)
			return c.Param(p), err
		}
	}
	for _, t := range v.list {
		if t.kind == kTyped && len(t.list) == 1 {
			if c.Period() > 0 {
				return t.list[0].num * b.unit.angle, nil
			}
			return t.list[0].num * b.unit.length, nil
		}
	}
	return 0, b.bad(in, "has no ends")
}
