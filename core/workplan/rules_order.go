package workplan

import (
	"fmt"
	"math"
	"slices"

	"arete/core/feature"
)

// merge joins drafts of one operation and tool on like holes or bevels.
func (b *proposer) merge() {
	var out []*draft
	for _, d := range b.drafts {
		joined := false
		for _, e := range out {
			if e.step.Op != d.step.Op || e.step.Tool != d.step.Tool || d.f == nil || e.f == nil {
				continue
			}
			like := d.step.Op == SpotDrilling || d.f.Kind == feature.RoundHole && e.f.Kind == feature.RoundHole && sameHole(d.f, e.f) && e.step.Choice["part"] == d.step.Choice["part"]
			like = like || d.f.Kind == feature.Chamfer && e.f.Kind == feature.Chamfer && math.Abs(d.f.Edge.Width-e.f.Edge.Width) < 1e-3
			if like {
				e.step.Features = append(e.step.Features, d.step.Features...)
				joined = true
				break
			}
		}
		if !joined {
			out = append(out, d)
		}
	}
	for _, d := range out {
		n := len(d.step.Features)
		switch {
		case d.step.Op == SpotDrilling:
			d.step.Name = fmt.Sprintf("Spot %s", count(n, "hole"))
		case d.f != nil && d.f.Kind == feature.RoundHole && n > 1:
			d.step.Name += fmt.Sprintf(", %d×", n)
		}
	}
	b.drafts = out
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

func sameHole(f, g *feature.Feature) bool {
	p, q := f.Params, g.Params
	return math.Abs(p.Diameter-q.Diameter) < 1e-3 && math.Abs(p.Depth-q.Depth) < 1e-3 && p.Through == q.Through &&
		math.Abs(p.TopZ-q.TopZ) < 1e-3 && math.Abs(p.Counterbore.Diameter-q.Counterbore.Diameter) < 1e-3
}

// order sorts the drafts so that what must come first does, and tools change
// as seldom as that allows.
func (b *proposer) order() {
	b.merge()
	for i, d := range b.drafts {
		for j, e := range b.drafts {
			if i != j && b.before(e, d) {
				d.after = append(d.after, e)
			}
		}
	}
	var out []*draft
	rest := b.drafts
	tool := 0
	for len(rest) > 0 {
		next := -1
		for i, d := range rest {
			ready := !slices.ContainsFunc(d.after, func(e *draft) bool { return slices.Contains(rest, e) })
			if !ready {
				continue
			}
			if next < 0 {
				next = i
			}
			if d.step.Tool == tool {
				next = i
				break
			}
		}
		if next < 0 { // a circle of wishes: keep the order of drafting
			next = 0
		}
		out = append(out, rest[next])
		tool = rest[next].step.Tool
		rest = append(rest[:next:next], rest[next+1:]...)
	}
	b.drafts = out
}

// before tells whether e must be done before d.
func (b *proposer) before(e, d *draft) bool {
	if e.step.Op == Facing {
		return true
	}
	if d.step.Op == Facing {
		return false
	}
	if phase(e.step.Op) != phase(d.step.Op) && shareFeature(e, d) {
		return e.rank < d.rank
	}
	if e.step.Op == Clearing && d.step.Op == RestClearing || e.rank < d.rank && shareFeature(e, d) {
		return e.rank < d.rank
	}
	if d.step.Op == EdgeBreaking && e.step.Op != EdgeBreaking {
		return true
	}
	// What lies inside an area and below it waits for the area's clearing.
	if (e.step.Op == Clearing || e.step.Op == RestClearing) && e.f != nil && e.f.Kind != feature.OutsideProfile && !e.f.Region.Empty() {
		return e.f != d.f && b.within(d, e.f)
	}
	return false
}

func phase(o Operation) int {
	return slices.Index([]Operation{Facing, Clearing, RestClearing, FloorFinishing, Profiling, SpotDrilling, Drilling, EdgeBreaking}, o)
}

func shareFeature(a, b *draft) bool {
	for _, f := range a.step.Features {
		if slices.Contains(b.step.Features, f) {
			return true
		}
	}
	return false
}

// within tells whether any feature of the draft begins at or below f's floor
// inside f's bound, or is an island top that f's clearing lays open.
func (b *proposer) within(d *draft, f *feature.Feature) bool {
	for _, id := range d.step.Features {
		g := b.w.Features.ByID(id)
		at := g.Params.Center.XY()
		if !g.Bound.Empty() {
			at, _ = g.Bound.Deepest(0.1)
		}
		if f.Bound.Contains(at) && (g.Params.TopZ <= f.Params.FloorZ+1e-6 || g.Kind == feature.PlanarFace || g.Kind == feature.RoundHole && g.Params.TopZ < f.Params.TopZ-1e-6) {
			return true
		}
	}
	return false
}
