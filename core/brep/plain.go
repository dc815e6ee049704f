package brep

import (
	"errors"
	"math"

	"arete/core/geom"
)

// NewPolyline returns the chain of straight pieces through points.
func NewPolyline(pts []geom.V3) (Curve, error) {
	if len(pts) < 2 {
		return nil, errors.New("has fewer than two points")
	}
	if len(pts) == 2 {
		return Line{pts[0], pts[1].Sub(pts[0]).Unit()}, nil
	}
	knots := make([]float64, len(pts)+2)
	for i := range knots {
		knots[i] = float64(max(0, min(i-1, len(pts)-1)))
	}
	return NewSpline(1, knots, pts, nil)
}

// PlainCurve returns the line or circle that a spline is within tol, else the
// spline itself: writers of files often hide one in the other.
func PlainCurve(s *Spline, tol float64) Curve {
	a, z := s.At(s.lo), s.At(s.hi)
	if straightRow(s.poles, a, z, tol) {
		return Line{a, z.Sub(a).Unit()}
	}
	if c, ok := circleOf(s, tol); ok {
		return c
	}
	return s
}

// straightRow tells whether poles go straight from a to z without turning
// back.
func straightRow(poles []geom.V3, a, z geom.V3, tol float64) bool {
	d := z.Sub(a)
	if d.Len() < 10*tol {
		return false
	}
	u := d.Unit()
	last := math.Inf(-1)
	for _, p := range poles {
		along := p.Sub(a).Dot(u)
		if p.Sub(a).Sub(u.Mul(along)).Len() > tol || along < last-tol {
			return false
		}
		last = along
	}
	return true
}

// circleOf fits a circle through three points and tries the rest.
func circleOf(s *Spline, tol float64) (Circle, bool) {
	span := s.hi - s.lo
	a, b, c := s.At(s.lo), s.At(s.lo+span*0.31), s.At(s.lo+span*0.63)
	n := b.Sub(a).Cross(c.Sub(a))
	if n.Len() < 1e-9 {
		return Circle{}, false
	}
	o, r := circumcentre(a, b, c, n)
	f := geom.NewFrame(o, n, a.Sub(o))
	if f.TurnLocal(s.Tangent(s.lo)).Y < 0 {
		f = flip(f)
	}
	if r > 1e4 {
		return Circle{}, false
	}
	const k = 64
	for i := 0; i <= k; i++ {
		q := f.ToLocal(s.At(s.lo + span*float64(i)/k))
		if math.Abs(q.Z) > tol || math.Abs(math.Hypot(q.X, q.Y)-r) > tol {
			return Circle{}, false
		}
	}
	return Circle{f, r}, true
}

// circumcentre returns centre and radius of the circle through three points.
func circumcentre(a, b, c, n geom.V3) (geom.V3, float64) {
	u, v := b.Sub(a), c.Sub(a)
	o := a.Add(n.Cross(u).Mul(v.Dot(v)).Add(v.Cross(n).Mul(u.Dot(u))).Mul(1 / (2 * n.Dot(n))))
	return o, o.Dist(a)
}

// PlainSurface returns the plane that a spline surface is within tol, or the
// cylinder; else the surface itself. The normal keeps its side.
func PlainSurface(s *SplineSurface, tol float64) Surface {
	mid := s.lo.Lerp(s.hi, 0.5)
	n := normal(s, mid)
	o := s.At(mid)
	flatAll := true
	for _, p := range s.poles {
		if math.Abs(p.Sub(o).Dot(n)) > tol {
			flatAll = false
			break
		}
	}
	if flatAll {
		du, _ := s.Diff(mid)
		return Plane{geom.NewFrame(o, n, du)}
	}
	return s
}

// Extruded returns the surface swept by a curve along d: a plane, a cylinder
// or in general an Extrusion. The normal of a plainer surface may be the
// opposite one, which is told.
func Extruded(c Curve, d geom.V3) (s Surface, opposite bool) {
	d = d.Unit()
	switch c := c.(type) {
	case Line:
		if n := c.D.Cross(d); n.Len() > 1e-9 {
			return Plane{geom.NewFrame(c.P, n, c.D)}, false
		}
	case Circle:
		if a := c.F.Z.Dot(d); math.Abs(a) > 1-1e-12 {
			return Cylinder(c), a < 0
		}
	}
	return NewExtrusion(c, d), false
}

