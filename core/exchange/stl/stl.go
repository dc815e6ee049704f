// Package stl reads and writes triangle meshes in both forms of the
// stereolithography file: text ("solid … facet normal …") and binary (80 bytes
// of header, a count, 50 bytes a triangle, little-endian). The form carries no
// unit: millimetres are assumed. Stored normals are ignored; the order of the
// corners tells the outside.
package stl

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strconv"

	"arete/core/geom"
	"arete/core/mesh"
)

// ErrFormat is the class of files that cannot be read.
var ErrFormat = errors.New("not a readable STL file")

// MaxTriangles bounds what is read.
const MaxTriangles = 4_000_000

// farthest is the greatest coordinate taken for a length, mm.
const farthest = 1e6

// Is tells whether data looks like an STL file of either form.
func Is(data []byte) bool {
	return isBinary(data) || bytes.HasPrefix(bytes.TrimLeft(data, " \t\r\n"), []byte("solid")) && bytes.Contains(data[:min(len(data), 4096)], []byte("facet"))
}

func isBinary(data []byte) bool {
	if len(data) < 84 {
		return false
	}
	n := int64(binary.LittleEndian.Uint32(data[80:]))
	return n > 0 && int64(len(data)) == 84+50*n
}

// Read returns the mesh of a file: its corners are shared where they are
// closer than a ten-thousandth of a millimetre.
func Read(data []byte) (*mesh.Mesh, error) {
	w := newWelder()
	var err error
	if isBinary(data) {
		err = readBinary(data, w)
	} else {
		err = readText(data, w)
	}
	if err != nil {
		return nil, err
	}
	if len(w.m.Tris) == 0 {
		return nil, fmt.Errorf("%w: there is no triangle in it; export the part again", ErrFormat)
	}
	return w.m, nil
}

func readBinary(data []byte, w *welder) error {
	n := int(binary.LittleEndian.Uint32(data[80:]))
	if n > MaxTriangles {
		return tooMany(n)
	}
	for i := range n {
		at := data[84+50*i+12:]
		var t [3]geom.V3
		for c := range t {
			var v [3]float64
			for k := range v {
				v[k] = float64(math.Float32frombits(binary.LittleEndian.Uint32(at[12*c+4*k:])))
				if !(math.Abs(v[k]) < farthest) {
					return fmt.Errorf("%w: triangle %d: %v is no coordinate in mm; export the part again", ErrFormat, i+1, v[k])
				}
			}
			t[c] = geom.V3{X: v[0], Y: v[1], Z: v[2]}
		}
		w.add(t)
	}
	return nil
}

func readText(data []byte, w *welder) error {
	line, corners := 0, 0
	var t [3]geom.V3
	for len(data) > 0 {
		var row []byte
		if i := bytes.IndexByte(data, '\n'); i >= 0 {
			row, data = data[:i], data[i+1:]
		} else {
			row, data = data, nil
		}
		line++
		words := bytes.Fields(row)
		if len(words) == 0 {
			continue
		}
		switch string(bytes.ToLower(words[0])) {
		case "facet", "outer":
			corners = 0
		case "vertex":
			p, err := corner(words)
			if err != nil || corners > 2 {
				return fmt.Errorf("%w: line %d: a corner is \"vertex x y z\", three to a facet; export the part again", ErrFormat, line)
			}
			t[corners] = p
			corners++
		case "endfacet":
			if corners != 3 {
				return fmt.Errorf("%w: line %d: a facet with %d corners; export the part again as triangles", ErrFormat, line, corners)
			}
			w.add(t)
			if len(w.m.Tris) > MaxTriangles {
				return tooMany(len(w.m.Tris))
			}
		case "solid", "endsolid", "endloop":
		default:
			return fmt.Errorf("%w: line %d: %.20q is no word of the format; export the part again", ErrFormat, line, words[0])
		}
	}
	return nil
}

func corner(words [][]byte) (geom.V3, error) {
	if len(words) != 4 {
		return geom.V3{}, ErrFormat
	}
	var v [3]float64
	for k := range v {
		x, err := strconv.ParseFloat(string(words[k+1]), 64)
		if err != nil || !(math.Abs(x) < farthest) {
			return geom.V3{}, ErrFormat
		}
		v[k] = x
	}
	return geom.V3{X: v[0], Y: v[1], Z: v[2]}, nil
}

func tooMany(n int) error {
	return fmt.Errorf("%w: %d triangles, more than %d; export the part with a coarser tolerance", ErrFormat, n, MaxTriangles)
}

// welder shares corners that lie within a grid cell or next to it.
type welder struct {
	m    *mesh.Mesh
	cell map[[3]int64]int32
}

// grid is the distance, mm, below which corners are one.
const grid = 1e-4

func newWelder() *welder { return &welder{m: &mesh.Mesh{}, cell: map[[3]int64]int32{}} }

// add takes a triangle unless it has no area.
func (w *welder) add(t [3]geom.V3) {
	var id [3]int32
	for c, p := range t {
		id[c] = w.id(p)
	}
	if id[0] != id[1] && id[1] != id[2] && id[2] != id[0] {
		w.m.Tris = append(w.m.Tris, id)
		w.m.Face = append(w.m.Face, 0)
	}
}

func (w *welder) id(p geom.V3) int32 {
	key := [3]int64{int64(math.Round(p.X / grid)), int64(math.Round(p.Y / grid)), int64(math.Round(p.Z / grid))}
	if n, ok := w.cell[key]; ok {
		return n
	}
	for i := range int64(27) {
		k := [3]int64{key[0] + i%3 - 1, key[1] + i/3%3 - 1, key[2] + i/9 - 1}
		if n, ok := w.cell[k]; ok && w.m.Points[n].Dist(p) < grid {
			return n
		}
	}
	n := int32(len(w.m.Points))
	w.m.Points = append(w.m.Points, p)
	w.cell[key] = n
	return n
}
