package brep

import (
	"math"
	"testing"

	"arete/core/geom"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// star draws a simple polygon around a centre.
func star(t *rapid.T, c geom.V2, most float64, least int, name string) ring {
	var r ring
	n := rapid.IntRange(least, 24).Draw(t, name)
	for i := 0; i < n; i++ {
		d := most * rapid.Float64Range(0.4, 1).Draw(t, "d")
		r.uv = append(r.uv, c.Add(geom.Polar(d, 2*math.Pi*float64(i)/float64(n))))
	}
	return r
}

// Any star with star-shaped holes: the triangles are as many as Euler says,
// all run counter-clockwise, and cover the area once.
func TestTriangulationCoversThePolygonOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rings := []ring{star(t, geom.V2{}, 100, 8, "outer")}
		for _, at := range []geom.V2{{X: 12, Y: 12}, {X: -12, Y: 12}, {X: 12, Y: -12}, {X: -12, Y: -12}}[:rapid.IntRange(0, 4).Draw(t, "holes")] {
			rings = append(rings, star(t, at, 7, 3, "hole"))
		}
		points, id := 0, int32(0)
		area := 0.0
		var at []geom.V2
		for i := range rings {
			for range rings[i].uv {
				rings[i].id = append(rings[i].id, id)
				id++
			}
			at = append(at, rings[i].uv...)
			points += len(rings[i].uv)
			if i == 0 {
				area = math.Abs(rings[i].area())
			} else {
				area -= math.Abs(rings[i].area())
			}
		}
		net, err := triangulate(rings)
		require.NoError(t, err)
		tris := net.tri
		require.Len(t, tris, points+2*(len(rings)-1)-2)
		sum := 0.0
		for _, tr := range tris {
			a := at[tr[1]].Sub(at[tr[0]]).Cross(at[tr[2]].Sub(at[tr[0]])) / 2
			require.GreaterOrEqual(t, a, -1e-9)
			sum += a
		}
		require.InDelta(t, area, sum, 1e-6)
	})
}
