// Package fitting finds again the solid that a triangle mesh was made of:
// planes by growing from the largest triangle, cylinders by neighbouring
// strips whose corners lie on one circle (all corners of a tessellated
// cylinder lie on it), cones by strips whose planes meet in one point, and
// between them straight and circular edges. What is none of these stays a set
// of small planes.
package fitting

import (
	"math"
	"sort"

	"arete/core/geom"
	"arete/core/mesh"
)

// tolerance is how far, mm, a corner may lie from the surface it is given to:
// rounding of single precision at a metre's distance, and no more.
const tolerance = 5e-4

// region is a connected set of triangles on one surface.
type region struct {
	tris   []int32
	normal geom.V3 // of a plane
	at     geom.V3
	area   float64
	round  *round // nil for a plane
}

// round is a fitted cylinder or cone.
type round struct {
	axis geom.Frame // z along it, of a cone from its tip to its mouth
	r    float64    // at z = 0
	half float64    // angle between axis and side, 0 for a cylinder
}

// off returns how far a point lies from the surface.
func (c *round) off(p geom.V3) float64 {
	q := c.axis.ToLocal(p)
	return math.Abs(q.XY().Len()-c.r-q.Z*math.Tan(c.half)) * math.Cos(c.half)
}

// net is a closed mesh with its neighbours.
type net struct {
	m      *mesh.Mesh
	across [][3]int32 // triangle on the other side of side k (from corner k to k+1)
	of     []int32    // region of each triangle
	all    []*region
}

// planes grows regions of triangles in one plane, from the largest triangle
// on.
func (n *net) planes() {
	order := make([]int32, len(n.m.Tris))
	area := make([]float64, len(n.m.Tris))
	for i, t := range n.m.Tris {
		a, b, c := n.m.Points[t[0]], n.m.Points[t[1]], n.m.Points[t[2]]
		order[i], area[i] = int32(i), b.Sub(a).Cross(c.Sub(a)).Len()/2
	}
	sort.SliceStable(order, func(a, b int) bool { return area[order[a]] > area[order[b]] })
	n.of = make([]int32, len(n.m.Tris))
	for i := range n.of {
		n.of[i] = -1
	}
	for _, seed := range order {
		if n.of[seed] >= 0 {
			continue
		}
		r := &region{normal: squared(n.m.Normal(int(seed))), at: n.m.Points[n.m.Tris[seed][0]]}
		id := int32(len(n.all))
		n.of[seed] = id
		r.tris = append(r.tris, seed)
		for k := 0; k < len(r.tris); k++ {
			for _, t := range n.across[r.tris[k]] {
				if n.of[t] < 0 && n.m.Normal(int(t)).Dot(r.normal) > 0.9 && n.in(t, r) {
					n.of[t] = id
					r.tris = append(r.tris, t)
				}
			}
		}
		for _, t := range r.tris {
			r.area += area[t]
		}
		n.all = append(n.all, r)
	}
}

// in tells whether all corners of a triangle lie in the region's plane.
func (n *net) in(t int32, r *region) bool {
	for _, v := range n.m.Tris[t] {
		if math.Abs(n.m.Points[v].Sub(r.at).Dot(r.normal)) > tolerance {
			return false
		}
	}
	return true
}

// squared turns a direction onto a main axis from which only rounding keeps
// it.
func squared(d geom.V3) geom.V3 {
	for _, a := range [6]geom.V3{{X: 1}, {X: -1}, {Y: 1}, {Y: -1}, {Z: 1}, {Z: -1}} {
		if a.Dot(d) > 1-1e-10 {
			return a
		}
	}
	return d
}
