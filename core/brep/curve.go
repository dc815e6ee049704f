package brep

import (
	"math"

	"arete/core/geom"
)

// Curve is a parametrised curve in space.
type Curve interface {
	At(t float64) geom.V3
	Tangent(t float64) geom.V3 // derivative by the parameter
	Param(p geom.V3) float64   // parameter of the point nearest to p
	Period() float64           // 0 for a curve that does not close
	Breaks() []float64         // where it is less smooth than elsewhere: knots; ends first and last when bounded
	Reverse() Curve            // the same points run the other way
	Transform(f geom.Frame) Curve
}

// Line is a straight line; its parameter is the length from P.
type Line struct{ P, D geom.V3 } // D has unit length

// Circle lies in the xy plane of its frame; its parameter is the angle from x.
type Circle struct {
	F geom.Frame
	R float64
}

// At returns the point at length t.
func (l Line) At(t float64) geom.V3 { return l.P.Add(l.D.Mul(t)) }

// Tangent returns the direction.
func (l Line) Tangent(float64) geom.V3 { return l.D }

// Param returns the length of p's foot from P.
func (l Line) Param(p geom.V3) float64 { return p.Sub(l.P).Dot(l.D) }

// Period is 0.
func (l Line) Period() float64 { return 0 }

// Breaks is empty.
func (l Line) Breaks() []float64 { return nil }

// Reverse turns the direction.
func (l Line) Reverse() Curve { return Line{l.P, l.D.Mul(-1)} }

// Transform moves the line.
func (l Line) Transform(f geom.Frame) Curve { return Line{f.ToWorld(l.P), f.Turn(l.D)} }

// At returns the point at angle t.
func (c Circle) At(t float64) geom.V3 {
	s, k := math.Sincos(t)
	return c.F.O.Add(c.F.X.Mul(c.R * k)).Add(c.F.Y.Mul(c.R * s))
}

// Tangent returns the derivative at angle t.
func (c Circle) Tangent(t float64) geom.V3 {
	s, k := math.Sincos(t)
	return c.F.X.Mul(-c.R * s).Add(c.F.Y.Mul(c.R * k))
}

// Param returns the angle of p in [0, 2π).
func (c Circle) Param(p geom.V3) float64 {
	q := c.F.ToLocal(p)
	return fullAngle(math.Atan2(q.Y, q.X))
}

// Period is a full turn.
func (c Circle) Period() float64 { return 2 * math.Pi }

// Breaks is empty.
func (c Circle) Breaks() []float64 { return nil }

// Reverse turns the frame over.
func (c Circle) Reverse() Curve { return Circle{flip(c.F), c.R} }

// Transform moves the circle.
func (c Circle) Transform(f geom.Frame) Curve { return Circle{f.Then(c.F), c.R} }

func flip(f geom.Frame) geom.Frame { return geom.Frame{O: f.O, X: f.X, Y: f.Y.Mul(-1), Z: f.Z.Mul(-1)} }

// fullAngle maps an angle of (−π, π] to [0, 2π).
func fullAngle(t float64) float64 {
	if t < 0 {
		t += 2 * math.Pi
	}
	return t
}
