package blank

import (
	"math"

	"arete/core/geom"
	"arete/core/mesh"
)

// proximity finds the triangle of a mesh nearest to a point, and tells inside
// from outside by the triangles over it.
type proximity struct {
	m      *mesh.Mesh
	min    geom.V3
	cell   float64
	n      [3]int
	bins   map[int][]int32 // by cell of space
	column map[int][]int32 // by cell of the plane
}

func newProximity(m *mesh.Mesh) *proximity {
	box := m.Box()
	size := box.Size()
	g := &proximity{m: m, min: box.Min, bins: map[int][]int32{}, column: map[int][]int32{}}
	g.cell = math.Max(1, max(size.X, size.Y, size.Z)/100)
	g.n = [3]int{int(size.X/g.cell) + 1, int(size.Y/g.cell) + 1, int(size.Z/g.cell) + 1}
	for i, t := range m.Tris {
		b := geom.EmptyBox()
		for _, v := range t {
			b = b.Add(m.Points[v])
		}
		lo, hi := g.cellOf(b.Min), g.cellOf(b.Max)
		for x := lo[0]; x <= hi[0]; x++ {
			for y := lo[1]; y <= hi[1]; y++ {
				g.column[y*g.n[0]+x] = append(g.column[y*g.n[0]+x], int32(i))
				for z := lo[2]; z <= hi[2]; z++ {
					k := (z*g.n[1]+y)*g.n[0] + x
					g.bins[k] = append(g.bins[k], int32(i))
				}
			}
		}
	}
	return g
}

func (g *proximity) cellOf(p geom.V3) [3]int {
	d := p.Sub(g.min)
	c := func(v float64, n int) int { return max(0, min(n-1, int(math.Floor(v/g.cell)))) }
	return [3]int{c(d.X, g.n[0]), c(d.Y, g.n[1]), c(d.Z, g.n[2])}
}

// distance is the distance of p from the mesh, at most reach, negative inside.
func (g *proximity) distance(p geom.V3, reach float64) float64 {
	r := geom.V3{X: reach, Y: reach, Z: reach}
	lo, hi := g.cellOf(p.Sub(r)), g.cellOf(p.Add(r))
	best := reach
	for z := lo[2]; z <= hi[2]; z++ {
		for y := lo[1]; y <= hi[1]; y++ {
			for x := lo[0]; x <= hi[0]; x++ {
				for _, i := range g.bins[(z*g.n[1]+y)*g.n[0]+x] {
					t := g.m.Tris[i]
					best = math.Min(best, toTriangle(p, g.m.Points[t[0]], g.m.Points[t[1]], g.m.Points[t[2]]))
				}
			}
		}
	}
	if g.inside(p) {
		return -best
	}
	return best
}

// inside counts what lies over p, a little aside so that no edge is hit.
func (g *proximity) inside(p geom.V3) bool {
	p.X += 1.3e-7
	p.Y += 0.7e-7
	c := g.cellOf(p)
	if q := p.Sub(g.min); q.X < 0 || q.Y < 0 || q.X > float64(g.n[0])*g.cell || q.Y > float64(g.n[1])*g.cell {
		return false
	}
	n := 0
	for _, i := range g.column[c[1]*g.n[0]+c[0]] {
		t := g.m.Tris[i]
		a, b, d := g.m.Points[t[0]], g.m.Points[t[1]], g.m.Points[t[2]]
		u := b.XY().Sub(p.XY()).Cross(d.XY().Sub(p.XY()))
		v := d.XY().Sub(p.XY()).Cross(a.XY().Sub(p.XY()))
		w := a.XY().Sub(p.XY()).Cross(b.XY().Sub(p.XY()))
		if s := u + v + w; s != 0 && (u >= 0) == (s > 0) && (v >= 0) == (s > 0) && (w >= 0) == (s > 0) && (u*a.Z+v*b.Z+w*d.Z)/s > p.Z {
			n++
		}
	}
	return n%2 == 1
}

// toTriangle is the distance of p from a triangle (Ericson 2005, 5.1.5).
func toTriangle(p, a, b, c geom.V3) float64 {
	ab, ac, ap := b.Sub(a), c.Sub(a), p.Sub(a)
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return ap.Len()
	}
	bp := p.Sub(b)
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return bp.Len()
	}
	cp := p.Sub(c)
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return cp.Len()
	}
	if vc := d1*d4 - d3*d2; vc <= 0 && d1 >= 0 && d3 <= 0 {
		return p.Dist(a.Add(ab.Mul(d1 / (d1 - d3))))
	}
	if vb := d5*d2 - d1*d6; vb <= 0 && d2 >= 0 && d6 <= 0 {
		return p.Dist(a.Add(ac.Mul(d2 / (d2 - d6))))
	}
	if va := d3*d6 - d5*d4; va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 {
		return p.Dist(b.Lerp(c, (d4-d3)/((d4-d3)+(d5-d6))))
	}
	n := ab.Cross(ac)
	if l := n.Len(); l > 0 {
		return math.Abs(ap.Dot(n)) / l
	}
	return ap.Len()
}
