package section

import (
	"math"
	"os"
	"path/filepath"
	"testing"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/geom"
	"arete/core/planar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func load(t require.TestingT, name string) *brep.Solid {
	f, err := os.Open(filepath.Join("..", "..", name+".step"))
	require.NoError(t, err)
	defer f.Close()
	m, err := step.Read(f)
	require.NoError(t, err)
	return m.Bodies[0].Solid
}

// Against brute force: a point is in the shadow above z when a vertical line
// through it meets a triangle of the part higher than z.
func TestShadowAgainstVerticalLines(t *testing.T) {
	type part struct {
		s  *brep.Solid
		sh *Shadow
		at [][3]geom.V3
	}
	parts := map[string]part{}
	names := []string{"demo/parts/gauge-lid", "demo/parts/valve-manifold", "shop/testdata/nested", "shop/testdata/bevel", "shop/testdata/rim"}
	for _, n := range names {
		s := load(t, n)
		sh, err := New(s, nil, nil, planar.DefaultTolerance)
		require.NoError(t, err)
		m, err := s.Tessellate(0.002)
		require.NoError(t, err)
		p := part{s: s, sh: sh}
		for _, tr := range m.Tris {
			p.at = append(p.at, [3]geom.V3{m.Points[tr[0]], m.Points[tr[1]], m.Points[tr[2]]})
		}
		parts[n] = p
	}
	rapid.Check(t, func(t *rapid.T) {
		p := parts[rapid.SampledFrom(names).Draw(t, "part")]
		b := p.s.Box()
		z := rapid.Float64Range(b.Min.Z-1, b.Max.Z+1).Draw(t, "z")
		q := geom.V2{X: rapid.Float64Range(b.Min.X-2, b.Max.X+2).Draw(t, "x"), Y: rapid.Float64Range(b.Min.Y-2, b.Max.Y+2).Draw(t, "y")}
		r := p.sh.Above(z)
		top := math.Inf(-1)
		for _, tr := range p.at {
			top = math.Max(top, heightOver(tr, q))
		}
		if !r.Empty() && r.Dist(q) < 0.01 || math.Abs(top-z) < 0.01 {
			return
		}
		require.Equal(t, top > z, r.Contains(q), "z %v at %v, top %v", z, q, top)
	})
}

func heightOver(tr [3]geom.V3, q geom.V2) float64 {
	a, b, c := tr[0], tr[1], tr[2]
	normal := b.Sub(a).Cross(c.Sub(a))
	den := normal.Z
	if math.Abs(den) < 1e-9*normal.Len() { // a wall
		return math.Inf(-1)
	}
	u := b.XY().Sub(q).Cross(c.XY().Sub(q)) / den
	v := c.XY().Sub(q).Cross(a.XY().Sub(q)) / den
	if u < 0 || v < 0 || u+v > 1 {
		return math.Inf(-1)
	}
	return u*a.Z + v*b.Z + (1-u-v)*c.Z
}

func TestLevelsOfTheLid(t *testing.T) {
	z, faces := Levels(load(t, "demo/parts/gauge-lid"), nil)
	assert.InDeltaSlice(t, []float64{18, 15, 11.4, 6, 5}, z, 1e-6)
	assert.Len(t, faces[2], 4, "four floors of counterbores")
}

func TestCapsAreSeenFromAbove(t *testing.T) {
	s := load(t, "demo/parts/gauge-lid")
	disc := planar.Region{planar.Circle(geom.V2{X: 48, Y: 35.5}, 20)}
	sh, err := New(s, nil, []Cap{{Region: disc, Z: 30}}, planar.DefaultTolerance)
	require.NoError(t, err)
	assert.InDelta(t, math.Pi*400, sh.Above(20).Area(), 1e-6)
}
