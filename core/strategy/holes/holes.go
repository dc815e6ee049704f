// Package holes drills: single strokes, pecks, chip breaking, in the order
// of a short way between the holes. Lengths mm, feeds mm/min. The cycles are
// those of ISO 6983 (G81, G83, G73).
package holes

import (
	"context"
	"math"

	"arete/core/geom"
	"arete/core/motion"
)

// Hole is one place: R plane and final depth of the tip.
type Hole struct {
	XY   geom.V2
	R, Z float64
}

// Input is the task.
type Input struct {
	Holes []Hole
	Kind  motion.CycleKind
	Peck  float64
	Feed  float64
	Clear float64
}

// gap is the distance above the last depth down to which a peck returns at
// rapid, and how far chip breaking lifts, mm.
const gap = 0.5

// Make returns the path, with a cycle for each hole.
func Make(ctx context.Context, in Input) (motion.Path, error) {
	b := motion.NewBuilder(in.Clear)
	for _, h := range ordered(in.Holes) {
		if err := ctx.Err(); err != nil {
			return motion.Path{}, err
		}
		b.Rapid(h.XY.At(in.Clear))
		from := len(b.Moves)
		in.stroke(b, h)
		b.Cycles = append(b.Cycles, motion.Cycle{Kind: in.Kind, From: from, To: len(b.Moves), XY: h.XY,
			R: h.R, Z: h.Z, Peck: in.Peck, Feed: in.Feed, Initial: in.Clear})
	}
	return b.Path, nil
}

// stroke writes the moves of one hole, from and back to the clearance plane.
func (in Input) stroke(b *motion.Builder, h Hole) {
	b.Rapid(h.XY.At(h.R))
	if in.Kind == motion.CycleDrill || in.Peck <= 0 {
		b.Line(h.XY.At(h.Z), in.Feed)
	} else {
		for at := h.R; at > h.Z; {
			next := math.Max(h.Z, at-in.Peck)
			b.Line(h.XY.At(next), in.Feed)
			if next > h.Z {
				if in.Kind == motion.CyclePeck {
					b.Rapid(h.XY.At(h.R))
				}
				b.Rapid(h.XY.At(math.Min(h.R, next+gap)))
			}
			at = next
		}
	}
	b.Rapid(h.XY.At(in.Clear))
}

// ordered returns the holes in a short order: of the order given and of going
// to the nearest next, each improved, the shorter.
func ordered(in []Hole) []Hole {
	given, near := improved(in), improved(nearest(in))
	if way(given) <= way(near) {
		return given
	}
	return near
}

func way(h []Hole) float64 {
	l := 0.0
	for i := 1; i < len(h); i++ {
		l += h[i].XY.Dist(h[i-1].XY)
	}
	return l
}

func nearest(in []Hole) []Hole {
	h := append([]Hole(nil), in...)
	for i := 1; i < len(h); i++ {
		best := i
		for j := i; j < len(h); j++ {
			if h[j].XY.Dist(h[i-1].XY) < h[best].XY.Dist(h[i-1].XY)-1e-9 {
				best = j
			}
		}
		h[i], h[best] = h[best], h[i]
	}
	return h
}

// improved reverses stretches as long as that shortens the way (2-opt, Croes
// 1958).
func improved(in []Hole) []Hole {
	h := append([]Hole(nil), in...)
	for better, round := true, 0; better && round < 20; round++ {
		better = false
		for i := 0; i+2 < len(h); i++ {
			for j := i + 2; j < len(h); j++ {
				old := h[i].XY.Dist(h[i+1].XY)
				now := h[i].XY.Dist(h[j].XY)
				if j+1 < len(h) {
					old += h[j].XY.Dist(h[j+1].XY)
					now += h[i+1].XY.Dist(h[j+1].XY)
				}
				if now < old-1e-9 {
					for a, b := i+1, j; a < b; a, b = a+1, b-1 {
						h[a], h[b] = h[b], h[a]
					}
					better = true
				}
			}
		}
	}
	return h
}
