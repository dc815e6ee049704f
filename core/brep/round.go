package brep

import (
	"math"

	"arete/core/geom"
)

// Sphere has its centre at the frame's origin; u is the longitude about z, v
// the latitude. Its normal points away from the centre.
type Sphere struct {
	F geom.Frame
	R float64
}

// Torus turns a circle of radius Minor, whose centre runs at the distance
// Major, about z of its frame; u is the angle about the axis, v the one
// around the tube, from outside upward. When Minor ≥ Major it crosses itself;
// Inner tells that only the part inside the crossing is meant (the lemon),
// otherwise the part outside (the apple).
type Torus struct {
	F            geom.Frame
	Major, Minor float64
	Inner        bool
}

// Kind is sphere.
func (s Sphere) Kind() Kind { return KindSphere }

// At returns the point at longitude u and latitude v.
func (s Sphere) At(uv geom.V2) geom.V3 {
	sin, cos := math.Sincos(uv.Y)
	return s.F.ToWorld(geom.Polar(s.R*cos, uv.X).At(s.R * sin))
}

// Diff returns the derivatives by longitude and latitude.
func (s Sphere) Diff(uv geom.V2) (du, dv geom.V3) {
	sin, cos := math.Sincos(uv.Y)
	e := geom.Polar(s.R, uv.X)
	return s.F.Turn(e.Left().Mul(cos).At(0)), s.F.Turn(e.Mul(-sin).At(s.R * cos))
}

// Param returns longitude and latitude of p.
func (s Sphere) Param(p geom.V3) geom.V2 {
	q := s.F.ToLocal(p)
	return geom.V2{X: math.Atan2(q.Y, q.X), Y: math.Atan2(q.Z, math.Hypot(q.X, q.Y))}
}

// Periods is a turn in u.
func (s Sphere) Periods() (u, v float64) { return 2 * math.Pi, 0 }

// Poles are the two of the axis.
func (s Sphere) Poles() []Pole {
	return []Pole{{At: -math.Pi / 2, P: s.F.ToWorld(geom.V3{Z: -s.R})}, {At: math.Pi / 2, P: s.F.ToWorld(geom.V3{Z: s.R})}}
}

// Breaks are the poles.
func (s Sphere) Breaks() (u, v []float64) { return nil, []float64{-math.Pi / 2, math.Pi / 2} }

// Transform moves the sphere.
func (s Sphere) Transform(f geom.Frame) Surface { return Sphere{f.Then(s.F), s.R} }

// Kind is torus.
func (s Torus) Kind() Kind { return KindTorus }

// At returns the point at angle u about the axis and v around the tube.
func (s Torus) At(uv geom.V2) geom.V3 {
	sin, cos := math.Sincos(uv.Y)
	return s.F.ToWorld(geom.Polar(s.Major+s.Minor*cos, uv.X).At(s.Minor * sin))
}

// Diff returns the derivatives by both angles.
func (s Torus) Diff(uv geom.V2) (du, dv geom.V3) {
	sin, cos := math.Sincos(uv.Y)
	e := geom.Polar(1, uv.X)
	return s.F.Turn(e.Left().Mul(s.Major + s.Minor*cos).At(0)), s.F.Turn(e.Mul(-s.Minor * sin).At(s.Minor * cos))
}

// Param returns both angles of p.
func (s Torus) Param(p geom.V3) geom.V2 {
	q := s.F.ToLocal(p)
	rho, u := math.Hypot(q.X, q.Y), math.Atan2(q.Y, q.X)
	if s.Inner {
		rho, u = -rho, math.Atan2(-q.Y, -q.X)
	}
	v := math.Atan2(q.Z, rho-s.Major)
	if s.Inner {
		v = fullAngle(v)
	}
	return geom.V2{X: u, Y: v}
}

// Periods is a turn in u, and one in v unless the torus crosses itself.
func (s Torus) Periods() (u, v float64) {
	if s.degenerate() {
		return 2 * math.Pi, 0
	}
	return 2 * math.Pi, 2 * math.Pi
}

func (s Torus) degenerate() bool { return s.Minor >= s.Major*(1-1e-12) }

// limit is the angle v at which the tube meets the axis.
func (s Torus) limit() float64 { return math.Acos(math.Max(-1, -s.Major/s.Minor)) }

// Poles are where a torus that crosses itself meets its axis.
func (s Torus) Poles() []Pole {
	if !s.degenerate() {
		return nil
	}
	lim := s.limit()
	z := s.Minor * math.Sin(lim)
	low, high := Pole{At: -lim, P: s.F.ToWorld(geom.V3{Z: -z})}, Pole{At: lim, P: s.F.ToWorld(geom.V3{Z: z})}
	if s.Inner {
		high.At, low.At = lim, 2*math.Pi-lim
		return []Pole{high, low}
	}
	return []Pole{low, high}
}

// Breaks are the poles.
func (s Torus) Breaks() (u, v []float64) {
	if p := s.Poles(); p != nil {
		return nil, []float64{p[0].At, p[1].At}
	}
	return nil, nil
}

// Transform moves the torus.
func (s Torus) Transform(f geom.Frame) Surface {
	return Torus{f.Then(s.F), s.Major, s.Minor, s.Inner}
}

// ChooseSheet decides for a face on a torus that crosses itself which part it
// lies on: the one that its corners are on.
func (f *Face) ChooseSheet() {
	t, ok := f.Surface.(Torus)
	if !ok || !t.degenerate() {
		return
	}
	off := [2]float64{}
	for i, inner := range [2]bool{t.Inner, !t.Inner} {
		t.Inner = inner
		for _, l := range f.Loops {
			for _, c := range l.Coedges {
				p, _ := c.Edge.Mid()
				off[i] += t.At(t.Param(p)).Dist(p)
			}
		}
	}
	if off[0] <= off[1] {
		t.Inner = !t.Inner
	}
	f.Surface = t
}
