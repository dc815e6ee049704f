package brep

import (
	"math"

	"arete/core/geom"
)

// Curve is a parametrised curve in space.
type Curve interface {
	At(t float64) geom.V3
	Tangent(t float64) geom.V3 // derivative by the parameter
	Speed() float64            // length of the derivative, constant
	Param(p geom.V3) float64   // parameter of the point nearest to p
	Extremes() []float64       // parameters where a coordinate is extreme
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

// Speed is 1.
func (l Line) Speed() float64 { return 1 }

// Param returns the length of p's foot from P.
func (l Line) Param(p geom.V3) float64 { return p.Sub(l.P).Dot(l.D) }

// Extremes is empty: a line is extreme at its ends.
func (l Line) Extremes() []float64 { return nil }

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

// Speed is the radius.
func (c Circle) Speed() float64 { return c.R }

// Param returns the angle of p in [0, 2π).
func (c Circle) Param(p geom.V3) float64 {
	q := c.F.ToLocal(p)
	t := math.Atan2(q.Y, q.X)
	if t < 0 {
		t += 2 * math.Pi
	}
	return t
}

// Extremes returns the angles where x, y or z is extreme.
func (c Circle) Extremes() []float64 {
	var out []float64
	for _, e := range [3][2]float64{{c.F.X.X, c.F.Y.X}, {c.F.X.Y, c.F.Y.Y}, {c.F.X.Z, c.F.Y.Z}} {
		if math.Hypot(e[0], e[1]) > 1e-12 {
			t := math.Atan2(e[1], e[0])
			out = append(out, t, t+math.Pi)
		}
	}
	return out
}

// Transform moves the circle.
func (c Circle) Transform(f geom.Frame) Curve { return Circle{f.Then(c.F), c.R} }
