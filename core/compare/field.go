// Package compare measures the stock as cut against the part, exactly at
// points of the part's surface: the signed distance of each point from the
// volume that the tool swept (a distance field of the removed volume, after
// Sullivan et al. 2012, evaluated on demand instead of on a grid).
//
// Positive deviation is overcut: the point lies that deep inside the swept
// volume. Negative is excess: the swept volume stays that far away. Lengths mm.
package compare

import (
	"math"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
)

// stroke is one move of one tool, a helix being cut into chords.
type stroke struct {
	tool     *shape
	from, to geom.V3
	arc      bool
	c        geom.V2
	rad      float64
	mid      geom.V2  // direction of the middle of the arc
	cosHalf  float64  // cosine of half its opening
	chords   []stroke // of a helix; the arc itself then only tells what is near
	step     int32
}

// Field is the swept volume of a program within a box of stock.
type Field struct {
	stock   geom.Box
	shape   func(p geom.V3, reach float64) float64 // of stock that is no block: distance, positive outside
	strokes []stroke
	cell    float64
	min     geom.V2
	nx, ny  int
	bins    [][]int32
}

// Range is how far from the tool excess is measured, mm; beyond it the
// deviation is "more than".
const Range = 2

// NewField returns an empty field over the stock. Stock that is no block tells
// by shape how far outside a point lies.
func NewField(stock geom.Box, shape func(p geom.V3, reach float64) float64) *Field {
	size := stock.Size()
	f := &Field{stock: stock, shape: shape, min: stock.Min.XY()}
	f.cell = math.Max(2, math.Max(size.X, size.Y)/200)
	f.nx, f.ny = int(size.X/f.cell)+1, int(size.Y/f.cell)+1
	f.bins = make([][]int32, f.nx*f.ny)
	return f
}

// helixStep is the angle of chords for a helix: at 20 mm radius they lie
// within 5 µm of it.
const helixStep = 2.5 * math.Pi / 180

// Add enters the moves of one step, which begin at start.
func (f *Field) Add(step int, t tooling.Tool, start geom.V3, moves []motion.Move) {
	sh := newShape(t)
	at := start
	for _, m := range moves {
		switch {
		case m.IsArc() && math.Abs(m.To.Z-at.Z) > 1e-9:
			s := arcStroke(sh, at, m, step)
			n := max(1, int(math.Ceil(math.Abs(m.Sweep(at))/helixStep)))
			p := at
			for k := 1; k <= n; k++ {
				q := m.At(at, float64(k)/float64(n))
				s.chords = append(s.chords, stroke{tool: sh, from: p, to: q})
				p = q
			}
			f.enter(s)
		case m.IsArc():
			f.enter(arcStroke(sh, at, m, step))
		default:
			f.enter(stroke{tool: sh, from: at, to: m.To, step: int32(step)})
		}
		at = m.To
	}
}

func arcStroke(sh *shape, at geom.V3, m motion.Move, step int) stroke {
	mid := m.At(at, 0.5).XY().Sub(m.C).Unit()
	return stroke{tool: sh, from: at, to: m.To, arc: true, c: m.C, rad: at.XY().Dist(m.C), mid: mid, cosHalf: math.Cos(m.Sweep(at) / 2), step: int32(step)}
}

func (f *Field) enter(s stroke) {
	if math.Min(s.from.Z, s.to.Z) > f.stock.Max.Z+Range {
		return
	}
	k := int32(len(f.strokes))
	f.strokes = append(f.strokes, s)
	reach := s.tool.r + Range
	lo, hi := s.bounds()
	i0, i1 := f.bin(lo.X-reach-f.min.X, f.nx), f.bin(hi.X+reach-f.min.X, f.nx)
	j0, j1 := f.bin(lo.Y-reach-f.min.Y, f.ny), f.bin(hi.Y+reach-f.min.Y, f.ny)
	near := reach + f.cell*math.Sqrt2/2
	for j := j0; j <= j1; j++ {
		for i := i0; i <= i1; i++ {
			c := geom.V2{X: f.min.X + (float64(i)+0.5)*f.cell, Y: f.min.Y + (float64(j)+0.5)*f.cell}
			if s.planDistance(c) <= near {
				f.bins[j*f.nx+i] = append(f.bins[j*f.nx+i], k)
			}
		}
	}
}

func (f *Field) bin(d float64, n int) int { return max(0, min(n-1, int(d/f.cell))) }

