package workplan

import (
	"fmt"
	"math"

	"arete/core/feature"
	"arete/core/tooling"
)

// hole plans spot drilling, drilling and what must be milled.
func (b *proposer) hole(f *feature.Feature) {
	p := f.Params
	spot := b.first(tooling.SpotDrill, func(t *tooling.Tool) bool { return true })
	drill := b.drillFor(p.Diameter, p.Depth)
	flatBottom := p.Bottom == "flat"
	coned := p.Bottom == "cone"
	switch {
	case drill != nil && !flatBottom && (!coned || math.Abs(drill.SIG-p.PointAngle) < 2 || p.PointAngle > drill.SIG):
		if spot != nil {
			b.add(SpotDrilling, "Spot", spot, f)
		}
		b.add(Drilling, fmt.Sprintf("Drill ⌀%.4g", drill.DC), drill, f)
	case coned && drill != nil:
		if spot != nil {
			b.add(SpotDrilling, "Spot", spot, f)
		}
		b.add(Drilling, fmt.Sprintf("Drill ⌀%.4g", drill.DC), drill, f)
		b.notes = append(b.notes, fmt.Sprintf("%s: its point has %.0f°, the drill %.0f°", f.Title(), p.PointAngle, drill.SIG))
	default:
		if !b.bore(f, p.Diameter, "") {
			b.notes = append(b.notes, fmt.Sprintf("%s: no drill of ⌀%.4g and no end mill that fits", f.Title(), p.Diameter))
			return
		}
	}
	if p.Counterbore.Diameter > 0 && !b.bore(f, p.Counterbore.Diameter, "counterbore ") {
		b.notes = append(b.notes, fmt.Sprintf("%s: no end mill for the counterbore", f.Title()))
	}
	if p.Countersink.Diameter > 0 {
		if t := b.first(tooling.ChamferMill, func(t *tooling.Tool) bool { return math.Abs(t.SIG-p.Countersink.Angle) < 1 }); t != nil {
			b.add(EdgeBreaking, "Countersink "+lower(f.Title()), t, f)
		} else {
			b.notes = append(b.notes, fmt.Sprintf("%s: no chamfer mill of %.0f°", f.Title(), p.Countersink.Angle))
		}
	}
}

// bore mills a round hole: clearing by helix, then the wall.
func (b *proposer) bore(f *feature.Feature, d float64, what string) bool {
	floor := f.Params.FloorZ
	if what != "" {
		floor = f.Params.TopZ - f.Params.Counterbore.Depth
	}
	for _, t := range b.mills(b.reach(floor)) {
		if t.DC <= 0.75*d {
			c := b.add(Clearing, "Mill "+what+lower(f.Title()), t, f)
			w := b.add(Profiling, "Finish "+what+lower(f.Title()), t, f)
			if what != "" {
				c.step.Choice = map[string]string{"part": "counterbore"}
				w.step.Choice = map[string]string{"part": "counterbore"}
			}
			return true
		}
	}
	return false
}

// drillFor finds a drill of the size (within 0.01 mm) that is long enough.
func (b *proposer) drillFor(d, depth float64) *tooling.Tool {
	return b.first(tooling.Drill, func(t *tooling.Tool) bool {
		return math.Abs(t.DC-d) <= 0.0101 && t.APMX >= depth
	})
}

func (b *proposer) first(k tooling.Kind, ok func(*tooling.Tool) bool) *tooling.Tool {
	for i := range b.shop.Tools {
		if t := &b.shop.Tools[i]; t.Kind == k && ok(t) {
			return t
		}
	}
	return nil
}

// bevel plans an edge break.
func (b *proposer) bevel(f *feature.Feature) {
	angle := 2 * math.Atan2(f.Edge.Width, f.Edge.Height) * 180 / math.Pi
	t := b.first(tooling.ChamferMill, func(t *tooling.Tool) bool {
		return math.Abs(t.SIG-angle) < 1 && t.APMX > f.Edge.Height+0.5
	})
	if t == nil {
		b.notes = append(b.notes, fmt.Sprintf("%s: no chamfer mill of %.0f° and %.1f mm", f.Title(), angle, f.Edge.Height))
		return
	}
	b.add(EdgeBreaking, "Break edge, "+lower(f.Title()), t, f)
}
