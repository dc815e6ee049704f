package brep

import (
	"errors"
	"math"
	"sync"

	"arete/core/geom"
)

// SplineSurface is a B-spline surface, rational when it has weights.
type SplineSurface struct {
	bu, bv   basis
	nu, nv   int
	poles    []geom.V3 // nu rows of nv
	weights  []float64 // nil for a plain one
	lo, hi   geom.V2
	closedU  bool
	closedV  bool
	singular []Pole
	size     float64
	grid     *sampleGrid
}

var errUneven = errors.New("has rows of different length")

// sampleGrid holds points to begin an inversion with, made when first needed.
type sampleGrid struct {
	once sync.Once
	u, v []float64
	p    []geom.V3
}

// NewSplineSurface builds a surface from degrees, full knot vectors and the
// net of poles, rows along v, with weights alike (nil for a plain one).
func NewSplineSurface(du, dv int, ku, kv []float64, net [][]geom.V3, weights [][]float64) (*SplineSurface, error) {
	s := &SplineSurface{bu: basis{du, ku}, bv: basis{dv, kv}, nu: len(net), grid: &sampleGrid{}}
	for _, row := range net {
		if s.nv == 0 {
			s.nv = len(row)
		}
		if len(row) != s.nv {
			return nil, errUneven
		}
		s.poles = append(s.poles, row...)
	}
	if err := s.bu.check(s.nu); err != nil {
		return nil, err
	}
	if err := s.bv.check(s.nv); err != nil {
		return nil, err
	}
	for _, row := range weights {
		s.weights = append(s.weights, row...)
	}
	if err := checkWeights(s.weights, len(s.poles)); err != nil {
		return nil, err
	}
	s.lo.X, s.hi.X = s.bu.domain()
	s.lo.Y, s.hi.Y = s.bv.domain()
	for _, p := range s.poles {
		s.size = math.Max(s.size, p.Dist(s.poles[0]))
	}
	s.findClosures()
	return s, nil
}

// findClosures looks at the four sides: which meet, and which are points.
func (s *SplineSurface) findClosures() {
	tol := 1e-7*s.size + 1e-9
	s.closedU, s.closedV = true, true
	low, high := [2]bool{true, true}, [2]bool{true, true}
	corner := [4]geom.V3{s.At(s.lo), s.At(geom.V2{X: s.hi.X, Y: s.lo.Y}), s.At(geom.V2{X: s.lo.X, Y: s.hi.Y}), s.At(s.hi)}
	const n = 16
	for k := 0; k <= n; k++ {
		f := float64(k) / n
		u, v := s.lo.X+(s.hi.X-s.lo.X)*f, s.lo.Y+(s.hi.Y-s.lo.Y)*f
		u0, u1 := s.At(geom.V2{X: s.lo.X, Y: v}), s.At(geom.V2{X: s.hi.X, Y: v})
		v0, v1 := s.At(geom.V2{X: u, Y: s.lo.Y}), s.At(geom.V2{X: u, Y: s.hi.Y})
		s.closedU = s.closedU && u0.Dist(u1) < tol
		s.closedV = s.closedV && v0.Dist(v1) < tol
		low[0] = low[0] && u0.Dist(corner[0]) < tol
		high[0] = high[0] && u1.Dist(corner[1]) < tol
		low[1] = low[1] && v0.Dist(corner[0]) < tol
		high[1] = high[1] && v1.Dist(corner[2]) < tol
	}
	for i, u := range []bool{true, false} {
		lo, hi := s.lo.Y, s.hi.Y
		if u {
			lo, hi = s.lo.X, s.hi.X
		}
		if low[i] {
			s.singular = append(s.singular, Pole{U: u, At: lo, P: corner[0]})
		}
		if high[i] {
			s.singular = append(s.singular, Pole{U: u, At: hi, P: corner[3]})
		}
	}
}

// Kind is bspline.
func (s *SplineSurface) Kind() Kind { return KindSpline }

