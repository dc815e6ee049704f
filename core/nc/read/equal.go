package read

import (
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/motion"
)

// Planned is the motion of one step as it was meant.
type Planned struct {
	Tool  int
	RPM   float64
	Moves []motion.Move
}

// Equal compares the moves read with those planned, one by one: kind, end
// point, centre, feed, tool and speed, within the resolution. Planned moves
// too short for the resolution may be missing. It returns the first
// difference, empty when there is none.
func Equal(p Program, plan []Planned, resolution float64) string {
	k := 0
	skipHome := func() {
		for k < len(p.Moves) && p.Moves[k].Home {
			k++
		}
	}
	var at, before geom.V3 // where the text and the plan are
	for i, s := range plan {
		for j, m := range s.Moves {
			skipHome()
			from := before
			before = m.To
			if k < len(p.Moves) && p.Moves[k].Tool == s.Tool && same(p.Moves[k], m, s, resolution) && sameTurn(p.Moves[k], at, m, from, resolution) {
				at = p.Moves[k].To
				k++
				continue
			}
			if m.To.Dist(at) <= resolution*2 && (!m.IsArc() || math.Abs(m.Sweep(at)) < math.Pi || m.To.XY().Dist(m.C) < resolution) {
				continue
			}
			if k >= len(p.Moves) {
				return fmt.Sprintf("step %d, move %d is not in the text", i+1, j+1)
			}
			q := p.Moves[k]
			return fmt.Sprintf("line %d: step %d, move %d goes to X%.4f Y%.4f Z%.4f F%.0f with T%d, planned X%.4f Y%.4f Z%.4f F%.0f with T%d",
				q.Line, i+1, j+1, q.To.X, q.To.Y, q.To.Z, q.Feed, q.Tool, m.To.X, m.To.Y, m.To.Z, m.Feed, s.Tool)
		}
	}
	skipHome()
	if k < len(p.Moves) {
		return fmt.Sprintf("line %d: a move that was not planned", p.Moves[k].Line)
	}
	return ""
}

// sameTurn tells whether an arc runs as far around as planned: ends that
// rounding brought together could make a full circle of it.
func sameTurn(q Move, at geom.V3, m motion.Move, from geom.V3, res float64) bool {
	if !m.IsArc() {
		return true
	}
	r := m.To.XY().Dist(m.C)
	read := motion.Move{Kind: q.Kind, To: q.To, C: q.C}
	return math.Abs(read.Sweep(at)-m.Sweep(from))*r < 6*res
}

func same(q Move, m motion.Move, s Planned, res float64) bool {
	close := func(a, b float64) bool { return math.Abs(a-b) <= res*0.6 }
	if q.Kind != m.Kind || !close(q.To.X, m.To.X) || !close(q.To.Y, m.To.Y) || !close(q.To.Z, m.To.Z) {
		return false
	}
	if m.IsArc() && q.C.Dist(m.C) > 2*res {
		return false
	}
	if m.Kind != motion.Rapid && (math.Abs(q.Feed-m.Feed) > 0.6 || math.Abs(q.RPM-s.RPM) > 0.6) {
		return false
	}
	return true
}
