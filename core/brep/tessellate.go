package brep

import (
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/mesh"
)

// Tessellate returns a watertight mesh that departs from the solid by at most
// chord mm (up to twice that on cylinders and cones whose two ends are divided
// differently). Every edge is divided once, and both of its faces use the same
// points; faces that curve both ways get points inside. An error names the
// face that could not be filled.
func (s *Solid) Tessellate(chord float64) (*mesh.Mesh, error) {
	return s.TessellateWithin(chord, maxTurn)
}

// TessellateWithin is Tessellate with an angle: along no side of a triangle
// does the surface turn by more than turn, radians, at most 30 degrees. On
// surfaces that curve both ways that holds to within the square of the angle.
func (s *Solid) TessellateWithin(chord, turn float64) (*mesh.Mesh, error) {
	b := newBuilder(fineness{chord, math.Max(1e-3, math.Min(turn, maxTurn))})
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
	fineness
}

func newBuilder(f fineness) *builder {
	return &builder{m: &mesh.Mesh{}, vertex: map[*Vertex]int32{}, edge: map[*Edge]division{}, fineness: f}
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
	d := division{t: e.meshDivision(b.fineness)}
	d.id = make([]int32, 0, len(d.t))
	last := len(d.t) - 1
	d.id = append(d.id, b.point(e.A))
	for _, t := range d.t[1:last] {
		d.id = append(d.id, b.add(e.Curve.At(t)))
	}
	d.id = append(d.id, b.point(e.B))
	b.edge[e] = d
}

// meshDivision returns the parameters at which a mesh of the fineness divides
// the edge.
func (e *Edge) meshDivision(f fineness) []float64 {
	ts := e.divide(f)
	if math.IsInf(f.chord, 0) {
		return ts
	}
	for _, u := range e.Uses {
		ts = settle(e, u.Face.Surface, ts, f.chord)
	}
	return ts
}

// settle divides an edge further until straight steps in the parameters of a
// face that curves both ways stay within chord of it: near a pole a short way
// in space is a long one in the parameters.
func settle(e *Edge, s Surface, ts []float64, chord float64) []float64 {
	switch s.(type) {
	case Plane, Cylinder, Cone:
		return ts
	}
	pu, pv := s.Periods()
	poles := s.Poles()
	out := ts[:1:1]
	var halve func(t0, t1 float64, a, b geom.V2, depth int)
	halve = func(t0, t1 float64, a, b geom.V2, depth int) {
		t := (t0 + t1) / 2
		p := e.Curve.At(t)
		mid := near(s, p, a.Lerp(b, 0.5), pu, pv)
		if depth < 6 && s.At(a.Lerp(b, 0.5)).Dist(p) > chord && mid.Dist(a.Lerp(b, 0.5)) > 1e-9 {
			halve(t0, t, a, mid, depth+1)
			halve(t, t1, mid, b, depth+1)
			return
		}
		out = append(out, t1)
	}
	a := s.Param(e.Curve.At(ts[0]))
	for i := 1; i < len(ts); i++ {
		p0, p1 := e.Curve.At(ts[i-1]), e.Curve.At(ts[i])
		b := near(s, p1, a, pu, pv)
		if poleAt(poles, p0) != nil || poleAt(poles, p1) != nil {
			out = append(out, ts[i])
		} else {
			halve(ts[i-1], ts[i], a, b, 0)
		}
		a = b
	}
	return out
}

// fill triangulates one face.
func (b *builder) fill(f *Face, index int32) error {
	rings, err := b.outline(f)
	if err != nil {
		return err
	}
	su, sv := stretch(f.Surface, rings)
	to := plan{rings[0].uv[0], geom.V2{X: su, Y: sv}}
	if !f.Same {
		to.scale.X = -su
	}
	for _, r := range rings {
		for i := range r.uv {
			r.uv[i] = to.of(r.uv[i])
		}
	}
	n, err := triangulate(rings)
	if err != nil {
		return err
	}
	switch f.Surface.(type) {
	case Plane, Cylinder, Cone:
	default:
		b.refine(n, f, to)
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

// plan is the plane in which a face is triangulated: its parameters moved
// near the origin and scaled.
type plan struct{ from, scale geom.V2 }

func (p plan) of(uv geom.V2) geom.V2 {
	d := uv.Sub(p.from)
	return geom.V2{X: d.X * p.scale.X, Y: d.Y * p.scale.Y}
}

func (p plan) back(q geom.V2) geom.V2 {
	return p.from.Add(geom.V2{X: q.X / p.scale.X, Y: q.Y / p.scale.Y})
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
