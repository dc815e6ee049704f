package stl

import (
	"bufio"
	"encoding/binary"
	"fmt"
	"io"
	"math"

	"arete/core/geom"
	"arete/core/mesh"
)

// WriteBinary writes the mesh in the binary form. The header may not begin
// with "solid", by which the text form is told.
func WriteBinary(w io.Writer, m *mesh.Mesh, name string) error {
	b := bufio.NewWriter(w)
	head := make([]byte, 84)
	copy(head[:80], "binary mesh, mm: "+name)
	binary.LittleEndian.PutUint32(head[80:], uint32(len(m.Tris)))
	if _, err := b.Write(head); err != nil {
		return err
	}
	var row [50]byte
	for i, t := range m.Tris {
		put := func(at int, p geom.V3) {
			for k, v := range [3]float64{p.X, p.Y, p.Z} {
				binary.LittleEndian.PutUint32(row[at+4*k:], math.Float32bits(float32(v)))
			}
		}
		put(0, m.Normal(i))
		for c, v := range t {
			put(12+12*c, m.Points[v])
		}
		if _, err := b.Write(row[:]); err != nil {
			return err
		}
	}
	return b.Flush()
}

// WriteText writes the mesh in the text form.
func WriteText(w io.Writer, m *mesh.Mesh, name string) error {
	b := bufio.NewWriter(w)
	fmt.Fprintf(b, "solid %s\n", name)
	for i, t := range m.Tris {
		n := m.Normal(i)
		fmt.Fprintf(b, " facet normal %g %g %g\n  outer loop\n", float32(n.X), float32(n.Y), float32(n.Z))
		for _, v := range t {
			p := m.Points[v]
			fmt.Fprintf(b, "   vertex %g %g %g\n", float32(p.X), float32(p.Y), float32(p.Z))
		}
		fmt.Fprint(b, "  endloop\n endfacet\n")
	}
	fmt.Fprintf(b, "endsolid %s\n", name)
	return b.Flush()
}
