package removal

import (
	"math"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
)

// Fixture is a body that holds or locates the work, as heights over a grid: a
// tool from +Z can be nowhere below them.
type Fixture struct {
	Name   string
	Min    geom.V2 // lower left corner
	Cell   float64
	NX, NY int
	Z      []float64 // highest point over the centre of each cell, −∞ for none
	Top    float64
}

// met tells whether the tool, its shank or its holder meets the fixture on a
// move, looked at every cell of the way.
func (f *Fixture) met(t tooling.Tool, from geom.V3, m motion.Move) bool {
	if math.Min(from.Z, m.To.Z) >= f.Top {
		return false
	}
	reach := t.R()
	for _, h := range t.Holder {
		reach = math.Max(reach, math.Max(h.D1, h.D2)/2)
	}
	n := max(1, min(2000, int(math.Ceil(m.Len(from)/f.Cell))))
	for k := 0; k <= n; k++ {
		p := m.At(from, float64(k)/float64(n))
		if p.Z >= f.Top {
			continue
		}
		i0, i1 := span(p.X-reach-f.Min.X, p.X+reach-f.Min.X, f.Cell, f.NX)
		j0, j1 := span(p.Y-reach-f.Min.Y, p.Y+reach-f.Min.Y, f.Cell, f.NY)
		for j := j0; j <= j1; j++ {
			for i := i0; i <= i1; i++ {
				z := f.Z[j*f.NX+i]
				if z <= p.Z {
					continue
				}
				c := geom.V2{X: f.Min.X + (float64(i)+0.5)*f.Cell, Y: f.Min.Y + (float64(j)+0.5)*f.Cell}
				if d := c.Dist(p.XY()); d < reach && z > p.Z+lowest(t, d)+1e-6 {
					return true
				}
			}
		}
	}
	return false
}

// lowest is the height above the tip at which the tool, shank and holder begin
// at a distance from the axis, +∞ beyond them.
func lowest(t tooling.Tool, d float64) float64 {
	if d < t.R() {
		return t.Profile(d)
	}
	if d < t.Shank/2 {
		return t.APMX
	}
	at := t.Stickout
	for _, h := range t.Holder {
		if d < math.Max(h.D1, h.D2)/2 {
			return at
		}
		at += h.Length
	}
	return math.Inf(1)
}
