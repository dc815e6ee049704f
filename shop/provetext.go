package shop

import (
	"context"
	"fmt"

	"arete/core/compare"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/nc/read"
	"arete/core/removal"
	"arete/core/tooling"
)

// ProveText simulates a program's text as it is, whoever wrote or changed it,
// against the plan's part and stock: the tools are those that it loads. What it
// was meant to be is not asked, so that ReadBack stays empty.
func ProveText(ctx context.Context, r *Result, text string) (*Proof, error) {
	p := &Proof{Counts: map[compare.State]int{}, Features: map[string]FeatureState{}}
	p.Text.Body = text
	back := read.Read(text)
	p.Problems = back.Problems
	if err := p.cut(ctx, r, byTool(r, back), Options{}, nil); err != nil {
		return nil, err
	}
	return p, nil
}

// byTool groups the moves read by the tool in the spindle.
func byTool(r *Result, back read.Program) []removal.Step {
	high := r.Geometry.Work.Stock.Max.Z + HomeLift
	at := geom.V3{Z: high}
	var out []removal.Step
	t := 0.0
	for _, m := range back.Moves {
		if m.Home {
			at = geom.V3{X: m.To.X, Y: m.To.Y, Z: high}
			continue
		}
		if n := len(out); n == 0 || out[n-1].Tool.Position != m.Tool {
			tool := tooling.Tool{Position: m.Tool, Kind: tooling.EndMill, DC: 1, Shank: 1, APMX: 1, Stickout: 1}
			if known := tooling.ByPosition(r.Shop.Tools, m.Tool); known != nil {
				tool = *known
			}
			out = append(out, removal.Step{ID: fmt.Sprintf("T%d", m.Tool), Tool: tool, Start: at})
		}
		s := &out[len(out)-1]
		s.Moves = append(s.Moves, m.Move)
		at = m.To
	}
	for i := range out {
		out[i].T0 = t
		out[i].Times = motion.Times(out[i].Moves, out[i].Start, r.Shop.Machine)
		for _, dt := range out[i].Times {
			t += dt
		}
	}
	return out
}
