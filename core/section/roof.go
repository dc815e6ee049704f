package section

import (
	"sort"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
)

// roof is a large level face: what lies wholly under it adds nothing to the
// shadow above any level.
type roof struct {
	region planar.Region
	area   float64
	z      float64
}

// levelRoofs returns the largest level faces that look up.
func levelRoofs(s *brep.View, skip map[int]bool) []roof {
	const most = 6
	var out []roof
	for i, f := range s.Faces {
		if p, ok := f.Surface.(brep.Plane); ok && !skip[i] && f.NormalAt(p.F.O).Z > 1-flat {
			r := outline(s, f)
			out = append(out, roof{r, r.Area(), p.F.O.Z})
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].area > out[j].area })
	return out[:min(len(out), most)]
}

// under tells whether a face lies wholly under one of the roofs.
func under(f *brep.Face, roofs []roof) bool {
	if len(roofs) == 0 {
		return false
	}
	box, ok := f.Box()
	if !ok {
		return false
	}
	for _, r := range roofs {
		if box.Max.Z <= r.z-1e-6 && r.spans(box) {
			return true
		}
	}
	return false
}

// spans tells whether the roof reaches over all of the box: no part of its
// boundary does, but along the box's sides.
func (r roof) spans(b geom.Box) bool {
	for _, l := range r.region {
		for _, s := range l {
			lo, hi := s.Bounds()
			if lo.X < b.Max.X-1e-6 && hi.X > b.Min.X+1e-6 && lo.Y < b.Max.Y-1e-6 && hi.Y > b.Min.Y+1e-6 {
				return false
			}
		}
	}
	return r.region.Contains(b.Min.Lerp(b.Max, 0.5).XY())
}
