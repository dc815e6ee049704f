package feature

import (
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// takeBosses names what stands up from a floor that is open all around it:
// its top and its walls. The clearing around it keeps the walls too.
func (r *recogniser) takeBosses() {
	for _, g := range r.set.Features {
		if g.Kind != Step || g.Params.Islands <= 0 || !g.Params.Open || g.Region.Empty() {
			continue
		}
		for _, island := range g.Region[1:] {
			f := &Feature{Kind: Boss, Approach: geom.V3{Z: 1}, Reachable: true}
			lo, hi := planar.Region{island}.Bounds()
			p := &f.Params
			p.FloorZ, p.TopZ = g.Params.FloorZ, g.Params.FloorZ
			p.Length, p.Width = extent(planar.Region{island})
			p.Center = lo.Lerp(hi, 0.5).At(0)
			f.Faces = r.wallsAlong(island, g, p)
			p.Depth = p.TopZ - p.FloorZ
			p.Center.Z = p.TopZ
			p.Diameter = 2 * roundLoop(island)
			if len(f.Faces) > 0 {
				r.set.Features = append(r.set.Features, f)
			}
		}
	}
}

// wallsAlong returns the faces of the clearing g that stand along the island,
// and raises p's top to theirs.
func (r *recogniser) wallsAlong(island planar.Loop, g *Feature, p *Params) []int {
	var out []int
	for _, i := range g.Faces {
		at, _, _, ok := wallProbe(r.s.Faces[i])
		if !ok || (planar.Region{island}).Dist(at.XY()) > 1e-3 {
			continue
		}
		_, hi := span(r.s.Faces[i])
		p.TopZ = math.Max(p.TopZ, hi)
		out = append(out, i)
	}
	return out
}

// roundLoop returns the radius of a loop that is one circle, else 0.
func roundLoop(l planar.Loop) float64 {
	for _, s := range l {
		if !s.IsArc() || s.C.Dist(l[0].C) > 1e-4 {
			return 0
		}
	}
	return l[0].Radius()
}
