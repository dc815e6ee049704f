package feature

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// takeRounds claims rounds of outer edges: cylinders, tori and spheres that
// bulge and run smoothly into their neighbours, joined to runs of one radius.
func (r *recogniser) takeRounds() {
	r.takeRuns(EdgeRound, func(f *brep.Face) float64 {
		radius := bulge(f)
		if radius == 0 || smoothEdges(f) < 2 {
			return 0
		}
		return radius
	}, func(f *Feature, radius float64) {
		f.Params.Radius = radius
		f.Why = "a rounded edge: it needs a ball end mill or a corner rounding tool"
		f.Tool = Access{OK: true}
	})
}

// bulge returns the radius of a face that bulges, 0 for others.
func bulge(f *brep.Face) float64 {
	if !f.Same {
		return 0
	}
	switch s := f.Surface.(type) {
	case brep.Cylinder:
		return s.R
	case brep.Torus:
		return s.Minor
	case brep.Sphere:
		return s.R
	}
	return 0
}

// smoothEdges counts the edges at which the face runs into another smoothly.
func smoothEdges(f *brep.Face) (n int) {
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			if m := c.Mate(); m != nil && m.Face != f && c.Edge.Shape() == brep.Smooth {
				n++
			}
		}
	}
	return n
}

// takeFree claims what is neither plane nor round: free surfaces, joined where
// they meet.
func (r *recogniser) takeFree() {
	r.takeRuns(FreeSurface, func(f *brep.Face) float64 {
		switch f.Surface.(type) {
		case brep.Plane, brep.Cylinder, brep.Cone:
			return 0
		}
		return 1
	}, func(f *Feature, _ float64) {
		f.Why = "a free surface: it needs surface finishing with a ball end mill"
		f.Tool = Access{OK: true}
	})
}

// takeRuns makes features of faces that are left, for which class is not 0,
// joined over edges to neighbours of the same class.
func (r *recogniser) takeRuns(kind Kind, class func(*brep.Face) float64, describe func(*Feature, float64)) {
	for i, face := range r.s.Faces {
		c := 0.0
		if !r.taken[i] {
			c = class(face)
		}
		if c == 0 {
			continue
		}
		f := &Feature{Kind: kind}
		describe(f, c)
		f.Faces = r.connected(i, func(g *brep.Face) bool { return math.Abs(class(g)-c) < 1e-4 })
		f.Approach = r.outward(f.Faces)
		f.Params.FloorZ, f.Params.TopZ = r.levels(f.Faces, f.Approach)
		f.Params.Depth = f.Params.TopZ - f.Params.FloorZ
		r.take(f)
	}
}

// connected returns the faces that are left and joined to face i by edges,
// through faces that fit.
func (r *recogniser) connected(i int, fits func(*brep.Face) bool) []int {
	out, seen := []int{i}, map[int]bool{i: true}
	for k := 0; k < len(out); k++ {
		for _, l := range r.s.Faces[out[k]].Loops {
			for _, c := range l.Coedges {
				m := c.Mate()
				if m == nil {
					continue
				}
				j := r.index[m.Face]
				if !seen[j] && !r.taken[j] && fits(m.Face) {
					seen[j] = true
					out = append(out, j)
				}
			}
		}
	}
	return out
}

// outward returns the main axis, up first, that the faces look to most; up
// when they look all ways.
func (r *recogniser) outward(faces []int) geom.V3 {
	var sum geom.V3
	for _, i := range faces {
		sum = sum.Add(meanNormal(r.s.Faces[i]))
	}
	best := geom.V3{Z: 1}
	for _, d := range [6]geom.V3{{Z: 1}, {Z: -1}, {X: 1}, {X: -1}, {Y: 1}, {Y: -1}} {
		if sum.Dot(d) > sum.Dot(best)+1e-6*(1+sum.Len()) {
			best = d
		}
	}
	return best
}

// levels returns the least and greatest heights of the faces along d.
func (r *recogniser) levels(faces []int, d geom.V3) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, i := range faces {
		for _, l := range r.s.Faces[i].Loops {
			for _, c := range l.Coedges {
				for k := 0.0; k <= 4; k++ {
					z := c.Edge.Curve.At(c.Edge.T0 + (c.Edge.T1-c.Edge.T0)*k/4).Dot(d)
					lo, hi = math.Min(lo, z), math.Max(hi, z)
				}
			}
		}
	}
	if lo > hi {
		return 0, 0
	}
	return lo, hi
}

// takeRest names what no tool reaches straight from any side: undercuts,
// joined where they meet or bound the same feature.
func (r *recogniser) takeRest() {
	for i := range r.s.Faces {
		if r.taken[i] {
			continue
		}
		f := &Feature{Kind: Undercut, Approach: geom.V3{Z: 1}, Faces: r.connected(i, func(*brep.Face) bool { return true })}
		f.Params.FloorZ, f.Params.TopZ = r.levels(f.Faces, f.Approach)
		f.Params.Depth = f.Params.TopZ - f.Params.FloorZ
		f.Why = "it lies under an overhang: only a form cutter such as a T-slot or dovetail cutter reaches it"
		r.joinUndercut(f)
	}
}

// joinUndercut adds the faces to an undercut of the same slot, at the same
// levels, or makes a new feature of them.
func (r *recogniser) joinUndercut(f *Feature) {
	for _, g := range r.set.Features {
		if g.Kind == Undercut && math.Abs(g.Params.FloorZ-f.Params.FloorZ) < 1e-4 && math.Abs(g.Params.TopZ-f.Params.TopZ) < 1e-4 && r.shareNeighbour(f, g) {
			g.Faces = append(g.Faces, f.Faces...)
			for _, i := range f.Faces {
				r.taken[i] = true
			}
			return
		}
	}
	r.take(f)
}

// shareNeighbour tells whether one face borders both features.
func (r *recogniser) shareNeighbour(f, g *Feature) bool {
	near := map[*brep.Face]bool{}
	for k, list := range [2][]int{f.Faces, g.Faces} {
		for _, i := range list {
			for _, l := range r.s.Faces[i].Loops {
				for _, c := range l.Coedges {
					m := c.Mate()
					if m == nil {
						continue
					}
					if k == 1 && near[m.Face] {
						return true
					}
					if k == 0 {
						near[m.Face] = true
					}
				}
			}
		}
	}
	return false
}
