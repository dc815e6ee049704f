package stl

import (
	"bytes"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/geom"
	"arete/core/mesh"
)

// box is a closed block of twelve triangles.
func box(x, y, z float64) *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range 8 {
		m.Points = append(m.Points, geom.V3{X: x * float64(i&1), Y: y * float64(i>>1&1), Z: z * float64(i>>2)})
	}
	for _, q := range [6][4]int32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}} {
		m.Tris = append(m.Tris, [3]int32{q[0], q[1], q[2]}, [3]int32{q[0], q[2], q[3]})
	}
	m.Face = make([]int32, len(m.Tris))
	return m
}

// Both forms read back closed, with the volume of the block.
func TestBothFormsReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		side := func() float64 { return rapid.Float64Range(0.01, 2000).Draw(t, "side") }
		x, y, z := side(), side(), side()
		var text, binary bytes.Buffer
		require.NoError(t, WriteText(&text, box(x, y, z), "block"))
		require.NoError(t, WriteBinary(&binary, box(x, y, z), "block"))
		for _, data := range [][]byte{text.Bytes(), binary.Bytes(), bytes.ReplaceAll(text.Bytes(), []byte("\n"), []byte("\r\n"))} {
			require.True(t, Is(data))
			m, err := Read(data)
			require.NoError(t, err)
			require.Len(t, m.Points, 8, "corners are shared")
			require.Zero(t, m.OpenEdges())
			require.InEpsilon(t, x*y*z, m.Volume(), 1e-4)
		}
	})
}

// Corners that differ by rounding are one; triangles without area are left out.
func TestCornersAreWelded(t *testing.T) {
	w := newWelder()
	w.add([3]geom.V3{{}, {X: 1}, {Y: 1}})
	w.add([3]geom.V3{{X: 1, Z: 3e-5}, {X: 1, Y: 1}, {Y: 1, X: -6e-5}})
	w.add([3]geom.V3{{}, {X: 2e-5}, {Y: 1}})
	assert.Len(t, w.m.Points, 4)
	assert.Len(t, w.m.Tris, 2)
}

func TestBadFilesSayWhatAndWhere(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, WriteBinary(&b, box(1, 2, 3), "block"))
	broken := bytes.Clone(b.Bytes())
	copy(broken[84+50+12:], []byte{0, 0, 0xc0, 0x7f}) // not a number
	facet := "facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n"
	for name, c := range map[string]struct{ data, say string }{
		"not a number":  {string(broken), "triangle 2"},
		"two corners":   {"solid x\n" + facet + "endloop\nendfacet\nendsolid\n", "a facet with 2 corners"},
		"four corners":  {"solid x\n" + facet + "vertex 0 1 0\nvertex 1 1 0\nendloop\nendfacet\n", "line 7"},
		"far away":      {"solid x\n" + facet + "vertex 0 1e30 0\nendloop\nendfacet\n", "line 6"},
		"another word":  {"solid x\nfacet\nhello\n", `"hello" is no word`},
		"nothing in it": {"solid x\nendsolid x\n", "no triangle"},
	} {
		_, err := Read([]byte(c.data))
		require.ErrorIs(t, err, ErrFormat, name)
		assert.Contains(t, err.Error(), c.say, name)
		assert.False(t, strings.Contains(err.Error(), "\n"), name)
	}
	assert.False(t, Is(b.Bytes()[:100]), "cut off")
}

func FuzzRead(f *testing.F) {
	var b bytes.Buffer
	_ = WriteText(&b, box(1, 2, 3), "block")
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Read(data)
		if err == nil {
			for _, p := range m.Points {
				require.False(t, math.IsNaN(p.X+p.Y+p.Z))
			}
		}
	})
}
