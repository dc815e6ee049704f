package brep

import (
	"math"

	"arete/core/geom"
)

// Extrusion moves a curve along a direction: S(u, v) = Curve(u) + v·D.
type Extrusion struct {
	Curve Curve
	D     geom.V3 // unit length
	find  *finder
}

// Revolution turns a curve about the z axis of a frame: u is the angle, v the
// parameter of the curve.
type Revolution struct {
	F     geom.Frame
	Curve Curve
	find  *finder
	poles []Pole
}

// Offset runs at a signed distance along the normal of its base.
type Offset struct {
	Base Surface
	Dist float64
}

// shadowCurve is a curve seen without what the sweep adds: along a direction,
// or as (radius, 0, height).
type shadowCurve struct {
	Curve
	see func(p geom.V3) geom.V3
}

// At returns the point as seen.
func (c shadowCurve) At(t float64) geom.V3 { return c.see(c.Curve.At(t)) }

// Tangent returns the derivative of the point as seen, by differences.
func (c shadowCurve) Tangent(t float64) geom.V3 {
	h := 1e-6 * (1 + math.Abs(t))
	return c.At(t + h).Sub(c.At(t - h)).Mul(0.5 / h)
}

// rangeOf returns the range of a curve's parameter, for swept surfaces.
func rangeOf(c Curve) (lo, hi float64) {
	if b := c.Breaks(); len(b) > 1 {
		return b[0], b[len(b)-1]
	}
	if p := c.Period(); p > 0 {
		return 0, p
	}
	return -10, 10 // parabola, hyperbola: Newton leaves it when needed
}

// pieces returns the breaks of a curve's range.
func pieces(c Curve) []float64 {
	if b := c.Breaks(); len(b) > 1 {
		return b
	}
	lo, hi := rangeOf(c)
	return []float64{lo, lo + (hi-lo)/4, (lo + hi) / 2, hi - (hi-lo)/4, hi}
}

// NewExtrusion returns the surface swept by a curve along d.
func NewExtrusion(c Curve, d geom.V3) Extrusion {
	d = d.Unit()
	see := func(p geom.V3) geom.V3 { return p.Sub(d.Mul(p.Dot(d))) }
	return Extrusion{c, d, newFinder(shadowCurve{c, see}, pieces(c), 8)}
}

// Kind is other.
func (s Extrusion) Kind() Kind { return KindOther }

// At returns Curve(u) + v·D.
func (s Extrusion) At(uv geom.V2) geom.V3 { return s.Curve.At(uv.X).Add(s.D.Mul(uv.Y)) }

// Diff returns the tangent of the curve and the direction.
func (s Extrusion) Diff(uv geom.V2) (du, dv geom.V3) { return s.Curve.Tangent(uv.X), s.D }

// Param returns the parameters of p.
func (s Extrusion) Param(p geom.V3) geom.V2 {
	lo, hi := rangeOf(s.Curve)
	u := s.find.nearest(p.Sub(s.D.Mul(p.Dot(s.D))), lo, hi, s.Curve.Period() > 0)
	return geom.V2{X: u, Y: p.Sub(s.Curve.At(u)).Dot(s.D)}
}

// Periods is that of the curve in u.
func (s Extrusion) Periods() (u, v float64) { return s.Curve.Period(), 0 }

// Poles are none.
func (s Extrusion) Poles() []Pole { return nil }

// Breaks are those of the curve in u.
func (s Extrusion) Breaks() (u, v []float64) { return s.Curve.Breaks(), nil }

// Transform moves the surface.
func (s Extrusion) Transform(f geom.Frame) Surface {
	return NewExtrusion(s.Curve.Transform(f), f.Turn(s.D))
}

// NewRevolution returns the surface swept by a curve about z of the frame.
func NewRevolution(f geom.Frame, c Curve) Revolution {
	s := Revolution{F: f, Curve: c}
	s.find = newFinder(shadowCurve{c, s.profile}, pieces(c), 8)
	lo, hi := rangeOf(c)
	if c.Period() == 0 && len(c.Breaks()) > 1 {
		for _, t := range []float64{lo, hi} {
			if p := c.At(t); s.profile(p).X < 1e-7 {
				s.poles = append(s.poles, Pole{At: t, P: p})
			}
		}
	}
	return s
}

// profile returns (distance from the axis, 0, height).
func (s Revolution) profile(p geom.V3) geom.V3 {
	q := s.F.ToLocal(p)
	return geom.V3{X: math.Hypot(q.X, q.Y), Z: q.Z}
}

