package process

import (
	"math"

	"arete/core/feature"
	"arete/core/planar"
	"arete/core/strategy/clearing"
	"arete/core/strategy/facing"
	"arete/core/strategy/profiling"
	"arete/core/workplan"
)

func (m *maker) facing() error {
	lo, hi := m.facingBounds()
	bottom := m.num("bottom") + m.num("floor")
	in := facing.Input{Min: lo, Max: hi, Z: passes(m.num("top"), bottom, m.num("ap"), nil), Radius: m.r,
		AE: math.Min(m.num("ae"), m.in.Tool.DC), Clear: m.num("clearance"), Feed: m.num("vf"), OneWay: m.in.Step.Chosen("pattern") == "one-way"}
	if m.num("top")-bottom < 1e-6 {
		m.say("the stock has nothing above the top of the part: add to its margin, or delete this step")
		return nil
	}
	p, err := facing.Make(m.ctx, in)
	m.out.Path = p
	m.cleared(m.stock, bottom)
	return err
}

// sliver is the thickness, mm, below which a remainder is not worth a path.
const sliver = 0.02

// clearing serves clearing, rest clearing and floor finishing.
func (m *maker) clearing() error {
	var first error
	for _, f := range m.features {
		s := m.site(f)
		levels := m.levels(s)
		if len(levels) == 0 {
			continue
		}
		in := clearing.Input{Levels: levels, Bound: s.bound, Radius: m.r, AE: math.Min(m.num("ae"), 2*m.r*0.98),
			Allowance: m.num("side"), Clear: m.num("clearance"), Feed: m.num("vf"), Plunge: m.num("plunge"),
			RampAngle: m.num("ramp") * math.Pi / 180, MinHelix: 0.08 * m.r, Plunges: m.in.Tool.CutsCentre(),
			Climb: m.in.Step.Chosen("mode") == "climb", Tol: tol}
		p, problems, err := clearing.Make(m.ctx, in, m.progress)
		if err != nil {
			first = err
			break
		}
		m.out.Path.Moves = append(m.out.Path.Moves, p.Moves...)
		for _, pr := range problems {
			m.say("%s: %s", f.Title(), pr.Say)
		}
		for _, lv := range levels {
			room := planar.Difference(s.bound, planar.Offset(lv.Keep, m.r+in.Allowance, tol), tol)
			m.cleared(planar.Intersection(planar.Offset(room, m.r, tol), planar.Union(lv.Stock, s.roi, tol), tol), lv.Z)
		}
	}
	return first
}

// levels returns the depths of cut of a site with what to keep and to remove.
func (m *maker) levels(s site) []clearing.Level {
	floor := m.num("floor")
	top, bottom := m.num("top"), m.num("bottom")+floor
	if len(m.features) > 1 && m.in.Step.Typed["bottom"] == 0 { // like features at their own depths
		top, bottom = s.f.Params.TopZ, m.ownBottom(s.f)+floor
	}
	var zs []float64
	if m.in.Step.Op == workplan.FloorFinishing {
		zs = []float64{bottom}
		top = math.Min(top, bottom+0.5)
	} else {
		zs = passes(top, bottom, m.num("ap"), m.stops(s.f, floor))
	}
	var out []clearing.Level
	from := top
	for _, z := range zs {
		keep := s.keep(z - floor)
		material := m.material(z, s.roi)
		stock := planar.Difference(planar.Intersection(s.roi, material, tol), planar.Offset(keep, m.num("side"), tol), tol)
		stock = planar.Offset(planar.Offset(stock, -sliver/2, tol), sliver/2, tol)
		out = append(out, clearing.Level{Z: z, From: from, Keep: keep, Stock: stock, Material: material})
		from = z
	}
	return out
}

// ownBottom is the floor of one of several like features.
func (m *maker) ownBottom(f *feature.Feature) float64 {
	if m.in.Step.Choice["part"] == "counterbore" {
		return f.Params.TopZ - f.Params.Mouth().Depth
	}
	if f.Params.Through {
		return f.Params.FloorZ - workplan.BreakThrough
	}
	return f.Params.FloorZ
}

