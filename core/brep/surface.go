package brep

import (
	"math"

	"arete/core/geom"
)

// Kind names a surface as ISO 10303-42 does.
type Kind string

// The kinds of surfaces.
const (
	KindPlane    Kind = "plane"
	KindCylinder Kind = "cylinder"
	KindCone     Kind = "cone"
	KindSphere   Kind = "sphere"
	KindTorus    Kind = "torus"
	KindSpline   Kind = "bspline"
	KindOther    Kind = "other" // extruded, revolved and offset surfaces
)

// Surface is an unbounded surface with parameters (u, v).
type Surface interface {
	Kind() Kind
	At(uv geom.V2) geom.V3
	Diff(uv geom.V2) (du, dv geom.V3) // derivatives by the parameters
	Param(p geom.V3) geom.V2          // of the point nearest to p
	Periods() (u, v float64)          // 0 where the surface does not close
	Poles() []Pole                    // where a line of the parameters shrinks to a point
	Breaks() (u, v []float64)         // knots; the bounds of a bounded surface first and last
	Transform(f geom.Frame) Surface
}

// Pole is a line of constant v (or, when U is set, of constant u) that is a
// single point in space, such as the apex of a cone.
type Pole struct {
	U  bool
	At float64
	P  geom.V3
}

// tracker is a surface that finds parameters faster from a guess nearby.
type tracker interface {
	ParamNear(p geom.V3, guess geom.V2) geom.V2
}

// paramNear inverts a surface, from a guess if that helps.
func paramNear(s Surface, p geom.V3, guess geom.V2) geom.V2 {
	if t, ok := s.(tracker); ok {
		return t.ParamNear(p, guess)
	}
	return s.Param(p)
}

// normal returns the unit normal du × dv at the parameters; at a pole that of
// a point close by.
func normal(s Surface, uv geom.V2) geom.V3 {
	du, dv := s.Diff(uv)
	if n := du.Cross(dv); n.Len() > 1e-9*(du.Len()*dv.Len()) && n.Len() > 1e-14 {
		return n.Unit()
	}
	for _, e := range [4]geom.V2{{X: 0, Y: -1e-5}, {X: 0, Y: 1e-5}, {X: -1e-5}, {X: 1e-5}} {
		du, dv = s.Diff(uv.Add(e))
		if n := du.Cross(dv); n.Len() > 1e-9*(du.Len()*dv.Len()) && n.Len() > 1e-14 {
			return n.Unit()
		}
	}
	return geom.V3{Z: 1}
}

// Plane is the xy plane of its frame, normal z.
type Plane struct{ F geom.Frame }

// Cylinder runs along z of its frame; its normal points away from the axis.
type Cylinder struct {
	F geom.Frame
	R float64
}

// Cone runs along z of its frame with radius R at the origin, growing with
// z by tan Half; its normal points away from the axis.
type Cone struct {
	F       geom.Frame
	R, Half float64
}

// Kind is plane.
func (s Plane) Kind() Kind { return KindPlane }

// Param returns the plane's x and y of p.
func (s Plane) Param(p geom.V3) geom.V2 { return s.F.ToLocal(p).XY() }

// At returns the point with plane coordinates uv.
func (s Plane) At(uv geom.V2) geom.V3 { return s.F.ToWorld(uv.At(0)) }

// Diff returns the frame's x and y.
func (s Plane) Diff(geom.V2) (du, dv geom.V3) { return s.F.X, s.F.Y }

// Periods are none.
func (s Plane) Periods() (u, v float64) { return 0, 0 }

// Poles are none.
func (s Plane) Poles() []Pole { return nil }

// Breaks are none.
func (s Plane) Breaks() (u, v []float64) { return nil, nil }

// Transform moves the plane.
func (s Plane) Transform(f geom.Frame) Surface { return Plane{f.Then(s.F)} }

// Kind is cylinder.
func (s Cylinder) Kind() Kind { return KindCylinder }

// Param returns angle and height of p.
func (s Cylinder) Param(p geom.V3) geom.V2 {
	q := s.F.ToLocal(p)
	return geom.V2{X: math.Atan2(q.Y, q.X), Y: q.Z}
}

// At returns the point at angle u and height v.
func (s Cylinder) At(uv geom.V2) geom.V3 {
	return s.F.ToWorld(geom.Polar(s.R, uv.X).At(uv.Y))
}

// Diff returns the tangent of the circle and the axis.
func (s Cylinder) Diff(uv geom.V2) (du, dv geom.V3) {
	return s.F.Turn(geom.Polar(s.R, uv.X).Left().At(0)), s.F.Z
}

// Periods is a turn in u.
func (s Cylinder) Periods() (u, v float64) { return 2 * math.Pi, 0 }

// Poles are none.
func (s Cylinder) Poles() []Pole { return nil }

// Breaks are none.
func (s Cylinder) Breaks() (u, v []float64) { return nil, nil }

// Transform moves the cylinder.
func (s Cylinder) Transform(f geom.Frame) Surface { return Cylinder{f.Then(s.F), s.R} }

// Kind is cone.
func (s Cone) Kind() Kind { return KindCone }

// Param returns angle and height of p.
func (s Cone) Param(p geom.V3) geom.V2 {
	q := s.F.ToLocal(p)
	if s.RadiusAt(q.Z) < 0 { // the nappe beyond the apex
		return geom.V2{X: math.Atan2(-q.Y, -q.X), Y: q.Z}
	}
	return geom.V2{X: math.Atan2(q.Y, q.X), Y: q.Z}
}

// At returns the point at angle u and height v.
func (s Cone) At(uv geom.V2) geom.V3 {
	return s.F.ToWorld(geom.Polar(s.RadiusAt(uv.Y), uv.X).At(uv.Y))
}

// Diff returns the derivatives by angle and height.
func (s Cone) Diff(uv geom.V2) (du, dv geom.V3) {
	e := geom.Polar(1, uv.X)
	return s.F.Turn(e.Left().Mul(s.RadiusAt(uv.Y)).At(0)), s.F.Turn(e.Mul(math.Tan(s.Half)).At(1))
}

// RadiusAt returns the radius at height v above the frame's origin.
func (s Cone) RadiusAt(v float64) float64 { return s.R + v*math.Tan(s.Half) }

// Apex returns the point where the radius is zero.
func (s Cone) Apex() geom.V3 { return s.F.ToWorld(geom.V3{Z: -s.R / math.Tan(s.Half)}) }

// Periods is a turn in u.
func (s Cone) Periods() (u, v float64) { return 2 * math.Pi, 0 }

// Poles is the apex.
func (s Cone) Poles() []Pole {
	return []Pole{{At: -s.R / math.Tan(s.Half), P: s.Apex()}}
}

// Breaks are none.
func (s Cone) Breaks() (u, v []float64) { return nil, nil }

// Transform moves the cone.
func (s Cone) Transform(f geom.Frame) Surface { return Cone{f.Then(s.F), s.R, s.Half} }
