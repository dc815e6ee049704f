package brep

import (
	"math"

	"arete/core/geom"
)

// vertexBox returns the box of the corner points and points of the edges
// between them: close to the real box, and quickly found.
func (s *Solid) vertexBox() geom.Box {
	b := geom.EmptyBox()
	for _, e := range s.Edges {
		b = b.Add(e.A.P).Add(e.B.P)
		if _, straight := e.Curve.(Line); !straight {
			for k := 1.0; k < 4; k++ {
				b = b.Add(e.Curve.At(e.T0 + (e.T1-e.T0)*k/4))
			}
		}
	}
	for _, f := range s.Faces {
		if closedSurface(f.Surface) && len(s.Edges) == 0 {
			b = f.sampled(b)
		}
	}
	return b
}

// sampled adds points of a face without boundary to a box.
func (f *Face) sampled(b geom.Box) geom.Box {
	rings, _, err := f.rings(math.Inf(1))
	if err != nil {
		return b
	}
	lo, hi := rings[0].bounds()
	const n = 8
	for i := range n + 1 {
		for j := range n + 1 {
			b = b.Add(f.Surface.At(geom.V2{X: lo.X + (hi.X-lo.X)*float64(i)/n, Y: lo.Y + (hi.Y-lo.Y)*float64(j)/n}))
		}
	}
	return b
}

// Box returns the box around the solid: its edges' extremes, and those inside
// faces that bulge.
func (s *Solid) Box() geom.Box {
	b := geom.EmptyBox()
	for _, e := range s.Edges {
		b = e.grow(b)
	}
	for _, f := range s.Faces {
		if bulges(f.Surface) {
			b = f.grow(b)
		}
	}
	return b
}

// Box returns the box around a face whose edges reach as far as it does, false
// for faces that bulge.
func (f *Face) Box() (geom.Box, bool) {
	b := geom.EmptyBox()
	if bulges(f.Surface) {
		return b, false
	}
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			b = c.Edge.grow(b)
		}
		if l.Point != nil {
			b = b.Add(l.Point.P)
		}
	}
	return b, !b.Empty()
}

// bulges tells whether a face can reach farther than its edges: not where
// straight lines run through every point.
func bulges(s Surface) bool {
	switch s.(type) {
	case Plane, Cylinder, Cone, Extrusion:
		return false
	}
	return true
}

// grow adds the edge to a box, to about 1e-6 mm.
func (e *Edge) grow(b geom.Box) geom.Box {
	b = b.Add(e.A.P).Add(e.B.P)
	switch c := e.Curve.(type) {
	case Line:
		return b
	case Circle:
		return growArc(b, c.F, c.R, c.R, e.T0, e.T1)
	case Ellipse:
		return growArc(b, c.F, c.A, c.B, e.T0, e.T1)
	}
	ts := e.divide(within30(math.Inf(1)))
	for i := 1; i < len(ts); i++ {
		for k := 0.0; k < 4; k++ {
			lo, hi := ts[i-1]+(ts[i]-ts[i-1])*k/4, ts[i-1]+(ts[i]-ts[i-1])*(k+1)/4
			b = b.Add(e.Curve.At(lo))
			d0, d1 := e.Curve.Tangent(lo), e.Curve.Tangent(hi)
			for _, a := range axes3 {
				if d0.Dot(a)*d1.Dot(a) < 0 {
					b = b.Add(e.Curve.At(flat(e.Curve, a, lo, hi)))
				}
			}
		}
	}
	return b
}

var axes3 = [3]geom.V3{{X: 1}, {Y: 1}, {Z: 1}}

// flat finds by bisection where the tangent is at right angles to a.
func flat(c Curve, a geom.V3, lo, hi float64) float64 {
	rising := c.Tangent(lo).Dot(a) > 0
	for k := 0; k < 50; k++ {
		mid := (lo + hi) / 2
		if (c.Tangent(mid).Dot(a) > 0) == rising {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2
}

// growArc adds the extremes of an elliptic arc.
func growArc(b geom.Box, f geom.Frame, rx, ry, t0, t1 float64) geom.Box {
	for _, a := range axes3 {
		x, y := rx*f.X.Dot(a), ry*f.Y.Dot(a)
		if math.Hypot(x, y) < 1e-12 {
			continue
		}
		top := math.Atan2(y, x)
		for k := -2.0; k <= 4; k++ {
			if t := top + k*math.Pi; t > t0 && t < t1 {
				s, c := math.Sincos(t)
				b = b.Add(f.O.Add(f.X.Mul(rx * c)).Add(f.Y.Mul(ry * s)))
			}
		}
	}
	return b
}

// grow adds a bulging face to a box: the best of a grid of points inside its
// outline in each direction, followed uphill. Only tops count: where the way
// ends at the boundary, the edge there is extreme.
func (f *Face) grow(b geom.Box) geom.Box {
	rings, bl, err := f.rings(0.01)
	if err != nil {
		return b
	}
	for _, r := range rings {
		for _, id := range r.id {
			b = b.Add(bl.m.Points[id])
		}
	}
	lo, hi := rings[0].bounds()
	const n = 24
	cell := hi.Sub(lo).Mul(1.0 / n)
	var top [6]struct { // the farthest along each axis and against it
		uv geom.V2
		at float64
	}
	found := false
	for i := 0.5; i < n; i++ {
		for j := 0.5; j < n; j++ {
			uv := geom.V2{X: lo.X + cell.X*i, Y: lo.Y + cell.Y*j}
			if !covered(rings, uv) {
				continue
			}
			p := f.Surface.At(uv)
			for k, at := range [6]float64{p.X, -p.X, p.Y, -p.Y, p.Z, -p.Z} {
				if !found || at > top[k].at {
					top[k].uv, top[k].at = uv, at
				}
			}
			found = true
		}
	}
	for k := 0; found && k < len(top); k++ {
		d := axes3[k/2].Mul(float64(1 - 2*(k%2)))
		uv := climb(f.Surface, rings, top[k].uv, cell, d)
		if math.Abs(normal(f.Surface, uv).Dot(d)) > 1-1e-5 {
			b = b.Add(f.Surface.At(uv))
		}
	}
	return b
}

// Covers tells whether a point of the face's surface lies in the face.
func (f *Face) Covers(p geom.V3) bool {
	rings, _, err := f.rings(0.01)
	return err == nil && covered(rings, f.Surface.Param(p))
}

// covered tells whether uv lies in the outer ring and in none of the others.
func covered(rings []ring, uv geom.V2) bool {
	for i, r := range rings {
		if r.contains(uv) != (i == 0) {
			return false
		}
	}
	return true
}

// climb follows a pattern search uphill along d and returns where it ends.
func climb(s Surface, rings []ring, uv, cell geom.V2, d geom.V3) geom.V2 {
	top := s.At(uv)
	for k := 0; k < 60 && (cell.X > 0 || cell.Y > 0); k++ {
		moved := false
		for _, e := range [8]geom.V2{{X: 1}, {X: -1}, {Y: 1}, {Y: -1}, {X: 1, Y: 1}, {X: -1, Y: 1}, {X: 1, Y: -1}, {X: -1, Y: -1}} {
			next := uv.Add(geom.V2{X: e.X * cell.X, Y: e.Y * cell.Y})
			if p := s.At(next); p.Dot(d) > top.Dot(d)+1e-12 && covered(rings, next) {
				uv, top, moved = next, p, true
			}
		}
		if !moved {
			cell = cell.Mul(0.5)
		}
	}
	return uv
}
