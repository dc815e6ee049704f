package removal

import (
	"math"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
)

// Cut lowers the dexels that the tool sweeps on one move that begins at time
// t0 and takes dt, and returns the volume removed, mm³.
func (g *Grid) Cut(t tooling.Tool, from geom.V3, m motion.Move, t0, dt float64) float64 {
	if m.IsArc() && math.Abs(m.To.Z-from.Z) > 1e-9 {
		return g.helix(t, from, m, t0, dt)
	}
	if math.Min(from.Z, m.To.Z) >= g.Top {
		return 0
	}
	s := newSweep(t, from, m)
	lo, hi := s.bounds()
	i0, i1 := span(lo.X-g.Min.X, hi.X-g.Min.X, g.DX, g.NX)
	j0, j1 := span(lo.Y-g.Min.Y, hi.Y-g.Min.Y, g.DY, g.NY)
	removed := 0.0
	for j := j0; j <= j1; j++ {
		row := j * g.NX
		for i := i0; i <= i1; i++ {
			old := g.Z[row+i]
			if float64(old) <= s.low {
				continue
			}
			z, at, ok := s.height(g.Center(i, j))
			if !ok || z >= float64(old) {
				continue
			}
			z = math.Max(z, g.Bottom)
			removed += float64(old) - z
			g.Z[row+i] = float32(z)
			if g.Log != nil {
				g.Log.add(row+i, float32(t0+at*dt), float32(z), old)
			}
		}
	}
	return removed * g.DX * g.DY
}

// span returns the cells whose centres may lie between two distances from
// the edge of the grid.
func span(lo, hi, d float64, n int) (int, int) {
	return max(0, int(math.Floor(lo/d-0.5))), min(n-1, int(math.Ceil(hi/d-0.5)))
}

// helixStep is the angle of the chords that stand for a helix, radians.
const helixStep = 5 * math.Pi / 180

func (g *Grid) helix(t tooling.Tool, from geom.V3, m motion.Move, t0, dt float64) float64 {
	n := max(1, int(math.Ceil(math.Abs(m.Sweep(from))/helixStep)))
	removed, at := 0.0, from
	for k := 1; k <= n; k++ {
		to := m.At(from, float64(k)/float64(n))
		removed += g.Cut(t, at, motion.Move{Kind: motion.Line, To: to}, t0+dt*float64(k-1)/float64(n), dt/float64(n))
		at = to
	}
	return removed
}

// sweep answers how deep one move cuts at a point of the plane.
type sweep struct {
	t        tooling.Tool
	r        float64
	from, to geom.V3
	low      float64
	arc      bool
	c        geom.V2
	rad      float64
	angle    float64 // signed sweep
	d        geom.V2 // unit direction of a line
	length   float64 // in the plane
	flat     bool
	level    bool
}

func newSweep(t tooling.Tool, from geom.V3, m motion.Move) *sweep {
	s := &sweep{t: t, r: t.R(), from: from, to: m.To, low: math.Min(from.Z, m.To.Z), flat: t.Flat(), level: from.Z == m.To.Z}
	if m.IsArc() {
		s.arc, s.c, s.angle = true, m.C, m.Sweep(from)
		s.rad = from.XY().Dist(m.C)
		s.length = s.rad * math.Abs(s.angle)
		return s
	}
	v := m.To.XY().Sub(from.XY())
	s.length = v.Len()
	s.d = v.Unit()
	return s
}

func (s *sweep) bounds() (lo, hi geom.V2) {
	a, b := s.from.XY(), s.to.XY()
	lo = geom.V2{X: math.Min(a.X, b.X) - s.r, Y: math.Min(a.Y, b.Y) - s.r}
	hi = geom.V2{X: math.Max(a.X, b.X) + s.r, Y: math.Max(a.Y, b.Y) + s.r}
	if s.arc {
		k := math.Min(2*s.rad, s.length) + s.r // a short arc stays near its ends
		far := s.rad + s.r
		lo = geom.V2{X: math.Max(lo.X-k, s.c.X-far), Y: math.Max(lo.Y-k, s.c.Y-far)}
		hi = geom.V2{X: math.Min(hi.X+k, s.c.X+far), Y: math.Min(hi.Y+k, s.c.Y+far)}
	}
	return lo, hi
}

// height returns the lowest height the tool reaches over p, and the fraction
// of the move at which it gets there; false when it never covers p.
func (s *sweep) height(p geom.V2) (z, at float64, ok bool) {
	switch {
	case s.arc:
		return s.overArc(p)
	case s.length < 1e-12:
		d := p.Dist(s.from.XY())
		return s.low + s.t.Profile(d), 0.5, d <= s.r
	}
	v := p.Sub(s.from.XY())
	x, y := v.Dot(s.d), math.Abs(s.d.Cross(v))
	if y > s.r || x < -s.r || x > s.length+s.r {
		return 0, 0, false
	}
	half := math.Sqrt(s.r*s.r - y*y) // covered while |x − travelled| ≤ half
	a, b := math.Max(0, x-half), math.Min(s.length, x+half)
	if a > b {
		return 0, 0, false
	}
	if s.level {
		near := math.Max(0, math.Min(s.length, x))
		return s.from.Z + s.t.Profile(math.Hypot(x-near, y)), a / s.length, true
	}
	rise := (s.to.Z - s.from.Z) / s.length
	if s.flat {
		if rise < 0 {
			a = b
		}
		return s.from.Z + rise*a, a / s.length, true
	}
	f := func(u float64) float64 { return s.from.Z + rise*u + s.t.Profile(math.Hypot(x-u, y)) }
	u := least(f, a, b)
	return f(u), u / s.length, true
}

// least finds the minimum of a convex function on [a, b] by golden section.
func least(f func(float64) float64, a, b float64) float64 {
	const g = 0.6180339887498949
	c, d := b-g*(b-a), a+g*(b-a)
	fc, fd := f(c), f(d)
	for i := 0; i < 40 && b-a > 1e-7; i++ {
		if fc < fd {
			b, d, fd = d, c, fc
			c = b - g*(b-a)
			fc = f(c)
		} else {
			a, c, fc = c, d, fd
			d = a + g*(b-a)
			fd = f(d)
		}
	}
	return (a + b) / 2
}

func (s *sweep) overArc(p geom.V2) (z, at float64, ok bool) {
	v := p.Sub(s.c)
	rho := v.Len()
	if math.Abs(rho-s.rad) > s.r {
		return 0, 0, false
	}
	d, at := s.arcDistance(p, v, rho)
	if d > s.r {
		return 0, 0, false
	}
	return s.from.Z + s.t.Profile(d), at, true
}

// arcDistance returns the distance of p from the arc and where on it.
func (s *sweep) arcDistance(p, v geom.V2, rho float64) (d, at float64) {
	a := s.from.XY().Sub(s.c)
	w := math.Atan2(a.Cross(v), a.Dot(v))
	if s.angle > 0 && w < 0 {
		w += 2 * math.Pi
	} else if s.angle < 0 && w > 0 {
		w -= 2 * math.Pi
	}
	if math.Abs(w) <= math.Abs(s.angle) {
		return math.Abs(rho - s.rad), w / s.angle
	}
	da, db := p.Dist(s.from.XY()), p.Dist(s.to.XY())
	if da < db {
		return da, 0
	}
	return db, 1
}
