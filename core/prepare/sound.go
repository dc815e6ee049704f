package prepare

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
)

// sound returns why a changed solid is none: open, empty, or with faces that
// run through each other.
func sound(s *brep.Solid) error {
	for _, f := range s.Faces {
		if len(f.Loops) == 0 && !closedSurface(f.Surface) {
			return problem("a face would lose all its edges: pick all faces of what is to go")
		}
	}
	if s.OpenEdges() > 0 {
		return problem("the part would not be closed: leave it as it is")
	}
	size := s.Size()
	chord := math.Max(0.01, size/4000)
	m, err := s.Tessellate(chord)
	if err != nil || m.OpenEdges() > 0 {
		return problem("the faces around it do not close when they are extended: leave it as it is")
	}
	volume, area := s.Mass()
	if volume <= 0 || math.Abs(volume-m.Volume()) > 2*chord*area {
		return problem("the part would turn inside out: leave it as it is")
	}
	if crosses(s, m, chord) {
		return problem("the faces around it would run through other faces when they are extended: take off what is in between first")
	}
	return nil
}

func closedSurface(s brep.Surface) bool {
	switch s.Kind() {
	case brep.KindSphere, brep.KindTorus:
		return true
	}
	return false
}

// crosses tells whether an edge of the solid runs through a face that it does
// not bound.
func crosses(s *brep.Solid, m *mesh.Mesh, chord float64) bool {
	g := newLattice(m, s.Size()/40)
	bounds := map[*brep.Edge]map[int32]bool{}
	index := map[*brep.Face]int32{}
	for i, f := range s.Faces {
		index[f] = int32(i)
	}
	touches := map[*brep.Vertex]map[int32]bool{}
	for _, e := range s.Edges {
		bounds[e] = map[int32]bool{}
		for _, u := range e.Uses {
			for _, v := range [2]*brep.Vertex{e.A, e.B} {
				if touches[v] == nil {
					touches[v] = map[int32]bool{}
				}
				touches[v][index[u.Face]] = true
			}
			bounds[e][index[u.Face]] = true
		}
	}
	for _, e := range s.Edges {
		pts := e.Points(chord)
		for i := 1; i < len(pts); i++ {
			a, b := pts[i-1], pts[i]
			near := func(face int32, p geom.V3) bool { // the edge ends at that face
				return touches[e.A][face] && p.Dist(e.A.P) < 20*chord || touches[e.B][face] && p.Dist(e.B.P) < 20*chord
			}
			if g.hit(a, b, func(t int) bool {
				if bounds[e][m.Face[t]] {
					return false
				}
				p, ok := pierce(a, b, m.Points[m.Tris[t][0]], m.Points[m.Tris[t][1]], m.Points[m.Tris[t][2]])
				return ok && !near(m.Face[t], p)
			}) {
				return true
			}
		}
	}
	return false
}

// pierce returns where the segment ab goes through a triangle.
func pierce(a, b, p, q, r geom.V3) (geom.V3, bool) {
	n := q.Sub(p).Cross(r.Sub(p))
	da, db := a.Sub(p).Dot(n), b.Sub(p).Dot(n)
	if da*db >= 0 || math.Min(math.Abs(da), math.Abs(db)) < 1e-4*n.Len() {
		return geom.V3{}, false
	}
	x := a.Lerp(b, da/(da-db))
	for _, s := range [3][2]geom.V3{{p, q}, {q, r}, {r, p}} {
		if s[1].Sub(s[0]).Cross(x.Sub(s[0])).Dot(n) < 0 {
			return x, false
		}
	}
	return x, true
}

// lattice finds triangles by the cells that their boxes reach.
type lattice struct {
	cell float64
	tris map[[3]int32][]int32
	m    *mesh.Mesh
}

func newLattice(m *mesh.Mesh, cell float64) *lattice {
	g := &lattice{cell: cell, tris: map[[3]int32][]int32{}, m: m}
	for i, t := range m.Tris {
		b := geom.EmptyBox()
		for _, v := range t {
			b = b.Add(m.Points[v])
		}
		g.each(b, func(c [3]int32) bool {
			g.tris[c] = append(g.tris[c], int32(i))
			return false
		})
	}
	return g
}

func (g *lattice) each(b geom.Box, do func([3]int32) bool) bool {
	f := func(v float64) int32 { return int32(math.Floor(v / g.cell)) }
	for x := f(b.Min.X); x <= f(b.Max.X); x++ {
		for y := f(b.Min.Y); y <= f(b.Max.Y); y++ {
			for z := f(b.Min.Z); z <= f(b.Max.Z); z++ {
				if do([3]int32{x, y, z}) {
					return true
				}
			}
		}
	}
	return false
}

// hit tells whether test holds for a triangle near the segment ab.
func (g *lattice) hit(a, b geom.V3, test func(t int) bool) bool {
	return g.each(geom.EmptyBox().Add(a).Add(b), func(c [3]int32) bool {
		for _, t := range g.tris[c] {
			if test(int(t)) {
				return true
			}
		}
		return false
	})
}
