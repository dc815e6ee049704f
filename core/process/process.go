// Package process turns a workingstep into the motion of its tool: it gathers
// from the features, the shadow of the part and what earlier steps removed
// the regions that the strategies work on. Lengths mm, setup coordinates.
package process

import (
	"context"
	"fmt"
	"math"
	"sort"

	"arete/core/feature"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
	"arete/core/section"
	"arete/core/tooling"
	"arete/core/workplan"
)

// Cleared is an area that is empty from above down to Z.
type Cleared struct {
	Region planar.Region
	Z      float64
}

// Input is one step with all it depends on.
type Input struct {
	Step    workplan.Step
	Numbers workplan.Numbers
	Tool    tooling.Tool
	Work    *workplan.Work
	Shadow  *section.Shadow
	Before  []Cleared // by earlier steps
}

// Result is the path, what it clears, and what stands in its way.
type Result struct {
	Path     motion.Path
	Cleared  []Cleared
	Problems []string
	Idle     bool // nothing of what it clears was still standing
}

const tol = planar.DefaultTolerance

// Make computes one step. A path without a cutting move comes with a problem
// that says why.
func Make(ctx context.Context, in Input, progress func(done, total int)) (Result, error) {
	m := &maker{in: in, ctx: ctx, progress: progress, r: in.Tool.R()}
	for _, id := range in.Step.Features {
		m.features = append(m.features, in.Work.Features.ByID(id))
	}
	lo, hi := in.Work.Stock.Min, in.Work.Stock.Max
	m.stock = planar.Region{planar.Rect(lo.X, lo.Y, hi.X, hi.Y)}
	if err := m.check(); err != nil {
		return Result{}, err
	}
	var err error
	switch in.Step.Op {
	case workplan.Facing:
		err = m.facing()
	case workplan.Clearing, workplan.RestClearing, workplan.FloorFinishing:
		err = m.clearing()
	case workplan.Profiling:
		err = m.profiling()
	case workplan.SpotDrilling, workplan.Drilling:
		err = m.drilling()
	case workplan.EdgeBreaking:
		err = m.breaking()
	}
	if err != nil {
		return Result{}, err
	}
	m.out.Path.Straighten()
	if !cuts(m.out.Path) && len(m.out.Problems) == 0 {
		m.say("nothing is left for this step to cut: earlier steps have done it")
	}
	m.out.Idle = m.idle()
	return m.out, nil
}

// idle tells whether all that the step clears was clear before. Holes are not
// kept as regions: of them only the simulation knows.
func (m *maker) idle() bool {
	fresh := m.out.Cleared
	m.out.Cleared = nil // material() must see what stood before
	defer func() { m.out.Cleared = fresh }()
	for _, c := range fresh {
		if planar.Intersection(c.Region, m.material(c.Z, c.Region), tol).Area() > 0.01 {
			return false
		}
	}
	return true
}

type maker struct {
	in       Input
	ctx      context.Context
	progress func(done, total int)
	features []*feature.Feature
	stock    planar.Region
	r        float64
	out      Result
}

func (m *maker) num(key string) float64 { return m.in.Numbers.Get(key) }

func (m *maker) say(format string, a ...any) {
	s := fmt.Sprintf(format, a...)
	for _, p := range m.out.Problems {
		if p == s {
			return
		}
	}
	m.out.Problems = append(m.out.Problems, s)
}

func (m *maker) cleared(r planar.Region, z float64) {
	if !r.Empty() {
		m.out.Cleared = append(m.out.Cleared, Cleared{r, z})
	}
}

// material returns what of the stock still stands at height z, as far as it
// lies near a region: what was cleared elsewhere is not asked.
func (m *maker) material(z float64, near planar.Region) planar.Region {
	lo, hi := near.Bounds()
	reach := 2*m.r + 5
	var gone []planar.Region
	for _, list := range [][]Cleared{m.in.Before, m.out.Cleared} {
		for _, c := range list {
			if c.Z > z+1e-6 {
				continue
			}
			if a, b := c.Region.Bounds(); a.X < hi.X+reach && b.X > lo.X-reach && a.Y < hi.Y+reach && b.Y > lo.Y-reach {
				gone = append(gone, c.Region)
			}
		}
	}
	stock := m.stock
	if b := m.in.Work.Blank; b != nil {
		stock = b.Above(z)
	}
	return planar.Difference(stock, planar.UnionAll(gone, tol), tol)
}

func cuts(p motion.Path) bool {
	for _, mv := range p.Moves {
		if mv.Kind != motion.Rapid {
			return true
		}
	}
	return false
}

// passes divides the way from top to bottom: at most ap each, with a stop at
// every height in stops.
func passes(top, bottom, ap float64, stops []float64) []float64 {
	marks := []float64{bottom}
	for _, s := range stops {
		if s < top-1e-6 && s > bottom+1e-6 {
			marks = append(marks, s)
		}
	}
	sort.Sort(sort.Reverse(sort.Float64Slice(marks)))
	var out []float64
	from := top
	for _, z := range marks {
		n := max(1, int(math.Ceil((from-z)/ap-1e-9)))
		for i := 1; i <= n; i++ {
			out = append(out, from+(z-from)*float64(i)/float64(n))
		}
		from = z
	}
	return out
}

// boreDiameter returns the diameter the step mills of a round hole.
func (m *maker) boreDiameter(f *feature.Feature) float64 {
	if m.in.Step.Choice["part"] == "counterbore" {
		return f.Params.Mouth().Diameter
	}
	return f.Params.Diameter
}

// site is what the milling of one feature works on.
type site struct {
	f     *feature.Feature
	roi   planar.Region // what the step is about
	bound planar.Region // where the tool's centre may be
	keep  func(z float64) planar.Region
}

// far is beyond any region around a bore, mm.
const far = 100

func (m *maker) site(f *feature.Feature) site {
	switch {
	case f.Kind == feature.RoundHole:
		disc := planar.Region{planar.Circle(f.Params.Center.XY(), m.boreDiameter(f)/2)}
		solid := planar.Difference(planar.Offset(disc, far, tol), disc, tol)
		return site{f, disc, disc, func(float64) planar.Region { return solid }}
	case f.Kind == feature.OutsideProfile:
		around := planar.Difference(m.stock, f.Region, tol)
		bound := planar.Difference(planar.Offset(m.stock, m.r+2, tol), f.Region, tol)
		return site{f, around, bound, m.in.Shadow.Above}
	case f.Params.Open:
		beyond := planar.Intersection(planar.Offset(f.Bound, m.margin(), tol), m.stock, tol)
		roi := planar.Union(f.Region, planar.Difference(beyond, m.in.Work.Features.Outline, tol), tol)
		return site{f, roi, planar.Offset(roi, m.r+2, tol), m.in.Shadow.Above}
	}
	return site{f, f.Region, f.Bound, m.in.Shadow.Above}
}

// margin is a little more than the widest strip of stock beside the part.
func (m *maker) margin() float64 { return 0.5 + m.in.Work.Margin() }

// facingBounds returns the corners of what stands on top.
func (m *maker) facingBounds() (lo, hi geom.V2) {
	return m.in.Work.Stock.Min.XY(), m.in.Work.Stock.Max.XY()
}
