// Package mesh holds triangle meshes: shared vertices (mm) and triangles that
// run counter-clockwise seen from outside, each marked with the face of the
// model that it belongs to.
package mesh

import "arete/core/geom"

// Mesh is a set of triangles over shared vertices.
type Mesh struct {
	Points []geom.V3
	Tris   [][3]int32
	Face   []int32 // for each triangle: index of its face
}

// Volume returns the enclosed volume in mm³ of a closed mesh.
func (m *Mesh) Volume() float64 {
	v := 0.0
	for _, t := range m.Tris {
		a, b, c := m.Points[t[0]], m.Points[t[1]], m.Points[t[2]]
		v += a.Dot(b.Cross(c)) / 6
	}
	return v
}

// Area returns the sum of the triangles' areas in mm².
func (m *Mesh) Area() float64 {
	s := 0.0
	for i := range m.Tris {
		s += m.normal(i).Len() / 2
	}
	return s
}

// Normal returns the unit normal of triangle i.
func (m *Mesh) Normal(i int) geom.V3 { return m.normal(i).Unit() }

func (m *Mesh) normal(i int) geom.V3 {
	t := m.Tris[i]
	a, b, c := m.Points[t[0]], m.Points[t[1]], m.Points[t[2]]
	return b.Sub(a).Cross(c.Sub(a))
}

// OpenEdges counts the directed edges that have no partner running the other
// way: 0 for a watertight mesh.
func (m *Mesh) OpenEdges() int {
	n := map[[2]int32]int{}
	for _, t := range m.Tris {
		for k := 0; k < 3; k++ {
			a, b := t[k], t[(k+1)%3]
			if a < b {
				n[[2]int32{a, b}]++
			} else {
				n[[2]int32{b, a}]--
			}
		}
	}
	open := 0
	for _, v := range n {
		open += max(v, -v)
	}
	return open
}

// Append adds the triangles of another mesh.
func (m *Mesh) Append(o *Mesh) {
	n := int32(len(m.Points))
	m.Points = append(m.Points, o.Points...)
	for i, t := range o.Tris {
		m.Tris = append(m.Tris, [3]int32{t[0] + n, t[1] + n, t[2] + n})
		if i < len(o.Face) {
			m.Face = append(m.Face, o.Face[i])
		}
	}
}

// Transform returns a copy moved by the frame (local → world).
func (m *Mesh) Transform(f geom.Frame) *Mesh {
	out := &Mesh{Points: make([]geom.V3, len(m.Points)), Tris: m.Tris, Face: m.Face}
	for i, p := range m.Points {
		out.Points[i] = f.ToWorld(p)
	}
	return out
}

// Box returns the least box around all points.
func (m *Mesh) Box() geom.Box {
	b := geom.EmptyBox()
	for _, p := range m.Points {
		b = b.Add(p)
	}
	return b
}
