package shop

import (
	"fmt"
	"math"

	"arete/core/feature"
	"arete/core/geom"
	"arete/core/planar"
	"arete/core/quantity"
	"arete/core/workplan"
)

// excuses knows where no round tool of the setup can reach.
type excuses struct {
	r       *Result
	owner   []int
	covered map[int]planar.Region // by feature index: what its thinnest tool covers
	radius  map[int]float64
	slopes  map[int]bool // faces that level cuts leave
}

const slopeLeft = "rounds at the floor and inclined walls need surface finishing"

func newExcuses(r *Result) *excuses {
	ex := &excuses{r: r, owner: r.Geometry.Work.Features.Owner, covered: map[int]planar.Region{}, radius: map[int]float64{}, slopes: map[int]bool{}}
	for k, f := range r.Geometry.Work.Features.Features {
		for _, i := range f.Slopes {
			ex.slopes[i] = true
		}
		if f.Reachable || f.Region.Empty() {
			continue
		}
		thin := math.Inf(1)
		for _, s := range r.Steps {
			for _, id := range s.Step.Features {
				if id == f.ID && s.Fail == "" && s.Step.Op == workplan.Profiling {
					thin = math.Min(thin, s.Tool.R())
				}
			}
		}
		if math.IsInf(thin, 1) {
			continue
		}
		mouth := f.Region
		if f.Kind == feature.OutsideProfile {
			mouth = planar.Difference(planar.Offset(f.Region, 50, planar.DefaultTolerance), f.Region, planar.DefaultTolerance)
		} else if f.Params.Open {
			beyond := planar.Difference(planar.Offset(f.Bound, 20, planar.DefaultTolerance), r.Geometry.Work.Features.Outline, planar.DefaultTolerance)
			mouth = planar.Union(f.Region, beyond, planar.DefaultTolerance)
		}
		opened := planar.Offset(planar.Offset(mouth, -thin, planar.DefaultTolerance), thin, planar.DefaultTolerance)
		ex.covered[k], ex.radius[k] = opened, thin
	}
	return ex
}

// excused tells whether excess at p is named as unreachable: its feature
// cannot be reached in this setup, or p lies in a corner that is sharper than
// the thinnest tool that finishes it.
func (ex *excuses) excused(face int, p geom.V3) bool {
	k := ex.owner[face]
	if k < 0 {
		return false
	}
	f := ex.r.Geometry.Work.Features.Features[k]
	if ex.slopes[face] || f.Leave {
		return true
	}
	if f.Kind != feature.RoundHole && !f.Region.Empty() && ex.overhung(p) {
		return true
	}
	if f.Reachable {
		return false
	}
	c, ok := ex.covered[k]
	if !ok {
		return f.Region.Empty()
	}
	return !c.Contains(p.XY()) && c.Dist(p.XY()) > 0.01
}

// overhung tells whether the part stands over p.
func (ex *excuses) overhung(p geom.V3) bool {
	above := ex.r.Geometry.Shadow.Above(p.Z + 0.1)
	return above.Contains(p.XY()) && above.Dist(p.XY()) > 0.02
}

func (ex *excuses) say(f *feature.Feature) string {
	for k, g := range ex.r.Geometry.Work.Features.Features {
		if g == f {
			if r, ok := ex.radius[k]; ok {
				return fmt.Sprintf("%s (R%s)", f.Why, quantity.Format(r, 2))
			}
		}
	}
	switch {
	case f.Why != "":
	case f.Kind == feature.RoundHole && len(f.Slopes) > 0:
		return "its back counterbore needs a second setup"
	case len(f.Slopes) > 0:
		return slopeLeft
	default:
		return "the rest lies under an overhang"
	}
	return f.Why
}
