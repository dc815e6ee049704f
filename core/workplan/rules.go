package workplan

import (
	"fmt"
	"math"
	"sort"

	"arete/core/feature"
	"arete/core/planar"
	"arete/core/tooling"
)

// Propose makes a first plan by rules: facing; for each milled feature from
// the top down clearing, rest clearing where the big tool left corners, floor
// and wall finishing; holes spot-drilled and drilled, or milled where there
// is no drill of their size; bevels last. Notes say what no tool of the shop
// can do.
func Propose(p *Plan, shop *Shop, w *Work) (notes []string) {
	b := &proposer{p: p, shop: shop, w: w}
	if below := w.Part.Min.Z - w.Stock.Min.Z; below < p.Setup.Grip+1 {
		p.Setup.Grip = math.Max(0, below-1.5)
	}
	b.facing()
	for _, f := range w.Features.Features {
		switch {
		case f.Leave || b.made(f):
		case f.Kind == feature.OutsideProfile:
			b.outside(f)
		case f.Kind == feature.RoundHole && f.Reachable:
			b.hole(f)
		case f.Kind == feature.Chamfer && f.Reachable:
			b.bevel(f)
		case f.Kind == feature.Engraving:
			if !f.Region.Empty() {
				b.notes = append(b.notes, f.Title()+": no step cuts it yet; its outlines can be taken out as DXF or SVG")
			}
		case !f.Region.Empty():
			b.milled(f)
		}
	}
	b.order()
	p.Steps = nil
	for _, d := range b.drafts {
		d.step.ID = p.NewID()
		p.Steps = append(p.Steps, d.step)
	}
	return b.notes
}

// made tells whether the stock has the feature already.
func (b *proposer) made(f *feature.Feature) bool {
	if b.w.Blank == nil || f.Kind == feature.Chamfer {
		return false
	}
	const thin = 0.02
	standing := b.w.Blank.Above(f.Params.FloorZ + thin)
	region := f.Region
	switch {
	case f.Kind == feature.OutsideProfile:
		return planar.Difference(standing, f.Region, planar.DefaultTolerance).Area() < 1
	case f.Kind == feature.RoundHole:
		if region = (planar.Region{planar.Circle(f.Params.Center.XY(), f.Params.Diameter/2)}); math.Abs(f.Approach.Z) < 1-1e-9 {
			return false
		}
		standing = b.w.Blank.Above(f.Params.Center.Z - f.Params.Depth + thin)
	}
	return !region.Empty() && planar.Intersection(region, standing, planar.DefaultTolerance).Area() < 0.01
}

// draft is a step with what must come before it.
type draft struct {
	step  Step
	f     *feature.Feature
	rank  int // phase within the feature
	after []*draft
}

type proposer struct {
	p      *Plan
	shop   *Shop
	w      *Work
	drafts []*draft
	notes  []string
}

func (b *proposer) add(op Operation, name string, t *tooling.Tool, f *feature.Feature) *draft {
	d := &draft{step: Step{Op: op, Name: name, Tool: t.Position}, f: f, rank: len(b.drafts)}
	if f != nil {
		d.step.Features = []string{f.ID}
	}
	b.drafts = append(b.drafts, d)
	return d
}

// mills returns the flat end mills that reach the depth, thickest first.
func (b *proposer) mills(depth float64) []*tooling.Tool {
	var out []*tooling.Tool
	for i := range b.shop.Tools {
		t := &b.shop.Tools[i]
		if t.Kind == tooling.EndMill && t.Stickout > depth+0.5 {
			out = append(out, t)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].DC > out[j].DC })
	return out
}

// reach is how far below the stock's top around it a tool must go.
func (b *proposer) reach(floor float64) float64 { return b.w.Part.Max.Z - floor + BreakThrough }

func (b *proposer) facing() {
	if b.w.Stock.Max.Z-b.w.Part.Max.Z < 1e-6 {
		return
	}
	var best *tooling.Tool
	size := b.w.Stock.Size()
	for i := range b.shop.Tools {
		t := &b.shop.Tools[i]
		wide := t.Kind == tooling.FaceMill && math.Min(size.X, size.Y) > 0.4*t.DC
		if (wide || t.Kind == tooling.EndMill) && (best == nil || t.DC > best.DC) {
			best = t
		}
	}
	if best == nil {
		b.notes = append(b.notes, "no face mill or end mill in the magazine to face the top")
		return
	}
	top := b.topFace()
	b.add(Facing, "Face the top", best, top)
}

// topFace returns the feature of the part's highest face, nil without one.
func (b *proposer) topFace() *feature.Feature {
	for _, f := range b.w.Features.Features {
		if f.Kind == feature.PlanarFace && f.Reachable && math.Abs(f.Params.FloorZ-b.w.Part.Max.Z) < 1e-6 {
			return f
		}
	}
	return nil
}

// lost returns the share of a feature that a tool of radius r cannot cover.
func (b *proposer) lost(f *feature.Feature, r float64) float64 {
	opened := planar.Offset(planar.Offset(b.mouth(f), -r, planar.DefaultTolerance), r, planar.DefaultTolerance)
	return planar.Difference(f.Region, opened, planar.DefaultTolerance).Area() / f.Region.Area()
}

// mouth is the region a tool works in: open sides give way.
func (b *proposer) mouth(f *feature.Feature) planar.Region {
	if !f.Params.Open {
		return f.Region
	}
	grown := planar.Offset(f.Bound, 20, planar.DefaultTolerance)
	beyond := planar.Difference(grown, b.w.Features.Outline, planar.DefaultTolerance)
	return planar.Union(f.Region, beyond, planar.DefaultTolerance)
}

