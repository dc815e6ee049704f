package feature

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// takeSlopes gives the faces between a floor and its walls, and drafted walls
// themselves, to the feature whose mouth they lie in: rounds at the floor,
// inclined planes, cones and other faces that look up and join it smoothly or
// from above.
func (r *recogniser) takeSlopes() {
	for grown := true; grown; {
		grown = false
		for i, f := range r.s.Faces {
			if r.taken[i] {
				continue
			}
			owner := r.below(f)
			if owner == nil || r.hidden(f) {
				continue
			}
			owner.Faces, owner.Slopes = append(owner.Faces, i), append(owner.Slopes, i)
			r.taken[i] = true
			grown = true
			measureSlope(owner, f)
		}
	}
}

// below returns the feature one of whose faces is the lower neighbour of a
// face that rises from it.
func (r *recogniser) below(f *brep.Face) *Feature {
	lo, hi := span(f)
	if hi-lo < 1e-6 || !rises(f) || bulge(f) > 0 && !upright(f) {
		return nil
	}
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			m := c.Mate()
			if m == nil || m.Face == f {
				continue
			}
			i := r.index[m.Face]
			if !r.taken[i] {
				continue
			}
			g := r.holder(i)
			if g == nil || g.Kind == PlanarFace || g.Kind == Chamfer || g.Kind == RoundHole || g.Region.Empty() || g.Kind == OutsideProfile {
				continue
			}
			if lo < g.Params.FloorZ-1e-4 || hi > g.Params.TopZ+1e-4 || c.Edge.Shape() == brep.Convex {
				continue
			}
			return g
		}
	}
	return nil
}

// hidden tells whether the part stands over the space in front of the face.
func (r *recogniser) hidden(f *brep.Face) bool {
	var sum geom.V3
	n := 0.0
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			p, _ := c.Edge.Mid()
			sum, n = sum.Add(p), n+1
		}
	}
	p := f.Surface.At(f.Surface.Param(sum.Mul(1 / math.Max(1, n))))
	q := p.Add(f.NormalAt(p).Mul(0.02))
	return r.shadow.Above(q.Z + 1e-3).Contains(q.XY())
}

// upright tells whether a face is vertical all over.
func upright(f *brep.Face) bool {
	_, n, _, ok := wallProbe(f)
	return ok && math.Abs(n.Z) < 1e-6
}

// holder returns the feature that has the face.
func (r *recogniser) holder(i int) *Feature {
	for _, g := range r.set.Features {
		for _, k := range g.Faces {
			if k == i {
				return g
			}
		}
	}
	return nil
}

// span returns the heights of the face's boundary.
func span(f *brep.Face) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			for k := 0.0; k <= 4; k++ {
				z := c.Edge.Curve.At(c.Edge.T0 + (c.Edge.T1-c.Edge.T0)*k/4).Z
				lo, hi = math.Min(lo, z), math.Max(hi, z)
			}
		}
	}
	return lo, hi
}

// rises tells whether the face looks up or sideways at all its edges.
func rises(f *brep.Face) bool {
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			p, _ := c.Edge.Mid()
			if f.NormalAt(p).Z < -1e-6 {
				return false
			}
		}
	}
	return true
}

// measureSlope enters the radius at the floor or the draft of the walls.
func measureSlope(g *Feature, f *brep.Face) {
	p := &g.Params
	switch s := f.Surface.(type) {
	case brep.Cylinder:
		if !f.Same && math.Abs(s.F.Z.Z) < 1e-6 {
			p.FloorRadius = s.R
		}
	case brep.Torus:
		if !f.Same {
			p.FloorRadius = s.Minor
		}
	case brep.Sphere:
		if !f.Same && p.FloorRadius == 0 {
			p.FloorRadius = s.R
		}
	case brep.Plane:
		if z := f.NormalAt(s.F.O).Z; z > 1e-6 {
			p.Draft = math.Asin(math.Min(1, z)) * 180 / math.Pi
		}
	case brep.Cone:
		if math.Abs(s.F.Z.Z) > 1-1e-6 {
			p.Draft = math.Abs(s.Half) * 180 / math.Pi
		}
	}
}

// corners measures the inside corners between walls of features that have
// rounds at the floor or free walls: their region has chords for arcs.
func (r *recogniser) corners() {
	for _, f := range r.set.Features {
		if f.Region.Empty() || f.Kind == OutsideProfile || f.Kind == PlanarFace || !r.chorded(f) {
			continue
		}
		least, sharp := math.Inf(1), false
		for _, i := range f.Faces {
			face := r.s.Faces[i]
			if c, ok := face.Surface.(brep.Cylinder); ok && !face.Same && math.Abs(c.F.Z.Z) > 1-1e-6 {
				least = math.Min(least, c.R)
			}
			sharp = sharp || r.sharpWall(face)
		}
		wasSharp := f.Why == sharpCorner
		switch {
		case sharp:
			f.Params.MinInsideRadius, f.Reachable, f.Why = 0, false, sharpCorner
		case math.IsInf(least, 1):
			f.Params.MinInsideRadius = 0
		default:
			f.Params.MinInsideRadius = least
		}
		if !sharp && wasSharp {
			f.Reachable, f.Why = true, ""
		}
		if p := &f.Params; p.FloorRadius > 0 && p.Draft == 0 { // the walls stand a radius outside the flat floor
			p.Length, p.Width = p.Length+2*p.FloorRadius, p.Width+2*p.FloorRadius
		}
	}
}

// chorded tells whether a face of the feature is neither plane nor upright
// round.
func (r *recogniser) chorded(f *Feature) bool {
	for _, i := range f.Faces {
		switch s := r.s.Faces[i].Surface.(type) {
		case brep.Plane:
		case brep.Cylinder:
			if math.Abs(s.F.Z.Z) < 1-1e-6 {
				return true
			}
		default:
			return true
		}
	}
	return false
}

// sharpWall tells whether a wall meets another one in an upright inside edge.
func (r *recogniser) sharpWall(face *brep.Face) bool {
	for _, l := range face.Loops {
		for _, c := range l.Coedges {
			_, d := c.Edge.Mid()
			if math.Abs(d.Unit().Z) > 0.5 && c.Edge.Shape() == brep.Concave {
				return true
			}
		}
	}
	return false
}
