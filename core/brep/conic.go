package brep

import (
	"math"

	"arete/core/geom"
)

// Ellipse lies in the xy plane of its frame with half axes A along x and B
// along y; its parameter is the eccentric angle.
type Ellipse struct {
	F    geom.Frame
	A, B float64
}

// Parabola has its vertex at the frame's origin and opens along x: the point
// at t is Focal·(t², 2t).
type Parabola struct {
	F     geom.Frame
	Focal float64
}

// Hyperbola is the branch along +x of the frame: the point at t is
// (A cosh t, B sinh t).
type Hyperbola struct {
	F    geom.Frame
	A, B float64
}

// At returns the point at eccentric angle t.
func (c Ellipse) At(t float64) geom.V3 {
	s, k := math.Sincos(t)
	return c.F.ToWorld(geom.V3{X: c.A * k, Y: c.B * s})
}

// Tangent returns the derivative.
func (c Ellipse) Tangent(t float64) geom.V3 {
	s, k := math.Sincos(t)
	return c.F.Turn(geom.V3{X: -c.A * s, Y: c.B * k})
}

// Param returns the eccentric angle of a point of the ellipse, in [0, 2π).
func (c Ellipse) Param(p geom.V3) float64 {
	q := c.F.ToLocal(p)
	return fullAngle(math.Atan2(q.Y/c.B, q.X/c.A))
}

// Period is a full turn.
func (c Ellipse) Period() float64 { return 2 * math.Pi }

// Breaks is empty.
func (c Ellipse) Breaks() []float64 { return nil }

// Reverse turns the frame over.
func (c Ellipse) Reverse() Curve { return Ellipse{flip(c.F), c.A, c.B} }

// Transform moves the ellipse.
func (c Ellipse) Transform(f geom.Frame) Curve { return Ellipse{f.Then(c.F), c.A, c.B} }

// At returns Focal·(t², 2t).
func (c Parabola) At(t float64) geom.V3 {
	return c.F.ToWorld(geom.V3{X: c.Focal * t * t, Y: 2 * c.Focal * t})
}

// Tangent returns the derivative.
func (c Parabola) Tangent(t float64) geom.V3 {
	return c.F.Turn(geom.V3{X: 2 * c.Focal * t, Y: 2 * c.Focal})
}

// Param returns t of a point of the parabola.
func (c Parabola) Param(p geom.V3) float64 { return c.F.ToLocal(p).Y / (2 * c.Focal) }

// Period is 0.
func (c Parabola) Period() float64 { return 0 }

// Breaks is empty.
func (c Parabola) Breaks() []float64 { return nil }

// Reverse turns the frame over.
func (c Parabola) Reverse() Curve { return Parabola{flip(c.F), c.Focal} }

// Transform moves the parabola.
func (c Parabola) Transform(f geom.Frame) Curve { return Parabola{f.Then(c.F), c.Focal} }

// At returns (A cosh t, B sinh t).
func (c Hyperbola) At(t float64) geom.V3 {
	return c.F.ToWorld(geom.V3{X: c.A * math.Cosh(t), Y: c.B * math.Sinh(t)})
}

// Tangent returns the derivative.
func (c Hyperbola) Tangent(t float64) geom.V3 {
	return c.F.Turn(geom.V3{X: c.A * math.Sinh(t), Y: c.B * math.Cosh(t)})
}

// Param returns t of a point of the hyperbola.
func (c Hyperbola) Param(p geom.V3) float64 { return math.Asinh(c.F.ToLocal(p).Y / c.B) }

// Period is 0.
func (c Hyperbola) Period() float64 { return 0 }

// Breaks is empty.
func (c Hyperbola) Breaks() []float64 { return nil }

// Reverse turns the frame over.
func (c Hyperbola) Reverse() Curve { return Hyperbola{flip(c.F), c.A, c.B} }

// Transform moves the hyperbola.
func (c Hyperbola) Transform(f geom.Frame) Curve { return Hyperbola{f.Then(c.F), c.A, c.B} }
