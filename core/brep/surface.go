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
)

// Surface is an unbounded surface with parameters (u, v).
type Surface interface {
	Kind() Kind
	Normal(p geom.V3) geom.V3 // unit normal of the surface at p
	Param(p geom.V3) geom.V2
	At(uv geom.V2) geom.V3
	Periodic() bool // u is an angle
	Transform(f geom.Frame) Surface

	// du returns the change of u along d at p.
	du(p, d geom.V3) float64
	// flux returns the integrals over v, from a fixed v0, of the area element
	// and of (P − c)·n times the area element.
	flux(uv geom.V2, c geom.V3) (area, volume float64)
	// aspect returns the lengths of unit steps in u and v for triangulation.
	aspect() (float64, float64)
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

// Normal is the plane's z.
func (s Plane) Normal(geom.V3) geom.V3 { return s.F.Z }

// Param returns the plane's x and y of p.
func (s Plane) Param(p geom.V3) geom.V2 { return s.F.ToLocal(p).XY() }

// At returns the point with plane coordinates uv.
func (s Plane) At(uv geom.V2) geom.V3 { return s.F.ToWorld(uv.At(0)) }

// Periodic is false.
func (s Plane) Periodic() bool { return false }

// Transform moves the plane.
func (s Plane) Transform(f geom.Frame) Surface { return Plane{f.Then(s.F)} }

func (s Plane) du(_, d geom.V3) float64 { return d.Dot(s.F.X) }

func (s Plane) flux(uv geom.V2, c geom.V3) (float64, float64) {
	return uv.Y, uv.Y * s.F.O.Sub(c).Dot(s.F.Z)
}

func (s Plane) aspect() (float64, float64) { return 1, 1 }

// Kind is cylinder.
func (s Cylinder) Kind() Kind { return KindCylinder }

// Normal points from the axis to p.
func (s Cylinder) Normal(p geom.V3) geom.V3 {
	q := s.F.ToLocal(p)
	return s.F.Turn(geom.V3{X: q.X, Y: q.Y}).Unit()
}

// Param returns angle and height of p.
func (s Cylinder) Param(p geom.V3) geom.V2 {
	q := s.F.ToLocal(p)
	return geom.V2{X: math.Atan2(q.Y, q.X), Y: q.Z}
}

// At returns the point at angle u and height v.
func (s Cylinder) At(uv geom.V2) geom.V3 {
	return s.F.ToWorld(geom.Polar(s.R, uv.X).At(uv.Y))
}

// Periodic is true.
func (s Cylinder) Periodic() bool { return true }

// Transform moves the cylinder.
func (s Cylinder) Transform(f geom.Frame) Surface { return Cylinder{f.Then(s.F), s.R} }

func (s Cylinder) du(p, d geom.V3) float64 { return turnRate(s.F, p, d) }

func (s Cylinder) flux(uv geom.V2, c geom.V3) (float64, float64) {
	e := s.F.Turn(geom.Polar(1, uv.X).At(0))
	return s.R * uv.Y, s.R * uv.Y * (s.F.O.Sub(c).Dot(e) + s.R)
}

func (s Cylinder) aspect() (float64, float64) { return s.R * angleStretch, 1 }

// angleStretch makes triangulations of curved faces prefer edges along the
// rulings, which lie on the surface.
const angleStretch = 30

// turnRate returns the change of angle about z of the frame along d at p.
func turnRate(f geom.Frame, p, d geom.V3) float64 {
	q, e := f.ToLocal(p), f.TurnLocal(d)
	r2 := q.X*q.X + q.Y*q.Y
	if r2 == 0 {
		return 0
	}
	return (q.X*e.Y - q.Y*e.X) / r2
}

// Kind is cone.
func (s Cone) Kind() Kind { return KindCone }

// Normal points away from the axis, at right angles to the flank.
func (s Cone) Normal(p geom.V3) geom.V3 {
	q := s.F.ToLocal(p)
	e := geom.V2{X: q.X, Y: q.Y}.Unit()
	sin, cos := math.Sincos(s.Half)
	return s.F.Turn(geom.V3{X: e.X * cos, Y: e.Y * cos, Z: -sin}).Unit()
}

// Param returns angle and height of p.
func (s Cone) Param(p geom.V3) geom.V2 { return Cylinder{F: s.F}.Param(p) }

// At returns the point at angle u and height v.
func (s Cone) At(uv geom.V2) geom.V3 {
	return s.F.ToWorld(geom.Polar(s.RadiusAt(uv.Y), uv.X).At(uv.Y))
}

// RadiusAt returns the radius at height v above the frame's origin.
func (s Cone) RadiusAt(v float64) float64 { return s.R + v*math.Tan(s.Half) }

// Apex returns the point where the radius is zero.
func (s Cone) Apex() geom.V3 { return s.F.ToWorld(geom.V3{Z: -s.R / math.Tan(s.Half)}) }

// Periodic is true.
func (s Cone) Periodic() bool { return true }

// Transform moves the cone.
func (s Cone) Transform(f geom.Frame) Surface { return Cone{f.Then(s.F), s.R, s.Half} }

func (s Cone) du(p, d geom.V3) float64 { return turnRate(s.F, p, d) }

func (s Cone) flux(uv geom.V2, c geom.V3) (float64, float64) {
	sin, cos := math.Sincos(s.Half)
	r := s.RadiusAt(uv.Y)
	a := r * r / (2 * sin)
	e := s.F.Turn(geom.Polar(cos, uv.X).At(-sin))
	return a, a * (s.F.O.Sub(c).Dot(e) + s.R*cos)
}

func (s Cone) aspect() (float64, float64) { return math.Max(s.R, 1) * angleStretch, 1 }
