package compare

import (
	"math"

	"arete/core/geom"
	"arete/core/tooling"
)

// shape is a tool as a solid of revolution: its outline from the axis at the
// tip outward and then straight up without end.
type shape struct {
	r     float64
	flat  bool
	ball  bool
	chain []geom.V2 // outline points (distance from the axis, height)
}

// arcSteps is the number of chords for a corner radius; for 6 mm they lie
// within 0.5 µm.
const arcSteps = 64

func newShape(t tooling.Tool) *shape {
	s := &shape{r: t.R(), flat: t.Flat(), ball: t.Kind == tooling.BallNose}
	switch {
	case t.Pointed():
		s.chain = []geom.V2{{}, {X: t.Tip / 2}, {X: t.R(), Y: t.PointLength()}}
	case !s.flat && !s.ball:
		s.chain = []geom.V2{{}}
		for k := 0; k <= arcSteps; k++ {
			w := math.Pi / 2 * float64(k) / arcSteps
			s.chain = append(s.chain, geom.V2{X: t.R() - t.RE + t.RE*math.Sin(w), Y: t.RE - t.RE*math.Cos(w)})
		}
	}
	return s
}

// distance returns the signed distance of a point at rho from the axis and z
// above the tip, negative inside the tool.
func (s *shape) distance(rho, z float64) float64 {
	if s.flat {
		x, y := rho-s.r, -z
		if x > 0 && y > 0 {
			return math.Hypot(x, y)
		}
		return math.Max(x, y)
	}
	if s.ball {
		if z < s.r {
			return math.Hypot(rho, z-s.r) - s.r
		}
		return rho - s.r
	}
	p := geom.V2{X: rho, Y: z}
	d := math.Inf(1)
	for i := 0; i+1 < len(s.chain); i++ {
		a, b := s.chain[i], s.chain[i+1]
		e := b.Sub(a)
		l := e.Dot(e)
		if l == 0 {
			continue
		}
		t := math.Max(0, math.Min(1, p.Sub(a).Dot(e)/l))
		d = math.Min(d, p.Dist(a.Add(e.Mul(t))))
	}
	top := s.chain[len(s.chain)-1]
	if z > top.Y {
		d = math.Min(d, math.Abs(rho-s.r))
	} else {
		d = math.Min(d, p.Dist(top))
	}
	if s.inside(rho, z) {
		return -d
	}
	return d
}

func (s *shape) inside(rho, z float64) bool {
	if rho >= s.r || z <= 0 {
		return false
	}
	for i := 0; i+1 < len(s.chain); i++ {
		a, b := s.chain[i], s.chain[i+1]
		if rho >= a.X && rho < b.X {
			return z > a.Y+(b.Y-a.Y)*(rho-a.X)/(b.X-a.X)
		}
	}
	return true
}