// Kind is other.
func (s Revolution) Kind() Kind { return KindOther }

// turned returns local p turned by u about the axis.
func (s Revolution) turned(p geom.V3, u float64) geom.V3 {
	sin, cos := math.Sincos(u)
	return p.XY().Rotate(cos, sin).At(p.Z)
}

// At returns the curve's point at v turned by u.
func (s Revolution) At(uv geom.V2) geom.V3 {
	return s.F.ToWorld(s.turned(s.F.ToLocal(s.Curve.At(uv.Y)), uv.X))
}

// Diff returns the derivatives by angle and along the curve.
func (s Revolution) Diff(uv geom.V2) (du, dv geom.V3) {
	q := s.turned(s.F.ToLocal(s.Curve.At(uv.Y)), uv.X)
	return s.F.Turn(q.XY().Left().At(0)), s.F.Turn(s.turned(s.F.TurnLocal(s.Curve.Tangent(uv.Y)), uv.X))
}

// Param returns the parameters of p.
func (s Revolution) Param(p geom.V3) geom.V2 {
	lo, hi := rangeOf(s.Curve)
	v := s.find.nearest(s.profile(p), lo, hi, s.Curve.Period() > 0)
	q, c := s.F.ToLocal(p), s.F.ToLocal(s.Curve.At(v))
	u := math.Atan2(q.Y, q.X) - math.Atan2(c.Y, c.X)
	return geom.V2{X: math.Remainder(u, 2*math.Pi), Y: v}
}

// Periods is a turn in u, and that of the curve in v.
func (s Revolution) Periods() (u, v float64) { return 2 * math.Pi, s.Curve.Period() }

// Poles are the ends of the curve on the axis.
func (s Revolution) Poles() []Pole { return s.poles }

// Breaks are those of the curve in v.
func (s Revolution) Breaks() (u, v []float64) { return nil, s.Curve.Breaks() }

// Transform moves the surface.
func (s Revolution) Transform(f geom.Frame) Surface {
	return NewRevolution(f.Then(s.F), s.Curve.Transform(f))
}

// Kind is other.
func (s Offset) Kind() Kind { return KindOther }

// At returns the base's point moved along its normal.
func (s Offset) At(uv geom.V2) geom.V3 {
	return s.Base.At(uv).Add(normal(s.Base, uv).Mul(s.Dist))
}

// Diff returns the derivatives; those of the normal by differences.
func (s Offset) Diff(uv geom.V2) (du, dv geom.V3) {
	du, dv = s.Base.Diff(uv)
	hu, hv := 1e-5/math.Max(1e-3, du.Len()), 1e-5/math.Max(1e-3, dv.Len())
	slope := func(e geom.V2, h float64) geom.V3 {
		return normal(s.Base, uv.Add(e)).Sub(normal(s.Base, uv.Sub(e))).Mul(s.Dist / (2 * h))
	}
	return du.Add(slope(geom.V2{X: hu}, hu)), dv.Add(slope(geom.V2{Y: hv}, hv))
}

// Param repeatedly drops p to the base along the normal found before.
func (s Offset) Param(p geom.V3) geom.V2 { return s.ParamNear(p, s.Base.Param(p)) }

// ParamNear does so from a guess.
func (s Offset) ParamNear(p geom.V3, uv geom.V2) geom.V2 {
	for k := 0; k < 50; k++ {
		next := paramNear(s.Base, p.Sub(normal(s.Base, uv).Mul(s.Dist)), uv)
		if next.Dist(uv) < 1e-13*(1+uv.Len()) {
			return next
		}
		uv = next
	}
	return uv
}

// Periods are those of the base.
func (s Offset) Periods() (u, v float64) { return s.Base.Periods() }

// Poles are those of the base, moved along.
func (s Offset) Poles() []Pole {
	var out []Pole
	for _, p := range s.Base.Poles() {
		lo := geom.V2{Y: p.At}
		if p.U {
			lo = geom.V2{X: p.At}
		}
		out = append(out, Pole{p.U, p.At, s.At(lo)})
	}
	return out
}

// Breaks are those of the base.
func (s Offset) Breaks() (u, v []float64) { return s.Base.Breaks() }

// Transform moves the surface.
func (s Offset) Transform(f geom.Frame) Surface { return Offset{s.Base.Transform(f), s.Dist} }
