// Package geom holds points, vectors and rigid motions in the plane and in
// space. Lengths are millimetres, angles radians, axes right-handed (ISO 841
// once a setup has been chosen). It has no tolerance of its own: callers pass
// one where a decision depends on it.
package geom

import "math"

// V2 is a point or vector in the plane, mm.
type V2 struct{ X, Y float64 }

// V3 is a point or vector in space, mm.
type V3 struct{ X, Y, Z float64 }

// Add returns a + b.
func (a V2) Add(b V2) V2 { return V2{a.X + b.X, a.Y + b.Y} }

// Sub returns a − b.
func (a V2) Sub(b V2) V2 { return V2{a.X - b.X, a.Y - b.Y} }

// Mul returns the vector scaled by s.
func (a V2) Mul(s float64) V2 { return V2{a.X * s, a.Y * s} }

// Dot returns the scalar product.
func (a V2) Dot(b V2) float64 { return a.X*b.X + a.Y*b.Y }

// Cross returns the z component of a × b: positive when b lies to the left of a.
func (a V2) Cross(b V2) float64 { return a.X*b.Y - a.Y*b.X }

// Len returns the Euclidean length, safe against overflow of the squares.
func (a V2) Len() float64 { return math.Sqrt(a.X*a.X + a.Y*a.Y) }

// Dist returns the distance between two points.
func (a V2) Dist(b V2) float64 { return a.Sub(b).Len() }

// Left returns the vector turned a quarter counter-clockwise.
func (a V2) Left() V2 { return V2{-a.Y, a.X} }

// Unit returns the direction of a; the zero vector stays zero.
func (a V2) Unit() V2 {
	l := a.Len()
	if l == 0 {
		return V2{}
	}
	return V2{a.X / l, a.Y / l}
}

// Lerp returns the point at fraction t from a to b.
func (a V2) Lerp(b V2, t float64) V2 { return V2{a.X + (b.X-a.X)*t, a.Y + (b.Y-a.Y)*t} }

// Rotate turns a about the origin by an angle given as cosine and sine.
func (a V2) Rotate(cos, sin float64) V2 { return V2{a.X*cos - a.Y*sin, a.X*sin + a.Y*cos} }

// Polar returns the point at the given radius and angle from the origin.
func Polar(r, angle float64) V2 {
	s, c := math.Sincos(angle)
	return V2{r * c, r * s}
}

// Add returns a + b.
func (a V3) Add(b V3) V3 { return V3{a.X + b.X, a.Y + b.Y, a.Z + b.Z} }

// Sub returns a − b.
func (a V3) Sub(b V3) V3 { return V3{a.X - b.X, a.Y - b.Y, a.Z - b.Z} }

// Mul returns the vector scaled by s.
func (a V3) Mul(s float64) V3 { return V3{a.X * s, a.Y * s, a.Z * s} }

// Dot returns the scalar product.
func (a V3) Dot(b V3) float64 { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }

// Cross returns the vector product.
func (a V3) Cross(b V3) V3 {
	return V3{a.Y*b.Z - a.Z*b.Y, a.Z*b.X - a.X*b.Z, a.X*b.Y - a.Y*b.X}
}

// Len returns the Euclidean length.
func (a V3) Len() float64 { return math.Sqrt(a.Dot(a)) }

// Dist returns the distance between two points.
func (a V3) Dist(b V3) float64 { return a.Sub(b).Len() }

// Unit returns the direction of a; the zero vector stays zero.
func (a V3) Unit() V3 {
	l := a.Len()
	if l == 0 {
		return V3{}
	}
	return a.Mul(1 / l)
}

// Lerp returns the point at fraction t from a to b.
func (a V3) Lerp(b V3, t float64) V3 { return a.Add(b.Sub(a).Mul(t)) }

// XY drops the height.
func (a V3) XY() V2 { return V2{a.X, a.Y} }

// At gives a point of the plane a height.
func (a V2) At(z float64) V3 { return V3{a.X, a.Y, z} }

// Perpendicular returns some unit vector at right angles to a, always the
// same one for the same a.
func (a V3) Perpendicular() V3 {
	o := V3{1, 0, 0}
	if math.Abs(a.X) > 0.8*a.Len() {
		o = V3{0, 1, 0}
	}
	return o.Sub(a.Mul(o.Dot(a) / a.Dot(a))).Unit()
}
