package removal

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
)

// wall is a fixture of X 20 to 30, Y 0 to 40, up to Z 15.
func wall() Fixture {
	f := Fixture{Name: "wall", Min: geom.V2{X: 18, Y: -2}, Cell: 0.5, NX: 28, NY: 88, Top: 15}
	for j := range f.NY {
		for i := range f.NX {
			z := math.Inf(-1)
			if x, y := 18+0.5*(float64(i)+0.5), -2+0.5*(float64(j)+0.5); x > 20 && x < 30 && y > 0 && y < 40 {
				z = 15
			}
			f.Z = append(f.Z, z)
		}
	}
	return f
}

var mill = tooling.Tool{Kind: tooling.EndMill, DC: 10, APMX: 20, Shank: 10, Stickout: 30, Holder: []tooling.Segment{{D1: 40, D2: 40, Length: 25}}}

func TestAToolMeetsAFixture(t *testing.T) {
	f := wall()
	for _, c := range []struct {
		name     string
		from, to geom.V3
		met      bool
	}{
		{"beside it", geom.V3{X: 14, Y: -20}, geom.V3{X: 14, Y: 60}, false},
		{"along its side", geom.V3{X: 15.6, Y: -20}, geom.V3{X: 15.6, Y: 60}, true},
		{"across it", geom.V3{X: 0, Y: 20}, geom.V3{X: 50, Y: 20}, true},
		{"over it", geom.V3{X: 0, Y: 20, Z: 15.1}, geom.V3{X: 50, Y: 20, Z: 15.1}, false},
		{"up to it", geom.V3{X: 0, Y: 20}, geom.V3{X: 14.9, Y: 20}, false},
		{"the holder over it", geom.V3{X: 2, Y: 20, Z: -14}, geom.V3{X: 2, Y: 21, Z: -14}, false},
		{"the holder into it", geom.V3{X: 2, Y: 20, Z: -16}, geom.V3{X: 2, Y: 21, Z: -16}, true},
	} {
		assert.Equal(t, c.met, f.met(mill, c.from, motion.Move{Kind: motion.Line, To: c.to}), c.name)
	}
}

// Whatever the place, the tool meets the fixture where a point of the wall,
// asked one by one, is inside the tool or its holder.
func TestFixturesAgainstPoints(t *testing.T) {
	f := wall()
	rapid.Check(t, func(t *rapid.T) {
		p := geom.V3{X: rapid.Float64Range(-5, 55).Draw(t, "x"), Y: rapid.Float64Range(-30, 70).Draw(t, "y"), Z: rapid.Float64Range(-25, 20).Draw(t, "z")}
		deepest := math.Inf(-1) // how far the wall's top is over the lowest of the tool there
		for x := 20.25; x < 30; x += 0.5 {
			for y := 0.25; y < 40; y += 0.5 {
				d := p.XY().Dist(geom.V2{X: x, Y: y})
				low := math.Inf(1)
				switch {
				case d < 5:
					low = 0
				case d < 20:
					low = 30
				}
				deepest = math.Max(deepest, 15-p.Z-low)
			}
		}
		if math.Abs(deepest) < 1e-3 {
			return
		}
		require.Equal(t, deepest > 0, f.met(mill, p, motion.Move{Kind: motion.Rapid, To: p}))
	})
}