// eval returns the point and its derivatives.
func (s *SplineSurface) eval(uv geom.V2) (p, du, dv geom.V3) {
	u, v := wrap(uv.X, s.lo.X, s.hi.X, s.closedU), wrap(uv.Y, s.lo.Y, s.hi.Y, s.closedV)
	var nu, ndu, nv, ndv [maxDegree + 1]float64
	ku, kv := s.bu.span(u), s.bv.span(v)
	s.bu.eval(ku, u, &nu, &ndu)
	s.bv.eval(kv, v, &nv, &ndv)
	w, wu, wv := 0.0, 0.0, 0.0
	for i := 0; i <= s.bu.degree; i++ {
		row := (ku-s.bu.degree+i)*s.nv + kv - s.bv.degree
		var a, b geom.V3 // sums along v of value and derivative
		aw, bw := 0.0, 0.0
		for j := 0; j <= s.bv.degree; j++ {
			q, cv, cd := s.poles[row+j], nv[j], ndv[j]
			if s.weights != nil {
				c := s.weights[row+j]
				cv, cd = cv*c, cd*c
				aw += cv
				bw += cd
			}
			a.X, a.Y, a.Z = a.X+q.X*cv, a.Y+q.Y*cv, a.Z+q.Z*cv
			b.X, b.Y, b.Z = b.X+q.X*cd, b.Y+q.Y*cd, b.Z+q.Z*cd
		}
		p, du, dv = p.Add(a.Mul(nu[i])), du.Add(a.Mul(ndu[i])), dv.Add(b.Mul(nu[i]))
		w, wu, wv = w+aw*nu[i], wu+aw*ndu[i], wv+bw*nu[i]
	}
	if s.weights != nil {
		p = p.Mul(1 / w)
		du, dv = du.Sub(p.Mul(wu)).Mul(1/w), dv.Sub(p.Mul(wv)).Mul(1/w)
	}
	return p, du, dv
}

// At returns the point at uv.
func (s *SplineSurface) At(uv geom.V2) geom.V3 { p, _, _ := s.eval(uv); return p }

// Diff returns the derivatives at uv.
func (s *SplineSurface) Diff(uv geom.V2) (du, dv geom.V3) { _, du, dv = s.eval(uv); return du, dv }

// Periods are the knot ranges of closed directions.
func (s *SplineSurface) Periods() (u, v float64) {
	if s.closedU {
		u = s.hi.X - s.lo.X
	}
	if s.closedV {
		v = s.hi.Y - s.lo.Y
	}
	return u, v
}

// Poles are the sides that shrink to a point.
func (s *SplineSurface) Poles() []Pole { return s.singular }

// Breaks returns the distinct knots.
func (s *SplineSurface) Breaks() (u, v []float64) { return s.bu.breaks(), s.bv.breaks() }

// Net returns the control points, rows along v.
func (s *SplineSurface) Net() []geom.V3 { return s.poles }

// ParamNear follows Gauss–Newton steps from the guess, and searches the whole
// surface when they end away from p.
func (s *SplineSurface) ParamNear(p geom.V3, guess geom.V2) geom.V2 {
	for _, q := range s.singular { // there no step leads away along the pole
		if q.U && math.Abs(guess.X-q.At) < 1e-6*(s.hi.X-s.lo.X) || !q.U && math.Abs(guess.Y-q.At) < 1e-6*(s.hi.Y-s.lo.Y) {
			return s.Param(p)
		}
	}
	if uv, d := s.descend(p, guess); d < 1e-4*(1+1e-3*s.size) {
		return uv
	}
	return s.Param(p)
}

// Param searches the parameters of the point nearest to p.
func (s *SplineSurface) Param(p geom.V3) geom.V2 {
	g := s.samples()
	type start struct {
		i int
		d float64
	}
	var first [4]start
	for k := range first {
		first[k].d = math.Inf(1)
	}
	for i, q := range g.p {
		d := q.Dist(p)
		for k := range first {
			if d < first[k].d {
				copy(first[k+1:], first[k:])
				first[k] = start{i, d}
				break
			}
		}
	}
	best, least := geom.V2{}, math.Inf(1)
	for _, st := range first {
		if math.IsInf(st.d, 1) {
			break
		}
		uv, d := s.descend(p, geom.V2{X: g.u[st.i/len(g.v)], Y: g.v[st.i%len(g.v)]})
		if d < least {
			best, least = uv, d
		}
		if least < 1e-6*(1+1e-3*s.size) {
			break
		}
	}
	return best
}

