package brep

import (
	"errors"
	"math"

	"arete/core/geom"
)

// Spline is a B-spline curve, rational when it has weights.
type Spline struct {
	b       basis
	poles   []geom.V3
	weights []float64 // nil for a plain one
	lo, hi  float64
	closed  bool
	find    *finder
}

// NewSpline builds a curve from its degree, full knot vector, poles and
// weights (nil for a plain spline).
func NewSpline(degree int, knots []float64, poles []geom.V3, weights []float64) (*Spline, error) {
	b := basis{degree, knots}
	if err := b.check(len(poles)); err != nil {
		return nil, err
	}
	if err := checkWeights(weights, len(poles)); err != nil {
		return nil, err
	}
	s := &Spline{b: b, poles: poles, weights: weights}
	s.lo, s.hi = b.domain()
	size := 0.0
	for _, p := range poles {
		size = math.Max(size, p.Dist(poles[0]))
	}
	s.closed = s.At(s.lo).Dist(s.At(s.hi)) < 1e-7*size+1e-9
	s.find = newFinder(s, s.b.breaks(), 2*(degree+1))
	return s, nil
}

func (b basis) check(poles int) error {
	if b.degree < 1 || b.degree > maxDegree {
		return errors.New("has an impossible degree")
	}
	if poles < b.degree+1 || len(b.knots) != poles+b.degree+1 {
		return errors.New("has numbers of knots, poles and degree that do not agree")
	}
	for i := 1; i < len(b.knots); i++ {
		if !(b.knots[i] >= b.knots[i-1]) {
			return errors.New("has knots that do not grow")
		}
	}
	if lo, hi := b.domain(); !(hi > lo) || math.IsInf(hi-lo, 0) {
		return errors.New("has an empty knot range")
	}
	return nil
}

func checkWeights(w []float64, n int) error {
	if w == nil {
		return nil
	}
	if len(w) != n {
		return errors.New("has a wrong number of weights")
	}
	for _, v := range w {
		if !(v > 0) || math.IsInf(v, 0) {
			return errors.New("has a weight that is not positive")
		}
	}
	return nil
}

// wrap brings t into the domain: modulo the period of a closed curve, else
// to the nearer end.
func wrap(t, lo, hi float64, closed bool) float64 {
	if closed && (t < lo || t > hi) {
		t = lo + math.Mod(t-lo, hi-lo)
		if t < lo {
			t += hi - lo
		}
	}
	return math.Max(lo, math.Min(hi, t))
}

// eval returns point and derivative.
func (s *Spline) eval(t float64) (p, d geom.V3) {
	t = wrap(t, s.lo, s.hi, s.closed)
	var val, der [maxDegree + 1]float64
	k := s.b.span(t)
	s.b.eval(k, t, &val, &der)
	first := k - s.b.degree
	w, dw := 0.0, 0.0
	for i := 0; i <= s.b.degree; i++ {
		q, c := s.poles[first+i], 1.0
		if s.weights != nil {
			c = s.weights[first+i]
			w += c * val[i]
			dw += c * der[i]
		}
		p = p.Add(q.Mul(c * val[i]))
		d = d.Add(q.Mul(c * der[i]))
	}
	if s.weights != nil {
		p = p.Mul(1 / w)
		d = d.Sub(p.Mul(dw)).Mul(1 / w)
	}
	return p, d
}

// At returns the point at t.
func (s *Spline) At(t float64) geom.V3 { p, _ := s.eval(t); return p }

// Tangent returns the derivative at t.
func (s *Spline) Tangent(t float64) geom.V3 { _, d := s.eval(t); return d }

// Param returns the parameter of the point nearest to p.
func (s *Spline) Param(p geom.V3) float64 {
	t := s.find.nearest(p, s.lo, s.hi, s.closed)
	if s.closed && s.hi-t < 1e-9*(s.hi-s.lo) {
		t = s.lo
	}
	return t
}

// Period is the knot range of a closed curve.
func (s *Spline) Period() float64 {
	if s.closed {
		return s.hi - s.lo
	}
	return 0
}

// Breaks returns the distinct knots.
func (s *Spline) Breaks() []float64 { return s.b.breaks() }

// Poles returns the control points.
func (s *Spline) Poles() []geom.V3 { return s.poles }

// Reverse runs the curve the other way.
func (s *Spline) Reverse() Curve {
	n := len(s.poles)
	poles := make([]geom.V3, n)
	var weights []float64
	for i, p := range s.poles {
		poles[n-1-i] = p
	}
	if s.weights != nil {
		weights = make([]float64, n)
		for i, w := range s.weights {
			weights[n-1-i] = w
		}
	}
	r := &Spline{b: s.b.reversed(), poles: poles, weights: weights, closed: s.closed}
	r.lo, r.hi = r.b.domain()
	r.find = newFinder(r, r.b.breaks(), 2*(s.b.degree+1))
	return r
}

// Transform moves the curve.
func (s *Spline) Transform(f geom.Frame) Curve {
	c := *s
	c.poles = make([]geom.V3, len(s.poles))
	for i, p := range s.poles {
		c.poles[i] = f.ToWorld(p)
	}
	c.find = newFinder(&c, c.b.breaks(), 2*(c.b.degree+1))
	return &c
}

// finder inverts a curve: samples to begin with, Gauss–Newton steps to end.
type finder struct {
	c Curve
	t []float64
	p []geom.V3
}

// newFinder samples every stretch between breaks.
func newFinder(c Curve, breaks []float64, each int) *finder {
	n := max(0, len(breaks)-1)*each + 1
	f := &finder{c: c, t: make([]float64, 0, n), p: make([]geom.V3, 0, n)}
	for i := 0; i+1 < len(breaks); i++ {
		for k := 0; k < each; k++ {
			f.t = append(f.t, breaks[i]+(breaks[i+1]-breaks[i])*float64(k)/float64(each))
		}
	}
	f.t = append(f.t, breaks[len(breaks)-1])
	for _, t := range f.t {
		f.p = append(f.p, c.At(t))
	}
	return f
}

func (f *finder) nearest(q geom.V3, lo, hi float64, closed bool) float64 {
	best, dist := 0, math.Inf(1)
	for i, p := range f.p {
		if d := p.Dist(q); d < dist {
			best, dist = i, d
		}
	}
	t := f.t[best]
	for k := 0; k < 30; k++ {
		d := f.c.Tangent(t)
		dd := d.Dot(d)
		if dd == 0 {
			break
		}
		step := q.Sub(f.c.At(t)).Dot(d) / dd
		next := t + step
		if !closed {
			next = math.Max(lo, math.Min(hi, next))
		}
		if math.Abs(next-t) <= 1e-14*(hi-lo) {
			t = next
			break
		}
		t = next
	}
	t = wrap(t, lo, hi, closed)
	if f.c.At(t).Dist(q) > dist {
		return f.t[best]
	}
	return t
}
