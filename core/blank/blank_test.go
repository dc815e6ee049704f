package blank

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/planar"
)

// bar is a round bar of radius 20, 30 high, its top at Z0.
func bar(t *testing.T) (*brep.Solid, *Blank, *Blank) {
	s, err := drawing.Solids([]drawing.Chain{{Layer: "bar", Loop: planar.Circle(geom.V2{X: 5, Y: -3}, 20)}}, []drawing.Level{{Layer: "bar", Depth: 30}})
	require.NoError(t, err)
	m, err := s[0].Tessellate(0.001)
	require.NoError(t, err)
	exact, err := New(m, s[0])
	require.NoError(t, err)
	coarse, err := New(m, nil)
	require.NoError(t, err)
	return s[0], exact, coarse
}

func TestRegionsOfABar(t *testing.T) {
	_, exact, coarse := bar(t)
	for _, z := range []float64{-29, -10, -0.1} {
		assert.InDelta(t, math.Pi*400, exact.Above(z).Area(), 1e-6)
		assert.InDelta(t, math.Pi*20.1*20.1, coarse.Above(z).Area(), 2*math.Pi*20*0.1)
		for k := range 360 {
			p := geom.V2{X: 5, Y: -3}.Add(geom.Polar(20, float64(k)*math.Pi/180))
			assert.Less(t, coarse.Above(z).Dist(p), 0.25, "the contour lies within two cells")
			assert.True(t, coarse.Above(z).Contains(p), "and leaves nothing out")
		}
	}
	assert.True(t, exact.Above(0).Empty())
	assert.True(t, coarse.Above(0).Empty())
}

func TestDistanceFromABar(t *testing.T) {
	_, b, _ := bar(t)
	for _, c := range []struct {
		p geom.V3
		d float64
	}{
		{geom.V3{X: 5, Y: -3, Z: -1}, -1}, {geom.V3{X: 5, Y: -3, Z: 1}, 1}, {geom.V3{X: 5 + 19.5, Y: -3, Z: -10}, -0.5},
		{geom.V3{X: 5 + 20.5, Y: -3, Z: -10}, 0.5}, {geom.V3{X: 5, Y: -3, Z: -15}, -2}, {geom.V3{X: 90, Y: -3, Z: -15}, 2},
		{geom.V3{X: 5 + 20.3, Y: -3, Z: 0.4}, 0.5},
	} {
		assert.InDelta(t, c.d, b.Outside(c.p, 2), 0.002, c.p)
	}
}

func TestHeightsAddUpToTheVolume(t *testing.T) {
	_, b, _ := bar(t)
	sum := 0.0
	for _, z := range b.relief.Z {
		if !math.IsInf(z, -1) {
			sum += (z + 30) * b.relief.Cell * b.relief.Cell
		}
	}
	assert.InEpsilon(t, math.Pi*400*30, sum, 1e-3)
}

// bumps is a closed mesh: a block with a top of random heights.
func bumps(t *rapid.T) *mesh.Mesh {
	const n = 6
	m := &mesh.Mesh{}
	at := func(i, j, k int) int32 { return int32(2*(j*(n+1)+i) + k) }
	for j := range n + 1 {
		for i := range n + 1 {
			m.Points = append(m.Points, geom.V3{X: 3 * float64(i), Y: 3 * float64(j)}, geom.V3{X: 3 * float64(i), Y: 3 * float64(j), Z: rapid.Float64Range(2, 9).Draw(t, "z")})
		}
	}
	quad := func(a, b, c, d int32) { m.Tris = append(m.Tris, [3]int32{a, b, c}, [3]int32{a, c, d}) }
	for j := range n {
		for i := range n {
			quad(at(i, j, 1), at(i+1, j, 1), at(i+1, j+1, 1), at(i, j+1, 1))
			quad(at(i, j, 0), at(i, j+1, 0), at(i+1, j+1, 0), at(i+1, j, 0))
		}
	}
	for k := range n {
		quad(at(k, 0, 0), at(k+1, 0, 0), at(k+1, 0, 1), at(k, 0, 1))
		quad(at(k+1, n, 0), at(k, n, 0), at(k, n, 1), at(k+1, n, 1))
		quad(at(0, k+1, 0), at(0, k, 0), at(0, k, 1), at(0, k+1, 1))
		quad(at(n, k, 0), at(n, k+1, 0), at(n, k+1, 1), at(n, k, 1))
	}
	return m
}

// Distances against all triangles one by one; regions against heights.
func TestAnyMeshAnswersAsItsTriangles(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := bumps(t)
		require.Zero(t, m.OpenEdges())
		b, err := New(m, nil)
		require.NoError(t, err)
		for range 20 {
			p := geom.V3{X: rapid.Float64Range(-3, 21).Draw(t, "px"), Y: rapid.Float64Range(-3, 21).Draw(t, "py"), Z: rapid.Float64Range(-3, 12).Draw(t, "pz")}
			want := 2.0
			for _, c := range m.Tris {
				want = math.Min(want, toTriangle(p, m.Points[c[0]], m.Points[c[1]], m.Points[c[2]]))
			}
			got := b.Outside(p, 2)
			require.InDelta(t, want, math.Abs(got), 1e-9)
			z := Heights(m, p.XY().Sub(geom.V2{X: 0.5, Y: 0.5}), 1, 1, 1, 1)[0] // over p
			if want > 1e-6 {
				require.Equal(t, p.Z > 0 && p.Z < z, got < 0, "inside when under the top and over the bottom")
			}
			if z > p.Z+0.3 && p.Z > 0 {
				require.True(t, b.Above(p.Z).Contains(p.XY()), "what rises is in the region")
			}
		}
	})
}
