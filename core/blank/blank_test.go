package blank

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/geom"
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
