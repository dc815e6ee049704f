package dxf

import (
	"math"
	"strconv"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
)

// chain returns an entity's curve; known is false for what is no curve.
func (e entity) chain(at motion) (l planar.Loop, closed, known bool) {
	here := at.after(e.mirror())
	p := geom.V2{X: e.num(10, 0), Y: e.num(20, 0)}
	switch e.kind {
	case "LINE": // in the drawing's own coordinates whatever its extrusion
		q := geom.V2{X: e.num(11, 0), Y: e.num(21, 0)}
		if p == q {
			return nil, false, true
		}
		return planar.Loop{planar.Line(at.of(p), at.of(q))}, false, true
	case "CIRCLE":
		r := e.num(40, 0)
		if !(r > 0) {
			return nil, false, true
		}
		return here.segments(planar.Circle(p, r)), true, true
	case "ARC":
		r := e.num(40, 0)
		a, b := e.num(50, 0)*math.Pi/180, e.num(51, 0)*math.Pi/180
		if !(r > 0) || a == b {
			return nil, false, true
		}
		return here.segments(planar.Arc(p.Add(geom.Polar(r, a)), p.Add(geom.Polar(r, b)), p, 1)), false, true
	case "LWPOLYLINE":
		return here.segments(polyline(e.corners(), int(e.num(70, 0))&1 != 0)), int(e.num(70, 0))&1 != 0, true
	case "POLYLINE":
		if flags := int(e.num(70, 0)); flags&(8|16|64) == 0 { // in the plane
			var all []corner
			for _, v := range e.verts {
				if int(v.num(70, 0))&16 == 0 { // not of a spline's frame
					all = append(all, corner{geom.V2{X: v.num(10, 0), Y: v.num(20, 0)}, v.num(42, 0)})
				}
			}
			return here.segments(polyline(all, flags&1 != 0)), flags&1 != 0, true
		}
	case "ELLIPSE":
		l, closed = e.ellipse(at)
		return l, closed, true
	case "SPLINE":
		l, closed = e.spline(at)
		return l, closed, true
	}
	return nil, false, false
}

// corner is a vertex with the bulge of the way to the next: the tangent of a
// quarter of the arc's angle, positive counter-clockwise.
type corner struct {
	p     geom.V2
	bulge float64
}

func (e entity) corners() []corner {
	var out []corner
	for _, g := range e.groups {
		v, err := strconv.ParseFloat(g.value, 64)
		switch {
		case err != nil:
		case g.code == 10:
			out = append(out, corner{p: geom.V2{X: v}})
		case g.code == 20 && len(out) > 0:
			out[len(out)-1].p.Y = v
		case g.code == 42 && len(out) > 0:
			out[len(out)-1].bulge = v
		}
	}
	return out
}

func polyline(all []corner, closed bool) planar.Loop {
	var out planar.Loop
	for i, c := range all {
		if i == len(all)-1 && !closed {
			break
		}
		d := all[(i+1)%len(all)].p
		switch v := d.Sub(c.p); {
		case v.Len() < 1e-9:
		case math.Abs(c.bulge) < 1e-9:
			out = append(out, planar.Line(c.p, d))
		default: // the centre lies off the chord's middle
			k := (1 - c.bulge*c.bulge) / (4 * c.bulge)
			turn := int8(1)
			if c.bulge < 0 {
				turn = -1
			}
			out = append(out, planar.Arc(c.p, d, c.p.Lerp(d, 0.5).Add(v.Left().Mul(k)), turn)...)
		}
	}
	return out
}

// ellipse runs from parameter 41 to 42 about its centre; its axes are given in
// the drawing's own coordinates.
func (e entity) ellipse(at motion) (planar.Loop, bool) {
	c, major := geom.V2{X: e.num(10, 0), Y: e.num(20, 0)}, geom.V2{X: e.num(11, 0), Y: e.num(21, 0)}
	minor := major.Left().Mul(e.num(40, 0))
	if e.num(230, 1) < 0 {
		minor = minor.Mul(-1)
	}
	t0, t1 := e.num(41, 0), e.num(42, 2*math.Pi)
	if t1 <= t0 {
		t1 += 2 * math.Pi
	}
	if major.Len() == 0 || minor.Len() == 0 || t1-t0 > 2*math.Pi+1e-6 {
		return nil, false
	}
	w := t1 - t0
	return fit(func(t float64) (geom.V2, geom.V2) {
		sin, cos := math.Sincos(t0 + w*t)
		return at.of(c.Add(major.Mul(cos)).Add(minor.Mul(sin))), at.turn(minor.Mul(cos).Sub(major.Mul(sin)).Mul(w))
	}, 8), w > 2*math.Pi-1e-6
}

// spline evaluates the curve from knots, poles and weights; one given by fit
// points alone goes straight between them.
func (e entity) spline(at motion) (planar.Loop, bool) {
	var knots, weights []float64
	var poles, through []geom.V3
	for _, g := range e.groups {
		v, err := strconv.ParseFloat(g.value, 64)
		if err != nil {
			continue
		}
		switch g.code {
		case 40:
			knots = append(knots, v)
		case 41:
			weights = append(weights, v)
		case 10:
			poles = append(poles, geom.V3{X: v})
		case 20:
			if len(poles) > 0 {
				poles[len(poles)-1].Y = v
			}
		case 11:
			through = append(through, geom.V3{X: v})
		case 21:
			if len(through) > 0 {
				through[len(through)-1].Y = v
			}
		}
	}
	closed := int(e.num(70, 0))&1 != 0
	if len(poles) == 0 {
		var all []corner
		for _, p := range through {
			all = append(all, corner{p: p.XY()})
		}
		return at.segments(polyline(all, closed)), closed
	}
	s, err := brep.NewSpline(int(e.num(71, 3)), knots, poles, weights)
	if err != nil {
		return nil, false
	}
	stops := s.Breaks()
	var out planar.Loop
	for i := 1; i < len(stops); i++ {
		a, b := stops[i-1], stops[i]
		out = append(out, fit(func(t float64) (geom.V2, geom.V2) {
			at3 := a + (b-a)*math.Min(1-1e-12, math.Max(1e-12, t)) // one-sided tangents at knots
			return at.of(s.At(a + (b-a)*t).XY()), at.turn(s.Tangent(at3).XY())
		}, 2)...)
	}
	return out, len(out) > 0 && out[0].A.Dist(out[len(out)-1].B) < 1e-6
}
