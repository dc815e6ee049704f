package fitting

import (
	"bytes"
	"context"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/exchange/stl"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/mesh"
)

const (
	bracket = "demo/parts/sensor-bracket"
	holes   = "core/feature/testdata/compound-holes"
)

func load(t require.TestingT, name string) *brep.Solid {
	data, err := os.ReadFile(filepath.Join("..", "..", name+".step"))
	require.NoError(t, err)
	m, err := step.Parse(data)
	require.NoError(t, err)
	return m.Bodies[0].Solid
}

// refit sends a solid through a mesh of the chord in single precision.
func refit(t require.TestingT, s *brep.Solid, chord float64) (*brep.Solid, *mesh.Mesh) {
	m, err := s.Tessellate(chord)
	require.NoError(t, err)
	var file bytes.Buffer
	require.NoError(t, stl.WriteBinary(&file, m, "part"))
	back, err := stl.Read(file.Bytes())
	require.NoError(t, err)
	out, err := Solids(back)
	require.NoError(t, err)
	require.Len(t, out, 1)
	return out[0], back
}

func kinds(s *brep.Solid) map[brep.Kind]int {
	out := map[brep.Kind]int{}
	for _, f := range s.Faces {
		out[f.Surface.Kind()]++
	}
	return out
}

// A part of planes and cylinders comes back from its mesh: the same faces, the
// exact volume, whatever the chord.
func TestPartsComeBackFromTheirMesh(t *testing.T) {
	for _, name := range []string{bracket, holes, "core/feature/testdata/two-levels", "core/feature/testdata/clevis",
		"core/feature/testdata/bosses", "core/feature/testdata/staircase", "core/feature/testdata/window", "core/feature/testdata/crossing"} {
		s := load(t, name)
		want, area := s.Mass()
		for _, chord := range []float64{0.05, 0.01} {
			got, m := refit(t, s, chord)
			v, a := got.Mass()
			assert.InDelta(t, want, v, 5e-5*want, "%s at %v: the mesh alone has %v", name, chord, m.Volume())
			assert.InDelta(t, area, a, 1e-4*area, name)
			if name != bracket && name != holes { // drawn or meshed in more pieces
				assert.Equal(t, kinds(s), kinds(got), "%s at %v", name, chord)
			}
			assert.Zero(t, got.OpenEdges())
		}
	}
}

// What is found to cut is the same as on the part itself.
func TestFeaturesOfAMesh(t *testing.T) {
	for _, name := range []string{bracket, holes, "core/feature/testdata/two-levels", "demo/parts/gauge-lid", "demo/parts/valve-manifold", "core/feature/testdata/patterns", "core/feature/testdata/sampler"} {
		s := load(t, name)
		got, _ := refit(t, s, 0.02)
		want, _, err := feature.Recognise(context.Background(), s)
		require.NoError(t, err)
		set, _, err := feature.Recognise(context.Background(), got)
		require.NoError(t, err)
		assert.Equal(t, titles(want), titles(set), name)
	}
}

func titles(s *feature.Set) map[string]int {
	out := map[string]int{}
	for _, f := range s.Features {
		out[f.Title()+" from "+feature.Toward(f.Approach)]++
	}
	return out
}

// Prisms: up to ten sides they are flats, with many they are meant round.
func TestWhenAPrismIsRound(t *testing.T) {
	for _, sides := range []int{3, 4, 6, 8, 10, 12, 24, 90} {
		out, err := Solids(prism(sides, 10, 20))
		require.NoError(t, err)
		require.Len(t, out, 1)
		k := kinds(out[0])
		if sides <= 10 {
			assert.Equal(t, sides+2, k[brep.KindPlane], "%d sides", sides)
		} else {
			assert.Equal(t, map[brep.Kind]int{brep.KindPlane: 2, brep.KindCylinder: 1}, k, "%d sides", sides)
			v, _ := out[0].Mass()
			assert.InDelta(t, math.Pi*100*20, v, 1e-3)
		}
	}
}

// prism is a regular one standing on z = 0.
func prism(sides int, r, h float64) *mesh.Mesh {
	m := &mesh.Mesh{Points: []geom.V3{{}, {Z: h}}}
	for i := range sides {
		a := 2 * math.Pi * float64(i) / float64(sides)
		m.Points = append(m.Points, geom.Polar(r, a).At(0), geom.Polar(r, a).At(h))
	}
	at := func(i, top int) int32 { return int32(2 + 2*(i%sides) + top) }
	for i := range sides {
		m.Tris = append(m.Tris, [3]int32{0, at(i+1, 0), at(i, 0)}, [3]int32{1, at(i, 1), at(i+1, 1)},
			[3]int32{at(i, 0), at(i+1, 0), at(i+1, 1)}, [3]int32{at(i, 0), at(i+1, 1), at(i, 1)})
	}
	m.Face = make([]int32, len(m.Tris))
	return m
}

func TestOpenAndOverfullMeshesAreRefused(t *testing.T) {
	m := prism(6, 10, 20)
	m.Tris = m.Tris[1:]
	_, err := Solids(m)
	assert.ErrorContains(t, err, "the mesh is open: 3 sides have no neighbour")
	m = prism(6, 10, 20)
	m.Tris = append(m.Tris, m.Tris[0])
	_, err = Solids(m)
	assert.ErrorContains(t, err, "more than two triangles meet along a side")
}

// Two blocks are two solids; a block inside out in another is its void.
func TestPiecesAndVoids(t *testing.T) {
	two := prism(4, 10, 20)
	n := int32(len(two.Points))
	small := prism(4, 2, 4)
	for _, p := range small.Points {
		two.Points = append(two.Points, p.Add(geom.V3{Z: 5}))
	}
	for _, tr := range small.Tris {
		two.Tris = append(two.Tris, [3]int32{tr[0] + n, tr[2] + n, tr[1] + n})
	}
	out, err := Solids(two)
	require.NoError(t, err)
	require.Len(t, out, 1)
	v, _ := out[0].Mass()
	assert.InDelta(t, 200*20-8*4, v, 1e-6)
}
