package brep

import (
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/mesh"
)

// Tessellate returns a watertight mesh that departs from the solid by at most
// chord mm. Every edge is divided once, and both of its faces use the same
// points; faces that curve both ways get points inside. An error names the
// face that could not be filled.
func (s *Solid) Tessellate(chord float64) (*mesh.Mesh, error) {
	b := newBuilder(chord)
	for _, e := range s.Edges {
		b.divideEdge(e)
	}
	for i, f := range s.Faces {
		if err := b.fill(f, int32(i)); err != nil {
			return nil, fmt.Errorf("face #%d: %w", f.ID, err)
		}
	}
	return b.m, nil
}

type builder struct {
	m      *mesh.Mesh
	vertex map[*Vertex]int32
	edge   map[*Edge]division
	chord  float64
}

func newBuilder(chord float64) *builder {
	return &builder{m: &mesh.Mesh{}, vertex: map[*Vertex]int32{}, edge: map[*Edge]division{}, chord: chord}
}

func (b *builder) point(v *Vertex) int32 {
	i, ok := b.vertex[v]
	if !ok {
		i = b.add(v.P)
		b.vertex[v] = i
	}
	return i
}

func (b *builder) add(p geom.V3) int32 {
	b.m.Points = append(b.m.Points, p)
	return int32(len(b.m.Points) - 1)
}

// divideEdge places the points of an edge, once.
func (b *builder) divideEdge(e *Edge) {
	if _, done := b.edge[e]; done {
		return
	}
	d := division{t: e.divide(b.chord)}
	last := len(d.t) - 1
	d.id = append(d.id, b.point(e.A))
	for _, t := range d.t[1:last] {
		d.id = append(d.id, b.add(e.Curve.At(t)))
	}
	d.id = append(d.id, b.point(e.B))
	b.edge[e] = d
}

// fill triangulates one face.
func (b *builder) fill(f *Face, index int32) error {
	rings, err := b.outline(f)
	if err != nil {
		return err
	}
	su, sv := stretch(f.Surface, rings)
	scale := geom.V2{X: su, Y: sv}
	if !f.Same {
		scale.X = -su
	}
	for _, r := range rings {
		for i := range r.uv {
			r.uv[i] = geom.V2{X: r.uv[i].X * scale.X, Y: r.uv[i].Y * scale.Y}
		}
	}
	n, err := triangulate(rings)
	if err != nil {
		return err
	}
	switch f.Surface.(type) {
	case Plane, Cylinder, Cone:
	default:
		b.refine(n, f, scale)
	}
	for _, t := range n.tri {
		t = [3]int32{n.id[t[0]], n.id[t[1]], n.id[t[2]]}
		if t[0] != t[1] && t[1] != t[2] && t[2] != t[0] { // pole and seam doubles
			b.m.Tris = append(b.m.Tris, t)
			b.m.Face = append(b.m.Face, index)
		}
	}
	return nil
}

// maxStretch bounds how much finer a face is divided across its curvature
// than along it.
const maxStretch = 30

// stretch returns the scales of u and v in which triangles as round as
// possible have the same chord error both ways: the root of the curvature
// times the speed. Along rulings there is none, and edges prefer them.
func stretch(s Surface, rings []ring) (su, sv float64) {
	if s.Kind() == KindPlane {
		return 1, 1
	}
	var lu, lv, ku, kv float64
	n := 0.0
	r := rings[0]
	for i := 0; i < len(r.uv); i += 1 + len(r.uv)/16 {
		uv := r.uv[i].Lerp(r.uv[(i+len(r.uv)/2)%len(r.uv)], 0.3)
		du, dv := s.Diff(uv)
		a, c := du.Len(), dv.Len()
		if a < 1e-12 || c < 1e-12 {
			continue
		}
		m := normal(s, uv)
		hu, hv := 1e-3/a, 1e-3/c
		n++
		lu, lv = lu+a, lv+c
		ku += normal(s, uv.Add(geom.V2{X: hu})).Sub(m).Len() / 1e-3
		kv += normal(s, uv.Add(geom.V2{Y: hv})).Sub(m).Len() / 1e-3
	}
	if n == 0 {
		return 1, 1
	}
	most := math.Max(ku, kv)
	if most < 1e-9*n {
		return lu / n, lv / n
	}
	least := most / (maxStretch * maxStretch)
	return lu / n * math.Sqrt(math.Max(ku, least)/n), lv / n * math.Sqrt(math.Max(kv, least)/n)
}
