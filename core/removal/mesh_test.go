package removal

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/geom"
)

// The mesh of any columns is closed and has their volume.
func TestMeshOfColumns(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := NewGrid(geom.Box{Min: geom.V3{X: -1, Y: 2, Z: -5}, Max: geom.V3{X: 5, Y: 7, Z: 10}}, 1)
		for i := range g.Z {
			g.Z[i] = rapid.SampledFrom([]float32{-5, -2, 0.5, 3, 3, 10}).Draw(t, "z")
		}
		m := g.Mesh(g.At(0))
		require.Zero(t, m.OpenEdges())
		require.InDelta(t, g.Volume(), m.Volume(), 1e-9)
	})
}

func TestHeightsAtATime(t *testing.T) {
	g := NewGrid(geom.Box{Max: geom.V3{X: 1, Y: 1, Z: 10}}, 1)
	g.Record()
	g.Log.add(0, 1, 8, 10)
	g.Log.add(0, 2, 4, 8)
	g.Z[0] = 4
	for _, c := range []struct {
		t    float64
		want float32
	}{{0, 10}, {1, 8}, {1.5, 8}, {2, 4}, {9, 4}} {
		require.Equal(t, c.want, g.At(c.t)[0], "at %v s", c.t)
	}
}