func (s *SplineSurface) samples() *sampleGrid {
	g := s.grid
	g.once.Do(func() {
		g.u, g.v = spread(s.bu), spread(s.bv)
		for _, q := range s.singular { // begin beside poles
			line := g.v
			if q.U {
				line = g.u
			}
			if n := len(line) - 1; q.At == line[0] {
				line[0] += (line[1] - line[0]) / 4
			} else {
				line[n] -= (line[n] - line[n-1]) / 4
			}
		}
		for _, u := range g.u {
			for _, v := range g.v {
				g.p = append(g.p, s.At(geom.V2{X: u, Y: v}))
			}
		}
	})
	return g
}

// spread returns parameters over all spans, about degree+1 for each but no
// more than some hundreds in all.
func spread(b basis) []float64 {
	br := b.breaks()
	each := max(1, min(b.degree+1, 200/len(br)+1))
	var out []float64
	for i := 0; i+1 < len(br); i++ {
		for k := 0; k < each; k++ {
			out = append(out, br[i]+(br[i+1]-br[i])*float64(k)/float64(each))
		}
	}
	return append(out, br[len(br)-1])
}

// descend follows Gauss–Newton steps from uv and returns where they end and
// how far from p that is.
func (s *SplineSurface) descend(p geom.V3, uv geom.V2) (geom.V2, float64) {
	range2 := s.hi.Sub(s.lo)
	q, du, dv := s.eval(uv)
	dist := q.Dist(p)
	for k := 0; k < 40; k++ {
		r := p.Sub(q)
		step := solve2(du, dv, r)
		scale := 1.0
		var next geom.V2
		moved := false
		for try := 0; try < 6; try, scale = try+1, scale/2 {
			next = s.clamp(uv.Add(step.Mul(scale)))
			nq, ndu, ndv := s.eval(next)
			if d := nq.Dist(p); d <= dist {
				moved = math.Abs(next.X-uv.X) > 1e-13*range2.X || math.Abs(next.Y-uv.Y) > 1e-13*range2.Y
				done := dist-d <= 1e-14*(1+s.size) && d < 1e-9
				q, du, dv, dist, uv = nq, ndu, ndv, d, next
				if done {
					return uv, dist
				}
				break
			}
		}
		if !moved {
			break
		}
	}
	return uv, dist
}

// clamp keeps uv in the range of directions that are not closed.
func (s *SplineSurface) clamp(uv geom.V2) geom.V2 {
	if !s.closedU {
		uv.X = math.Max(s.lo.X, math.Min(s.hi.X, uv.X))
	}
	if !s.closedV {
		uv.Y = math.Max(s.lo.Y, math.Min(s.hi.Y, uv.Y))
	}
	return uv
}

// solve2 returns the least-squares solution of du·x + dv·y = r.
func solve2(du, dv, r geom.V3) geom.V2 {
	a, b, c := du.Dot(du), du.Dot(dv), dv.Dot(dv)
	e, f := du.Dot(r), dv.Dot(r)
	det := a*c - b*b
	if det <= 1e-14*a*c { // one direction has shrunk to a point
		switch {
		case a >= c && a > 0:
			return geom.V2{X: e / a}
		case c > 0:
			return geom.V2{Y: f / c}
		}
		return geom.V2{}
	}
	return geom.V2{X: (e*c - f*b) / det, Y: (f*a - e*b) / det}
}

// Transform moves the surface.
func (s *SplineSurface) Transform(f geom.Frame) Surface {
	c := *s
	c.poles = make([]geom.V3, len(s.poles))
	for i, p := range s.poles {
		c.poles[i] = f.ToWorld(p)
	}
	c.singular = append([]Pole(nil), s.singular...)
	for i := range c.singular {
		c.singular[i].P = f.ToWorld(c.singular[i].P)
	}
	c.grid = &sampleGrid{}
	return &c
}
