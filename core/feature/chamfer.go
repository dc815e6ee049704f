package feature

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
)

// takeChamfers claims narrow upward bevels: cones about Z and inclined planes
// whose lower edge is at most 3 mm from the upper one, joined to runs of one
// width and level. They stay in the shadow, since other tools must spare them.
func (r *recogniser) takeChamfers() {
	type rim struct {
		seg           planar.Segment
		face          int
		width, height float64
		top           float64
	}
	var rims []rim
	for i, f := range r.s.Faces {
		if r.taken[i] || r.skip[i] {
			continue
		}
		n, ok := bevelNormal(f)
		if !ok || n.Z < 0.2 || n.Z > 0.98 {
			continue
		}
		low, lo, hi := lowerEdge(f)
		if low == nil || hi-lo > 3 || hi-lo < 0.05 {
			continue
		}
		w := (hi - lo) * n.Z / math.Sqrt(1-n.Z*n.Z)
		for _, s := range low {
			rims = append(rims, rim{s, i, w, hi - lo, hi})
		}
	}
	used := make([]bool, len(rims))
	for i := range rims {
		if used[i] {
			continue
		}
		f := &Feature{Kind: Chamfer, Approach: geom.V3{Z: 1}, Reachable: true, Edge: Edge{Width: rims[i].width, Height: rims[i].height}}
		f.Params.TopZ, f.Params.FloorZ = rims[i].top, rims[i].top-rims[i].height
		f.Params.Depth, f.Params.Width = rims[i].height, rims[i].width
		chain := []planar.Segment{rims[i].seg}
		faces := map[int]bool{rims[i].face: true}
		used[i] = true
		for grown := true; grown; {
			grown = false
			for j := range rims {
				if used[j] || math.Abs(rims[j].width-rims[i].width) > 1e-3 || math.Abs(rims[j].top-rims[i].top) > 1e-3 || math.Abs(rims[j].height-rims[i].height) > 1e-3 {
					continue
				}
				switch {
				case rims[j].seg.A.Dist(chain[len(chain)-1].B) < 1e-4:
					chain = append(chain, rims[j].seg)
				case rims[j].seg.B.Dist(chain[0].A) < 1e-4:
					chain = append([]planar.Segment{rims[j].seg}, chain...)
				default:
					continue
				}
				used[j], grown = true, true
				faces[rims[j].face] = true
			}
		}
		f.Edge.Rim = chain
		for k := range faces {
			f.Faces = append(f.Faces, k)
		}
		r.take(f)
	}
}

func bevelNormal(f *brep.Face) (geom.V3, bool) {
	switch s := f.Surface.(type) {
	case brep.Plane:
		return f.NormalAt(s.F.O), true
	case brep.Cone:
		if math.Abs(s.F.Z.Z) > 1-1e-6 && len(f.Loops) > 0 && len(f.Loops[0].Coedges) > 0 {
			p, _ := f.Loops[0].Coedges[0].Edge.Mid()
			return f.NormalAt(p), true
		}
	}
	return geom.V3{}, false
}

// lowerEdge returns the horizontal edges at the face's lowest height as
// segments with the face on their left, and the heights the face spans; nil
// when there is no such edge.
func lowerEdge(f *brep.Face) (segs []planar.Segment, lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			lo = math.Min(lo, math.Min(c.Edge.A.P.Z, c.Edge.B.P.Z))
			hi = math.Max(hi, math.Max(c.Edge.A.P.Z, c.Edge.B.P.Z))
		}
	}
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			m, _ := c.Edge.Mid()
			if math.Abs(m.Z-lo) > 1e-4 || math.Abs(c.Edge.A.P.Z-lo) > 1e-4 || math.Abs(c.Edge.B.P.Z-lo) > 1e-4 {
				continue
			}
			a, b := c.Ends()
			if k, ok := c.Edge.Curve.(brep.Circle); ok {
				turn := int8(1)
				if (k.F.Z.Z > 0) != c.Forward {
					turn = -1
				}
				segs = append(segs, planar.Arc(a.XY(), b.XY(), k.F.O.XY(), turn)...)
			} else {
				segs = append(segs, planar.Line(a.XY(), b.XY()))
			}
		}
	}
	return segs, lo, hi
}
