package process

import (
	"math"

	"arete/core/feature"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
	"arete/core/strategy/edges"
	"arete/core/strategy/holes"
	"arete/core/tooling"
	"arete/core/workplan"
)

// drilling serves spot drilling and drilling.
func (m *maker) drilling() error {
	in := holes.Input{Peck: m.num("peck"), Feed: m.num("vf"), Clear: m.num("clearance")}
	switch {
	case in.Peck <= 0:
		in.Kind = motion.CycleDrill
	case m.in.Step.Chosen("cycle") == "chip breaking":
		in.Kind = motion.CycleChipBreak
	default:
		in.Kind = motion.CyclePeck
	}
	for _, f := range m.features {
		if f.Kind != feature.RoundHole {
			m.say("%s is not a round hole: drilling makes holes only", f.Title())
			continue
		}
		top := f.Params.Center.Z
		if f.Approach.Z < 0 { // a through hole claimed from below
			top += f.Params.Depth
		}
		if v, ok := m.in.Step.Typed["top"]; ok {
			top = v
		}
		z := m.tip(f, top)
		if z < m.in.Work.Stock.Min.Z-1e-6 {
			return workplan.Problem{Field: "bottom", Say: "the drill's point would come out below the stock, into the parallels or the table: reduce the depth or add stock below"}
		}
		r := math.Max(top, m.standing(f.Params.Center.XY(), top)) + m.num("rplane")
		if r <= z || r > in.Clear {
			return workplan.Problem{Field: "rplane", Say: "the R plane must lie above the bottom of the hole and not above the clearance plane"}
		}
		in.Holes = append(in.Holes, holes.Hole{XY: f.Params.Center.XY(), R: r, Z: z})
	}
	p, err := holes.Make(m.ctx, in)
	m.out.Path = p
	return err
}

// standing returns how high stock still stands over a place, as far as earlier
// steps have cleared regions there; at least low.
func (m *maker) standing(at geom.V2, low float64) float64 {
	disc := planar.Region{planar.Circle(at, 0.9*m.r)}
	z := m.in.Work.Stock.Max.Z
	for _, c := range m.in.Before {
		if c.Z < z && planar.Difference(disc, c.Region, tol).Area() < 1e-3 {
			z = math.Max(low, c.Z)
		}
	}
	if b := m.in.Work.Blank; b != nil && planar.Intersection(disc, b.Above(low+1e-3), tol).Area() < 1e-3 {
		return low
	}
	return z
}

// tip returns how deep the tool's point goes in a hole.
func (m *maker) tip(f *feature.Feature, top float64) float64 {
	if m.in.Step.Op == workplan.SpotDrilling {
		if v, ok := m.in.Step.Typed["bottom"]; ok {
			return v
		}
		wide := math.Min(0.8*f.Params.Diameter, 0.95*m.in.Tool.DC)
		return top - wide/2/math.Tan(m.in.Tool.SIG*math.Pi/360)
	}
	if v, ok := m.in.Step.Typed["bottom"]; ok {
		return v - m.in.Tool.PointLength()
	}
	bottom := top - f.Params.Depth
	if f.Params.Through {
		bottom -= workplan.BreakThrough
	}
	return bottom - m.in.Tool.PointLength()
}

// breaking serves bevels on edges and countersinks of holes.
func (m *maker) breaking() error {
	t := m.in.Tool
	slope := math.Tan(t.SIG * math.Pi / 360)
	in := edges.Input{Lead: 1, Clear: m.num("clearance"), Feed: m.num("vf"), Tol: tol}
	plunge := holes.Input{Kind: motion.CycleDrill, Feed: m.num("vf"), Clear: m.num("clearance")}
	for _, f := range m.features {
		switch {
		case f.Kind == feature.RoundHole && f.Params.Countersink.Diameter > 0:
			top := f.Params.Center.Z
			if f.Params.Countersink.Diameter > t.DC { // around, as an edge
				if rim, ok := sinkRim(f, t, m.num("contact"), slope); ok {
					in.Rims = append(in.Rims, rim)
				} else {
					m.say("%s: the countersink is wider than the tool and its hole too narrow to go around in", f.Title())
				}
				continue
			}
			z := top - (f.Params.Countersink.Diameter-t.Tip)/2/slope
			plunge.Holes = append(plunge.Holes, holes.Hole{XY: f.Params.Center.XY(), R: top + 2, Z: z})
		case f.Kind == feature.Chamfer:
			contact := m.num("contact")
			in.Rims = append(in.Rims, edges.Rim{Chain: planar.Loop(f.Edge.Rim).Reverse(), Low: f.Params.FloorZ,
				Offset: t.Tip/2 + contact*slope, Tip: f.Params.FloorZ - contact})
		default:
			m.say("%s has no bevel: pick an edge with a chamfer", f.Title())
		}
	}
	p, err := edges.Make(m.ctx, in)
	if err != nil {
		return err
	}
	q, err := holes.Make(m.ctx, plunge)
	n := len(p.Moves)
	for i := range q.Cycles {
		q.Cycles[i].From += n
		q.Cycles[i].To += n
	}
	m.out.Path = motion.Path{Moves: append(p.Moves, q.Moves...), Cycles: q.Cycles}
	return err
}

// sinkRim is the lower edge of a countersink as a bevel to go around inside.
func sinkRim(f *feature.Feature, t tooling.Tool, contact, slope float64) (edges.Rim, bool) {
	p := f.Params
	offset := t.Tip/2 + contact*slope
	low := p.Center.Z - (p.Countersink.Diameter-p.Diameter)/2/math.Tan(p.Countersink.Angle*math.Pi/360)
	if p.Diameter/2 <= offset+0.2 || low-contact < p.Center.Z-p.Depth {
		return edges.Rim{}, false
	}
	return edges.Rim{Chain: planar.Circle(p.Center.XY(), p.Diameter/2), Low: low, Offset: offset, Tip: low - contact}, true
}