// stops are the floors within a feature's bound that a pass must not skip:
// tops of islands, and higher floors that its clearing lays open.
func (m *maker) stops(f *feature.Feature, floor float64) []float64 {
	var out []float64
	for _, g := range m.in.Work.Features.Features {
		if g == f || g.Floor.Empty() || g.Kind == feature.RoundHole || f.Kind == feature.RoundHole {
			continue
		}
		p, _ := g.Floor.Deepest(0.1)
		if f.Kind != feature.OutsideProfile && f.Bound.Contains(p) {
			out = append(out, g.Params.FloorZ+floor)
		}
	}
	return out
}

func (m *maker) profiling() error {
	in := profiling.Input{Radius: m.r, Lead: m.num("lead"), Extend: m.num("extend"), Spring: int(m.num("spring")),
		Clear: m.num("clearance"), Feed: m.num("vf"), Plunge: m.num("plunge"), Climb: m.in.Step.Chosen("mode") == "climb", Tol: tol}
	for _, f := range m.features {
		s := m.site(f)
		top, bottom := m.num("top"), m.num("bottom")
		if len(m.features) > 1 && m.in.Step.Typed["bottom"] == 0 {
			top, bottom = f.Params.TopZ, m.ownBottom(f)
		}
		floor := m.num("floor")
		in.Passes = in.Passes[:0]
		for _, z := range passes(top, bottom+floor, m.num("ap"), nil) {
			keep := s.keep(z - floor)
			room := planar.Difference(s.bound, planar.Offset(keep, m.r+m.num("side"), tol), tol)
			p := profiling.Pass{Z: z, Top: m.in.Work.Part.Max.Z, Room: room, Material: m.material(z, s.roi)}
			p.Curves = m.walls(s, room, keep)
			if len(p.Curves) == 0 {
				_, d := s.roi.Deepest(0.02)
				m.say("%s: the tool is too wide: it takes at most ⌀%.2f", f.Title(), 2*d)
			}
			in.Passes = append(in.Passes, p)
			m.cleared(planar.Intersection(planar.Offset(room, m.r, tol), s.roi, tol), z)
		}
		path, err := profiling.Make(m.ctx, in)
		if err != nil {
			return err
		}
		m.out.Path.Moves = append(m.out.Path.Moves, path.Moves...)
	}
	return nil
}

// walls returns the curves of the centre along the walls of a site.
func (m *maker) walls(s site, room, keep planar.Region) []planar.Loop {
	var out []planar.Loop
	for _, l := range room {
		switch {
		case s.f.Kind == feature.OutsideProfile:
			if l.Area() < 0 { // around the part
				out = append(out, l)
			}
		case s.f.Params.Open:
			out = append(out, m.innerWalls(s, l, keep)...)
		default:
			out = append(out, l)
		}
	}
	return out
}

// innerWalls keeps what of a curve runs along walls inside the outline: a
// segment whose nearest wall lies on the outline goes around the outside, or
// around the corner where a wall ends.
func (m *maker) innerWalls(s site, l planar.Loop, keep planar.Region) []planar.Loop {
	inner := func(g planar.Segment) bool {
		p := g.At(0.5)
		if s.bound.Dist(p) < 1e-5 {
			return false
		}
		return m.in.Work.Features.Outline.Dist(keep.Nearest(p)) > 1e-4
	}
	first := -1 // a segment that is not kept, to begin behind
	for i, g := range l {
		if !inner(g) {
			first = i
			break
		}
	}
	if first < 0 {
		return []planar.Loop{l}
	}
	var out []planar.Loop
	var cur planar.Loop
	for k := 1; k <= len(l); k++ {
		g := l[(first+k)%len(l)]
		if inner(g) {
			cur = append(cur, g)
			continue
		}
		if cur.Len() > 0.05 {
			out = append(out, cur)
		}
		cur = nil
	}
	return out
}
