package feature

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// takeWalls gives each vertical face to the feature that clears the space in
// front of it: the one with the highest floor not above the wall's foot.
func (r *recogniser) takeWalls() {
	for i, face := range r.s.Faces {
		if r.taken[i] {
			continue
		}
		p, n, foot, ok := wallProbe(face)
		if !ok {
			continue
		}
		at := p.XY().Add(n.XY().Unit().Mul(0.01))
		var best *Feature
		for _, f := range r.set.Features {
			if f.Region.Empty() || f.Params.FloorZ > foot+1e-3 {
				continue
			}
			in := f.Region.Contains(at)
			if f.Kind == OutsideProfile {
				in = !in
			}
			if in && (best == nil || f.Params.FloorZ > best.Params.FloorZ) {
				best = f
			}
		}
		if best != nil {
			best.Faces = append(best.Faces, i)
			r.taken[i] = true
		}
	}
}

// wallProbe returns a point in the middle of a vertical face, its normal
// there, and the face's lowest height.
func wallProbe(f *brep.Face) (p, n geom.V3, foot float64, ok bool) {
	foot = math.Inf(1)
	if s, round := f.Surface.(brep.Cylinder); round && math.Abs(s.F.Z.Z) < 1-1e-6 {
		return
	}
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			m, dir := c.Edge.Mid()
			foot = math.Min(foot, math.Min(c.Edge.A.P.Z, c.Edge.B.P.Z))
			if math.Abs(f.NormalAt(m).Z) > 1e-6 { // vertical all over, not only at one edge
				return p, n, foot, false
			}
			if !ok && math.Abs(c.Edge.Curve.Tangent(c.Edge.T0).Z) < 1e-6*dir.Len() {
				p, ok = m, true
			}
		}
	}
	if !ok {
		return
	}
	n = f.NormalAt(p)
	return p, n, foot, true
}