func (s *stroke) bounds() (lo, hi geom.V2) {
	a, b := s.from.XY(), s.to.XY()
	lo = geom.V2{X: math.Min(a.X, b.X), Y: math.Min(a.Y, b.Y)}
	hi = geom.V2{X: math.Max(a.X, b.X), Y: math.Max(a.Y, b.Y)}
	if s.arc {
		lo, hi = geom.V2{X: s.c.X - s.rad, Y: s.c.Y - s.rad}, geom.V2{X: s.c.X + s.rad, Y: s.c.Y + s.rad}
	}
	return lo, hi
}

// planDistance returns the distance of p from the path in the plane.
func (s *stroke) planDistance(p geom.V2) float64 {
	if s.arc {
		return s.arcDistance(p)
	}
	a, d := s.from.XY(), s.to.XY().Sub(s.from.XY())
	l := d.Dot(d)
	if l == 0 {
		return p.Dist(a)
	}
	t := math.Max(0, math.Min(1, p.Sub(a).Dot(d)/l))
	return p.Dist(a.Add(d.Mul(t)))
}

// arcDistance returns the distance of p from the arc: radially where p lies
// within its angle, which its middle direction and half its opening tell.
func (s *stroke) arcDistance(p geom.V2) float64 {
	v := p.Sub(s.c)
	rho := v.Len()
	if v.Dot(s.mid) >= rho*s.cosHalf {
		return math.Abs(rho - s.rad)
	}
	return math.Min(p.Dist(s.from.XY()), p.Dist(s.to.XY()))
}

// Deviation returns the signed distance of p from the stock as cut: positive
// outside it (overcut when p is on the part), negative inside (excess, at most
// Range); and the number of the step that came nearest, −1 for none.
func (f *Field) Deviation(p geom.V3) (float64, int) {
	best, step := math.Max(-Range, f.outside(p)), -1
	i, j := f.bin(p.X-f.min.X, f.nx), f.bin(p.Y-f.min.Y, f.ny)
	bin := f.bins[j*f.nx+i]
	for n := len(bin) - 1; n >= 0; n-- { // the last strokes finish: they are mostly nearest
		s := &f.strokes[bin[n]]
		if p.Z-math.Min(s.from.Z, s.to.Z) < best { // cannot be deeper than its lowest point
			continue
		}
		if d := -s.distance(p, best); d > best {
			best, step = d, int(s.step)
		}
	}
	return best, step
}

// outside returns the signed distance of p from a box, positive outside.
func (f *Field) outside(p geom.V3) float64 {
	if f.shape != nil {
		return f.shape(p, Range)
	}
	b := f.stock
	c, h := b.Center(), b.Size().Mul(0.5)
	return math.Max(math.Abs(p.X-c.X)-h.X, math.Max(math.Abs(p.Y-c.Y)-h.Y, math.Abs(p.Z-c.Z)-h.Z))
}

// distance returns the signed distance of p from the swept volume, negative
// inside. Strokes that cannot beat best return early.
func (s *stroke) distance(p geom.V3, best float64) float64 {
	q := p.XY()
	if s.chords != nil {
		if d := s.planDistance(q); s.tool.r-d < best {
			return d - s.tool.r
		}
		least := math.Inf(1)
		for i := range s.chords {
			if c := &s.chords[i]; p.Z-math.Min(c.from.Z, c.to.Z) >= best {
				if least = math.Min(least, c.distance(p, best)); -least > best {
					best = -least
				}
			}
		}
		return least
	}
	flat := s.from.Z == s.to.Z
	if flat || s.arc {
		d := s.planDistance(q)
		if s.tool.r-d < best {
			return d - s.tool.r
		}
		return s.tool.distance(d, p.Z-s.from.Z)
	}
	a := s.from.XY()
	if a == s.to.XY() { // straight down or up: the lowest place is in both
		return s.tool.distance(q.Dist(a), p.Z-math.Min(s.from.Z, s.to.Z))
	}
	if d := s.planDistance(q); s.tool.r-d < best {
		return d - s.tool.r
	}
	f := func(t float64) float64 {
		c := s.from.Lerp(s.to, t)
		return s.tool.distance(q.Dist(c.XY()), p.Z-c.Z)
	}
	return f(leastOn01(f))
}

// leastOn01 minimises a convex function on [0, 1]: the distance from a convex
// tool as it moves straight is convex.
func leastOn01(f func(float64) float64) float64 {
	const g = 0.6180339887498949
	a, b := 0.0, 1.0
	c, d := b-g, g
	fc, fd := f(c), f(d)
	for i := 0; i < 36; i++ {
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
	m := (a + b) / 2
	if f(0) < f(m) {
		return 0
	}
	if f(1) < f(m) {
		return 1
	}
	return m
}
