// Package facing planes the top of the stock in parallel strokes, back and
// forth or one-way. Each stroke begins and ends clear of the stock. Lengths
// mm, feeds mm/min.
package facing

import (
	"context"
	"math"

	"arete/core/geom"
	"arete/core/motion"
)

// Input is the task: the rectangle Min–Max at each height of Z.
type Input struct {
	Min, Max geom.V2
	Z        []float64
	Radius   float64 // of the tool
	AE       float64
	Clear    float64
	Feed     float64
	OneWay   bool
}

// overrun is how far past the edge the tool's rim goes, mm.
const overrun = 2

// Make returns the path. Strokes run along the longer side.
func Make(ctx context.Context, in Input) (motion.Path, error) {
	b := motion.NewBuilder(in.Clear)
	size := in.Max.Sub(in.Min)
	along, across := geom.V2{X: 1}, geom.V2{Y: 1}
	length, width := size.X, size.Y
	if size.Y > size.X {
		along, across = across, along
		length, width = width, length
	}
	ext := in.Radius + overrun
	// The first stroke reaches AE into the work, the last one past its edge.
	n := max(1, int(math.Ceil(width/in.AE-1e-9)))
	step := width / float64(n)
	for _, z := range in.Z {
		if err := ctx.Err(); err != nil {
			return motion.Path{}, err
		}
		for i := 0; i < n; i++ {
			off := step*float64(i+1) - in.Radius
			if n == 1 {
				off = width / 2
				if width > 2*in.Radius {
					off = step - in.Radius
				}
			}
			p := in.Min.Add(across.Mul(off)).Sub(along.Mul(ext))
			q := p.Add(along.Mul(length + 2*ext))
			if !in.OneWay && i%2 == 1 {
				p, q = q, p
			}
			if i == 0 || in.OneWay {
				b.Over(p, z+1)
				b.Line(p.At(z), in.Feed)
			} else {
				b.Line(p.At(z), in.Feed)
			}
			b.Line(q.At(z), in.Feed)
		}
	}
	b.Up()
	return b.Path, nil
}
