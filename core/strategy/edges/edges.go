// Package edges breaks edges with a chamfer mill. The flank meets the bevel at
// a stated height above the tip, away from the tool's point. Lengths mm.
package edges

import (
	"context"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
)

// Rim is one bevel: its lower edge with the material on the right of travel.
type Rim struct {
	Chain  planar.Loop
	Low    float64 // height of the lower edge
	Offset float64 // of the tool's axis from the lower edge, to the left
	Tip    float64 // height of the tip
}

// Input is the task.
type Input struct {
	Rims  []Rim
	Lead  float64
	Clear float64
	Feed  float64
	Tol   float64
}

// Make returns the path: each rim at constant height, begun and ended a
// little off it.
func Make(ctx context.Context, in Input) (motion.Path, error) {
	b := motion.NewBuilder(in.Clear)
	for _, r := range in.Rims {
		if err := ctx.Err(); err != nil {
			return motion.Path{}, err
		}
		chain := shifted(r.Chain, r.Offset)
		if len(chain) == 0 {
			continue
		}
		first, last := chain[0], chain[len(chain)-1]
		start := first.A.Add(first.TangentA().Left().Mul(in.Lead))
		end := last.B.Add(last.TangentB().Left().Mul(in.Lead))
		b.Over(start, r.Tip+r.Offset+1)
		b.Line(start.At(r.Tip), in.Feed)
		b.Line(first.A.At(r.Tip), in.Feed)
		b.Follow(chain, r.Tip, in.Feed)
		b.Line(end.At(r.Tip), in.Feed)
	}
	b.Up()
	return b.Path, nil
}

// shifted moves a chain by d to its left; corners that open get an arc,
// others are trimmed by clipping to points at the full distance.
func shifted(c planar.Loop, d float64) planar.Loop {
	var out planar.Loop
	closed := c[0].A.Dist(c[len(c)-1].B) < 1e-6
	for i, s := range c {
		t := planar.Segment{A: move(s, s.A, s.TangentA(), d), B: move(s, s.B, s.TangentB(), d), C: s.C, Turn: s.Turn}
		if s.IsArc() && s.Turn > 0 && s.Radius() <= d {
			continue
		}
		out = append(out, t)
		if i+1 < len(c) || closed {
			n := c[(i+1)%len(c)]
			from, to := t.B, move(n, n.A, n.TangentA(), d)
			if from.Dist(to) > 1e-6 && s.TangentB().Cross(n.TangentA()) < 0 {
				out = append(out, planar.Arc(from, to, s.B, -1)...)
			}
		}
	}
	for i := 1; i < len(out); i++ {
		if out[i].A.Dist(out[i-1].B) > 1e-6 { // an inside corner: straight across
			out[i-1].B = out[i].A
		}
	}
	return out
}

func move(s planar.Segment, p, tangent geom.V2, d float64) geom.V2 {
	if s.IsArc() {
		r := s.Radius()
		return s.C.Add(p.Sub(s.C).Mul((r - d*float64(s.Turn)) / r))
	}
	return p.Add(tangent.Left().Mul(d))
}
