package geom

import "math"

// Frame is a right-handed orthonormal coordinate system: an origin and three
// unit axes, all in the coordinates of the space around it.
type Frame struct{ O, X, Y, Z V3 }

// Identity is the frame of the surrounding space itself.
func Identity() Frame {
	return Frame{V3{}, V3{1, 0, 0}, V3{0, 1, 0}, V3{0, 0, 1}}
}

// NewFrame builds a frame from an origin, a z axis and a hint for x, as
// ISO 10303-42 builds axis2_placement_3d: x is the hint made perpendicular
// to z. A useless hint (zero or parallel to z) is replaced.
func NewFrame(o, z, xHint V3) Frame {
	z = z.Unit()
	x := xHint.Sub(z.Mul(xHint.Dot(z)))
	if x.Len() < 1e-9*(1+xHint.Len()) {
		x = z.Perpendicular()
	}
	x = x.Unit()
	return Frame{o, x, z.Cross(x), z}
}

// ToWorld maps local coordinates to the surrounding space.
func (f Frame) ToWorld(p V3) V3 { return f.O.Add(f.Turn(p)) }

// Turn maps a local direction to the surrounding space.
func (f Frame) Turn(d V3) V3 {
	return f.X.Mul(d.X).Add(f.Y.Mul(d.Y)).Add(f.Z.Mul(d.Z))
}

// ToLocal maps a point of the surrounding space to local coordinates.
func (f Frame) ToLocal(p V3) V3 { return f.TurnLocal(p.Sub(f.O)) }

// TurnLocal maps a direction of the surrounding space to local coordinates.
func (f Frame) TurnLocal(d V3) V3 { return V3{d.Dot(f.X), d.Dot(f.Y), d.Dot(f.Z)} }

// Then returns the frame g (given in f's coordinates) in f's surroundings.
func (f Frame) Then(g Frame) Frame {
	return Frame{f.ToWorld(g.O), f.Turn(g.X), f.Turn(g.Y), f.Turn(g.Z)}
}

// Inverse returns the frame that undoes f.
func (f Frame) Inverse() Frame {
	i := Frame{
		X: V3{f.X.X, f.Y.X, f.Z.X},
		Y: V3{f.X.Y, f.Y.Y, f.Z.Y},
		Z: V3{f.X.Z, f.Y.Z, f.Z.Z},
	}
	i.O = i.Turn(f.O).Mul(-1)
	return i
}

// Matrix returns the 4x4 row-major matrix of ToWorld.
func (f Frame) Matrix() [16]float64 {
	return [16]float64{
		f.X.X, f.Y.X, f.Z.X, f.O.X,
		f.X.Y, f.Y.Y, f.Z.Y, f.O.Y,
		f.X.Z, f.Y.Z, f.Z.Z, f.O.Z,
		0, 0, 0, 1,
	}
}

// Box is an axis-parallel box; the zero value of EmptyBox holds nothing.
type Box struct{ Min, Max V3 }

// EmptyBox returns the box that holds no point.
func EmptyBox() Box {
	i := math.Inf(1)
	return Box{V3{i, i, i}, V3{-i, -i, -i}}
}

// Add returns the smallest box holding b and p.
func (b Box) Add(p V3) Box {
	return Box{
		V3{math.Min(b.Min.X, p.X), math.Min(b.Min.Y, p.Y), math.Min(b.Min.Z, p.Z)},
		V3{math.Max(b.Max.X, p.X), math.Max(b.Max.Y, p.Y), math.Max(b.Max.Z, p.Z)},
	}
}

// Union returns the smallest box holding both.
func (b Box) Union(c Box) Box {
	if c.Empty() {
		return b
	}
	return b.Add(c.Min).Add(c.Max)
}

// Empty tells whether the box holds no point.
func (b Box) Empty() bool { return b.Min.X > b.Max.X }

// Size returns the edge lengths.
func (b Box) Size() V3 { return b.Max.Sub(b.Min) }

// Center returns the middle point.
func (b Box) Center() V3 { return b.Min.Lerp(b.Max, 0.5) }

// Corners returns the eight corner points.
func (b Box) Corners() [8]V3 {
	var c [8]V3
	for i := range c {
		c[i] = b.Min
		if i&1 != 0 {
			c[i].X = b.Max.X
		}
		if i&2 != 0 {
			c[i].Y = b.Max.Y
		}
		if i&4 != 0 {
			c[i].Z = b.Max.Z
		}
	}
	return c
}