// Revolved returns the surface swept by a curve about z of a frame: a
// cylinder, cone, plane, sphere or torus, or in general a Revolution. The
// normal of a plainer surface may be the opposite one, which is told.
func Revolved(f geom.Frame, c Curve) (s Surface, opposite bool) {
	rev := NewRevolution(f, c)
	var plain Surface
	var at float64
	switch c := c.(type) {
	case Line:
		plain, at = revolvedLine(f, c)
	case Circle:
		plain, at = revolvedCircle(f, c), outermost(f, c)
	}
	if plain == nil {
		return rev, false
	}
	uv := geom.V2{X: 0.3, Y: at}
	return plain, normal(plain, plain.Param(rev.At(uv))).Dot(normal(rev, uv)) < 0
}

func revolvedLine(f geom.Frame, c Line) (Surface, float64) {
	p, d := f.ToLocal(c.P), f.TurnLocal(c.D)
	if p.XY().Cross(d.XY()) > 1e-9*(1+p.XY().Len()) || p.XY().Cross(d.XY()) < -1e-9*(1+p.XY().Len()) {
		return nil, 0 // askew: a hyperboloid
	}
	radial := p.XY()
	if radial.Len() < 1e-9 {
		radial = d.XY()
	}
	if radial.Len() < 1e-12 {
		return nil, 0
	}
	e := radial.Unit()
	slope := d.XY().Dot(e)
	switch {
	case math.Abs(d.XY().Len()) < 1e-12:
		return Cylinder{geom.Frame{O: f.O, X: f.X, Y: f.Y, Z: f.Z}, p.XY().Len()}, 0
	case math.Abs(d.Z) < 1e-12:
		o := f.ToWorld(geom.V3{Z: p.Z})
		at := (1 - p.XY().Dot(e)) / slope
		if math.Abs(at) < 1e-9 {
			at = 2 / slope
		}
		return Plane{geom.Frame{O: o, X: f.X, Y: f.Y, Z: f.Z}}, at
	}
	r := p.XY().Dot(e) - p.Z*slope/d.Z
	half := math.Atan(slope / d.Z)
	o := f.O
	if r < 0 {
		o, r = f.ToWorld(geom.V3{Z: 2 * -r / math.Tan(half)}), -r
	}
	return Cone{geom.Frame{O: o, X: f.X, Y: f.Y, Z: f.Z}, r, half}, (math.Abs(p.Z) + 1) / d.Z
}

// outermost returns the parameter of the circle's point farthest from the
// axis, a little aside.
func outermost(f geom.Frame, c Circle) float64 {
	e := f.ToLocal(c.F.O).XY()
	if e.Len() < 1e-9 {
		e = f.TurnLocal(c.F.X).XY()
	}
	if e.Len() < 1e-9 {
		e = f.TurnLocal(c.F.Y).XY()
	}
	return c.Param(c.F.O.Add(f.Turn(e.Unit().Mul(c.R).At(0)))) + 1e-3
}

func revolvedCircle(f geom.Frame, c Circle) Surface {
	o, z := f.ToLocal(c.F.O), f.TurnLocal(c.F.Z)
	e := o.XY()
	if math.Abs(z.Z) > 1e-9 || math.Abs(e.Dot(z.XY())) > 1e-9*(1+e.Len()) {
		return nil
	}
	at := geom.Frame{O: f.ToWorld(geom.V3{Z: o.Z}), X: f.X, Y: f.Y, Z: f.Z}
	if e.Len() < 1e-9 {
		return Sphere{at, c.R}
	}
	return Torus{F: at, Major: e.Len(), Minor: c.R} // see ChooseSheet when it crosses itself
}

// NewOffset returns the surface at a distance along the normal of a base;
// that of a plane, cylinder, sphere, cone or torus is one itself.
func NewOffset(base Surface, d float64) Surface {
	switch s := base.(type) {
	case Plane:
		s.F.O = s.F.O.Add(s.F.Z.Mul(d))
		return s
	case Cylinder:
		if s.R+d > 0 {
			return Cylinder{s.F, s.R + d}
		}
	case Sphere:
		if s.R+d > 0 {
			return Sphere{s.F, s.R + d}
		}
	case Torus:
		if s.Minor+d > 0 && s.Minor+d < s.Major {
			return Torus{s.F, s.Major, s.Minor + d, s.Inner}
		}
	case Cone:
		sin, cos := math.Sincos(s.Half)
		s.F.O = s.F.O.Sub(s.F.Z.Mul(d * sin))
		if s.R+d*cos >= 0 {
			return Cone{s.F, s.R + d*cos, s.Half}
		}
	}
	return Offset{base, d}
}
