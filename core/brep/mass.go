package brep

import (
	"math"

	"arete/core/geom"
)

// Area returns the area of the face in mm².
func (f *Face) Area() float64 {
	a, _ := f.integrate(geom.V3{})
	return math.Abs(a)
}

// Mass returns volume (mm³) and surface area (mm²) of the solid, by Green's
// theorem on every face: the integrals over v are closed forms of the surface,
// those along the edges Gauss–Legendre sums, exact to rounding for lines and
// circles. The volume is negative when the faces point inward.
func (s *Solid) Mass() (volume, area float64) {
	c := s.Box().Center()
	for _, f := range s.Faces {
		a, v := f.integrate(c)
		area += math.Abs(a)
		volume += v / 3
	}
	return volume, area
}

// integrate returns the signed area and the flux of (P − c) through the face.
func (f *Face) integrate(c geom.V3) (area, flux float64) {
	for _, l := range f.Loops {
		for _, ce := range l.Coedges {
			e := ce.Edge
			n := 1
			if _, round := e.Curve.(Circle); round {
				n = 1 + int((e.T1-e.T0)/(math.Pi/4))
			}
			h := (e.T1 - e.T0) / float64(n)
			sign := -1.0
			if !ce.Forward {
				sign = 1
			}
			for i := 0; i < n; i++ {
				mid := e.T0 + (float64(i)+0.5)*h
				for k, x := range gaussNode {
					t := mid + x*h/2
					p := e.Curve.At(t)
					w := sign * gaussWeight[k] * h / 2 * f.Surface.du(p, e.Curve.Tangent(t))
					a, v := f.Surface.flux(f.Surface.Param(p), c)
					area += w * a
					flux += w * v
				}
			}
		}
	}
	return area, flux
}

// Nodes and weights of the eight-point Gauss–Legendre rule on [−1, 1]
// (Abramowitz and Stegun, table 25.4).
var (
	gaussNode = [8]float64{-0.960289856497536, -0.796666477413627, -0.525532409916329, -0.183434642495650,
		0.183434642495650, 0.525532409916329, 0.796666477413627, 0.960289856497536}
	gaussWeight = [8]float64{0.101228536290376, 0.222381034453374, 0.313706645877887, 0.362683783378362,
		0.362683783378362, 0.313706645877887, 0.222381034453374, 0.101228536290376}
)