// milled plans a pocket, slot, step, opening or island top.
func (b *proposer) milled(f *feature.Feature) {
	if math.Abs(f.Params.FloorZ-b.w.Part.Max.Z) < 1e-6 {
		return // the facing makes it
	}
	name := f.Title()
	region := b.mouth(f)
	if f.Kind == feature.PlanarFace {
		if t := b.finisher(f, region); t != nil {
			b.add(FloorFinishing, "Finish "+lower(name), t, f)
		}
		return
	}
	rough, finish := b.rougher(f, region), b.finisher(f, region)
	if finish == nil {
		_, r := f.Region.Deepest(0.02)
		b.notes = append(b.notes, fmt.Sprintf("%s: no end mill fits: it takes at most ⌀%.2f and %.1f mm reach", name, 2*r, b.reach(f.Params.FloorZ)))
		return
	}
	if c := f.Params.MinInsideRadius; c > 0 && finish.R() > c {
		b.notes = append(b.notes, fmt.Sprintf("%s: its corners of R%.4g need a tool up to ⌀%.4g that reaches %.1f mm down", name, c, 1.9*c, b.reach(f.Params.FloorZ)))
	}
	if rough == nil || rough.DC < finish.DC && b.lost(f, rough.R()) >= b.lost(f, finish.R()) {
		rough = b.fitting(f, region, finish)
	}
	b.add(Clearing, "Clear "+lower(name), rough, f)
	if rough != finish && b.lost(f, rough.R())-b.lost(f, finish.R()) > 1e-4 {
		b.add(RestClearing, "Clear corners of "+lower(name), finish, f)
	}
	if !f.Params.Through && len(f.Floor) > 0 {
		b.add(FloorFinishing, "Finish floor of "+lower(name), finish, f)
	}
	b.add(Profiling, "Finish walls of "+lower(name), finish, f)
}

// rougher is the thickest tool that covers nearly all of the region.
func (b *proposer) rougher(f *feature.Feature, region planar.Region) *tooling.Tool {
	for _, t := range b.mills(b.reach(f.Params.FloorZ)) {
		if t.DC <= 16 && b.lost(f, t.R()+0.35) < 0.06 {
			return t
		}
	}
	return nil
}

// fitting is the thickest tool, not thicker than limit, that fits with its
// allowance.
func (b *proposer) fitting(f *feature.Feature, region planar.Region, limit *tooling.Tool) *tooling.Tool {
	for _, t := range b.mills(b.reach(f.Params.FloorZ)) {
		if t.DC <= limit.DC && !planar.Offset(region, -t.R()-0.35, planar.DefaultTolerance).Empty() {
			return t
		}
	}
	return limit
}

// sharpest is the radius, mm, below which corners are left to the next
// smaller tool no more when a model has sharp inside corners.
const sharpest = 3

// finisher is the thickest tool that reaches every wall: thinner than the
// tightest inside corner by 5 % and than the narrowest passage.
func (b *proposer) finisher(f *feature.Feature, region planar.Region) *tooling.Tool {
	tools := b.mills(b.reach(f.Params.FloorZ))
	if len(tools) == 0 {
		return nil
	}
	small := tools[len(tools)-1]
	best := b.lost(f, small.R())
	for _, t := range tools {
		corner := f.Params.MinInsideRadius
		if corner > 0 && t.R() > 0.95*corner && t != small {
			continue
		}
		if corner == 0 && !f.Reachable && t.R() > sharpest {
			continue
		}
		slack := 1e-4
		if !f.Reachable {
			slack = 0.02
		}
		if t.DC <= 16 && b.lost(f, t.R()) <= best+slack {
			if planar.Offset(region, -t.R(), planar.DefaultTolerance).Empty() {
				continue
			}
			return t
		}
	}
	if planar.Offset(region, -small.R(), planar.DefaultTolerance).Empty() {
		return nil
	}
	return small
}

// outside plans the profile around the part.
func (b *proposer) outside(f *feature.Feature) {
	tools := b.mills(b.reach(f.Params.FloorZ))
	if len(tools) == 0 {
		b.notes = append(b.notes, fmt.Sprintf("Outside profile: no end mill reaches %.1f mm down", b.reach(f.Params.FloorZ)))
		return
	}
	rough, finish := tools[len(tools)-1], tools[len(tools)-1]
	for _, t := range tools {
		if t.DC <= 16 {
			rough = t
			break
		}
	}
	least := b.gained(f, finish.R())
	for _, t := range tools {
		fine := b.gained(f, t.R()) <= least+1e-2
		if !f.Reachable { // sharp corners: what is left shrinks with every tool
			fine = t.R() <= sharpest
		}
		if t.DC <= 16 && fine {
			finish = t
			break
		}
	}
	if b.w.Margin() > 0.35 {
		b.add(Clearing, "Clear outside", rough, f)
		if rough != finish && b.gained(f, rough.R())-b.gained(f, finish.R()) > 1 {
			b.add(RestClearing, "Clear corners outside", finish, f)
		}
	}
	b.add(Profiling, "Finish outside", finish, f)
}

// gained is the area, mm², of inside corners of the outline that a tool of
// radius r leaves standing: what closing adds to it.
func (b *proposer) gained(f *feature.Feature, r float64) float64 {
	shut := planar.Offset(planar.Offset(f.Region, r, planar.DefaultTolerance), -r, planar.DefaultTolerance)
	return shut.Area() - f.Region.Area()
}

func lower(s string) string {
	if s == "" {
		return s
	}
	if s[0] >= 'A' && s[0] <= 'Z' {
		return string(s[0]|0x20) + s[1:]
	}
	return s
}
