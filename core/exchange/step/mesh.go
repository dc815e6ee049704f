package step

import (
	"math"

	"arete/core/geom"
	"arete/core/mesh"
)

// Tessellated geometry (ISO 10303-42, tessellated_geometry): a file may give a
// body as triangles alone. It is read when the file has no body bounded by
// surfaces.

// mostTriangles bounds a tessellated body.
const mostTriangles = 2_000_000

// meshes reads the tessellated solids, or the shells when there are none.
func (b *reader) meshes() error {
	for _, name := range []string{"TESSELLATED_SOLID", "TESSELLATED_SHELL", "TRIANGULATED_SURFACE_SET", "COMPLEX_TRIANGULATED_SURFACE_SET"} {
		err := b.ex.each(func(in *instance, r *record) error {
			m := &mesh.Mesh{}
			if err := b.tessellated(in, r, m, map[geom.V3]int32{}, 0); err != nil {
				return err
			}
			if len(m.Tris) > 0 {
				b.m.Meshes = append(b.m.Meshes, m)
			}
			return nil
		}, name)
		if err != nil || len(b.m.Meshes) > 0 {
			return err
		}
	}
	return nil
}

// tessellated adds the triangles of an item: of a face, or of all items of a
// solid or shell. Points that several faces have are one.
func (b *reader) tessellated(in *instance, r *record, m *mesh.Mesh, at map[geom.V3]int32, depth int) error {
	switch r.name {
	case "TESSELLATED_SOLID", "TESSELLATED_SHELL":
		if len(r.params) < 2 || depth > 4 {
			return b.bad(in, "is not a whole "+r.name)
		}
		for _, v := range r.params[1].list {
			item, err := b.get(v, in)
			if err != nil {
				return err
			}
			if len(item.records) == 0 {
				return b.unsupported(item)
			}
			if err := b.tessellated(item, &item.records[0], m, at, depth+1); err != nil {
				return err
			}
		}
		return nil
	case "TRIANGULATED_FACE", "COMPLEX_TRIANGULATED_FACE":
		return b.triangles(in, r, 5, m, at)
	case "TRIANGULATED_SURFACE_SET", "COMPLEX_TRIANGULATED_SURFACE_SET":
		return b.triangles(in, r, 4, m, at)
	}
	return b.unsupported(in)
}

// triangles reads a triangulated face or surface set: name, coordinates,
// number of points, normals, for a face its surface, then from parameter first
// on the indices of its points, and triangles, or strips and fans.
func (b *reader) triangles(in *instance, r *record, first int, m *mesh.Mesh, at map[geom.V3]int32) error {
	if len(r.params) < first+2 {
		return b.bad(in, "has too few parameters")
	}
	points, err := b.coordinates(r.params[1], in)
	if err != nil {
		return err
	}
	index := r.params[first].list
	point := func(v value) (int32, bool) {
		i := int(v.num)
		if len(index) > 0 {
			if i < 1 || i > len(index) {
				return 0, false
			}
			i = int(index[i-1].num)
		}
		if i < 1 || i > len(points) {
			return 0, false
		}
		p := points[i-1]
		k, known := at[p]
		if !known {
			k = int32(len(m.Points))
			at[p] = k
			m.Points = append(m.Points, p)
		}
		return k, true
	}
	add := func(x, y, z value) error {
		a, ok1 := point(x)
		c, ok2 := point(y)
		d, ok3 := point(z)
		if !ok1 || !ok2 || !ok3 {
			return b.bad(in, "names a point that it does not have")
		}
		if a != c && c != d && d != a {
			m.Tris = append(m.Tris, [3]int32{a, c, d})
		}
		if len(m.Tris) > mostTriangles {
			return &Error{Class: ErrUnsupported, What: "the mesh has more than 2,000,000 triangles", Do: "export it coarser, or as a solid"}
		}
		return nil
	}
	if r.name == "TRIANGULATED_FACE" || r.name == "TRIANGULATED_SURFACE_SET" {
		for _, t := range r.params[first+1].list {
			if len(t.list) != 3 {
				return b.bad(in, "has a triangle without three corners")
			}
			if err := add(t.list[0], t.list[1], t.list[2]); err != nil {
				return err
			}
		}
		return nil
	}
	for _, s := range r.params[first+1].list { // strips turn over at every step
		for k := 2; k < len(s.list); k++ {
			x, y := s.list[k-2], s.list[k-1]
			if k%2 == 1 {
				x, y = y, x
			}
			if err := add(x, y, s.list[k]); err != nil {
				return err
			}
		}
	}
	if len(r.params) > first+2 {
		for _, f := range r.params[first+2].list {
			for k := 2; k < len(f.list); k++ {
				if err := add(f.list[0], f.list[k-1], f.list[k]); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// coordinates reads a list of points once.
func (b *reader) coordinates(v value, from *instance) ([]geom.V3, error) {
	if p, known := b.lists[v.ref]; known {
		return p, nil
	}
	in, r, err := b.want(v, from, 3, "COORDINATES_LIST")
	if err != nil {
		return nil, err
	}
	rows := r.params[len(r.params)-1].list
	out := make([]geom.V3, len(rows))
	for i, row := range rows {
		if len(row.list) != 3 {
			return nil, b.bad(in, "has a point without three coordinates")
		}
		p := geom.V3{X: row.list[0].num, Y: row.list[1].num, Z: row.list[2].num}.Mul(b.unit.length)
		if l := p.Len(); math.IsNaN(l) || l > 1e9 {
			return nil, b.bad(in, "has absurd coordinates")
		}
		out[i] = p
	}
	if b.lists == nil {
		b.lists = map[int][]geom.V3{}
	}
	b.lists[v.ref] = out
	return out, nil
}
