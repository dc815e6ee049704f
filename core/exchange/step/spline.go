package step

import (
	"arete/core/brep"
	"arete/core/geom"
)

// part returns the parameters of a record of a spline, whether the spline is
// written as one simple entity, where they follow those of its supertypes, or
// as a complex one.
func part(in *instance, skip int, names ...string) []value {
	r := in.find(names...)
	if r == nil {
		return nil
	}
	if len(in.records) > 1 {
		return r.params
	}
	if len(r.params) < skip {
		return nil
	}
	return r.params[skip:]
}

var curveForms = []string{"B_SPLINE_CURVE_WITH_KNOTS", "UNIFORM_CURVE", "QUASI_UNIFORM_CURVE", "BEZIER_CURVE"}

// splineCurve reads a B-spline curve in any of its forms: name, degree,
// poles, form, closed, self-intersecting, then multiplicities and knots.
func (b *reader) splineCurve(in *instance) (brep.Curve, error) {
	base := part(in, 1, append([]string{"B_SPLINE_CURVE"}, curveForms...)...)
	if len(in.records) > 1 {
		base = part(in, 0, "B_SPLINE_CURVE")
	}
	if len(base) < 5 {
		return nil, b.bad(in, "has too few parameters")
	}
	degree := int(base[0].num)
	var poles []geom.V3
	for _, v := range base[1].list {
		p, err := b.point(v, in)
		if err != nil {
			return nil, err
		}
		poles = append(poles, p)
	}
	var mult, knots []value
	if k := part(in, 6, "B_SPLINE_CURVE_WITH_KNOTS"); len(k) > 1 {
		mult, knots = k[0].list, k[1].list
	}
	full, err := knotVector(in, degree, len(poles), mult, knots)
	if err != nil {
		return nil, b.bad(in, err.Error())
	}
	var weights []float64
	if r := in.find("RATIONAL_B_SPLINE_CURVE"); r != nil && len(r.params) > 0 {
		for _, v := range r.params[len(r.params)-1].list {
			weights = append(weights, v.num)
		}
	}
	c, err := brep.NewSpline(degree, full, poles, weights)
	if err != nil {
		return nil, b.bad(in, err.Error())
	}
	return brep.PlainCurve(c, b.unit.tol/100), nil
}

// knotVector returns the knots with their multiplicities, or those that the
// form implies.
func knotVector(in *instance, degree, poles int, mult, knots []value) ([]float64, error) {
	if degree < 1 || degree > 100 || poles > 10_000_000 {
		return nil, errDegree
	}
	var out []float64
	if len(knots) > 0 {
		if len(mult) != len(knots) {
			return nil, errKnots
		}
		for i, k := range knots {
			if mult[i].num < 1 || mult[i].num > float64(degree+1) {
				return nil, errKnots
			}
			for n := 0; n < int(mult[i].num); n++ {
				out = append(out, k.num)
			}
		}
		return out, nil
	}
	n := poles + degree + 1
	switch {
	case in.find("UNIFORM_CURVE", "UNIFORM_SURFACE") != nil:
		for i := 0; i < n; i++ {
			out = append(out, float64(i-degree))
		}
	case in.find("BEZIER_CURVE", "BEZIER_SURFACE") != nil:
		if (poles-1)%degree != 0 {
			return nil, errKnots
		}
		out = append(out, 0)
		for i := 0; i <= (poles-1)/degree; i++ {
			for k := 0; k < degree; k++ {
				out = append(out, float64(i))
			}
		}
		out = append(out, float64((poles-1)/degree))
	default: // quasi-uniform: the ends are met, knots one apart between them
		for i := 0; i < n; i++ {
			out = append(out, float64(max(0, min(i-degree, poles-degree))))
		}
	}
	return out, nil
}

// splineSurface reads a B-spline surface in any of its forms: name, degrees,
// net, form, closed u and v, self-intersecting, then multiplicities and knots.
func (b *reader) splineSurface(in *instance) (brep.Surface, error) {
	base := part(in, 1, "B_SPLINE_SURFACE_WITH_KNOTS", "UNIFORM_SURFACE", "QUASI_UNIFORM_SURFACE", "BEZIER_SURFACE", "B_SPLINE_SURFACE")
	if len(in.records) > 1 {
		base = part(in, 0, "B_SPLINE_SURFACE")
	}
	if len(base) < 7 {
		return nil, b.bad(in, "has too few parameters")
	}
	du, dv := int(base[0].num), int(base[1].num)
	var net [][]geom.V3
	for _, row := range base[2].list {
		var line []geom.V3
		for _, v := range row.list {
			p, err := b.point(v, in)
			if err != nil {
				return nil, err
			}
			line = append(line, p)
		}
		net = append(net, line)
	}
	if len(net) == 0 || len(net[0]) == 0 {
		return nil, b.bad(in, "has no control points")
	}
	var k []value
	if k = part(in, 8, "B_SPLINE_SURFACE_WITH_KNOTS"); len(k) < 4 {
		k = make([]value, 4)
	}
	ku, err := knotVector(in, du, len(net), k[0].list, k[2].list)
	if err != nil {
		return nil, b.bad(in, err.Error())
	}
	kv, err := knotVector(in, dv, len(net[0]), k[1].list, k[3].list)
	if err != nil {
		return nil, b.bad(in, err.Error())
	}
	var weights [][]float64
	if r := in.find("RATIONAL_B_SPLINE_SURFACE"); r != nil && len(r.params) > 0 {
		for _, row := range r.params[len(r.params)-1].list {
			var line []float64
			for _, v := range row.list {
				line = append(line, v.num)
			}
			weights = append(weights, line)
		}
	}
	s, err := brep.NewSplineSurface(du, dv, ku, kv, net, weights)
	if err != nil {
		return nil, b.bad(in, err.Error())
	}
	return brep.PlainSurface(s, b.unit.tol/100), nil
}
