package compare

import (
	"context"
	"math"
	"os"
	"testing"

	"arete/core/exchange/step"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/removal"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var stock = geom.Box{Min: geom.V3{Z: -10}, Max: geom.V3{X: 60, Y: 40}}

func line(x, y, z float64) motion.Move {
	return motion.Move{Kind: motion.Line, To: geom.V3{X: x, Y: y, Z: z}}
}

// A slot from (10,20) to (50,20), 10 wide, 4 deep: distances by hand.
func TestDeviationByHand(t *testing.T) {
	f := NewField(stock, nil)
	f.Add(0, tooling.Tool{Kind: tooling.EndMill, DC: 10}, geom.V3{X: 10, Y: 20, Z: -4}, []motion.Move{line(50, 20, -4)})
	for name, c := range map[string]struct {
		p    geom.V3
		want float64
	}{
		"on the floor":            {geom.V3{X: 30, Y: 20, Z: -4}, 0},
		"under the floor":         {geom.V3{X: 30, Y: 20, Z: -4.3}, -0.3},
		"in the air of the slot":  {geom.V3{X: 30, Y: 20, Z: -3.9}, 0.1},
		"on the wall":             {geom.V3{X: 30, Y: 25, Z: -2}, 0},
		"behind the wall":         {geom.V3{X: 30, Y: 25.7, Z: -2}, -0.7},
		"beside the corner":       {geom.V3{X: 30, Y: 25.3, Z: -4.4}, -0.5},
		"round the end":           {geom.V3{X: 50 + 6/math.Sqrt2, Y: 20 + 6/math.Sqrt2, Z: -2}, -1},
		"far inside":              {geom.V3{X: 30, Y: 33, Z: -7}, -Range},
		"outside the stock's top": {geom.V3{X: 30, Y: 35, Z: 0.2}, 0.2},
	} {
		d, _ := f.Deviation(c.p)
		assert.InDelta(t, c.want, d, 1e-9, name)
	}
}

func TestPointedAndRoundToolsByHand(t *testing.T) {
	f := NewField(stock, nil)
	f.Add(0, tooling.Tool{Kind: tooling.Drill, DC: 8, SIG: 90}, geom.V3{X: 15, Y: 20, Z: 5}, []motion.Move{line(15, 20, -6)})
	f.Add(1, tooling.Tool{Kind: tooling.BallNose, DC: 8, RE: 4}, geom.V3{X: 30, Y: 20, Z: -3}, []motion.Move{line(50, 20, -3)})
	d, step := f.Deviation(geom.V3{X: 16, Y: 20, Z: -5})
	assert.InDelta(t, 0, d, 1e-9, "on the cone of the point")
	assert.Equal(t, 0, step)
	d, _ = f.Deviation(geom.V3{X: 15, Y: 20, Z: -6.5})
	assert.InDelta(t, -0.5, d, 1e-9, "below the tip")
	d, step = f.Deviation(geom.V3{X: 40, Y: 20 + 4*math.Sin(0.5), Z: 1 - 4*math.Cos(0.5)})
	assert.InDelta(t, 0, d, 1e-9, "on the ball")
	assert.Equal(t, 1, step)
}

// Against brute force: the tool stamped in small steps along random moves.
func TestDeviationAgainstStamping(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tool := rapid.SampledFrom([]tooling.Tool{{Kind: tooling.EndMill, DC: 6}, {Kind: tooling.BallNose, DC: 6, RE: 3}, {Kind: tooling.SpotDrill, DC: 6, SIG: 90}}).Draw(t, "tool")
		at := geom.V3{X: rapid.Float64Range(10, 50).Draw(t, "x0"), Y: rapid.Float64Range(10, 30).Draw(t, "y0"), Z: rapid.Float64Range(-8, 0).Draw(t, "z0")}
		m := line(rapid.Float64Range(10, 50).Draw(t, "x1"), rapid.Float64Range(10, 30).Draw(t, "y1"), rapid.Float64Range(-8, 0).Draw(t, "z1"))
		if rapid.Bool().Draw(t, "arc") {
			c := at.XY().Add(geom.Polar(rapid.Float64Range(1, 8).Draw(t, "r"), rapid.Float64Range(0, 6).Draw(t, "w")))
			m = motion.Move{Kind: motion.CCW, C: c, To: c.Mul(2).Sub(at.XY()).At(at.Z)}
		}
		f := NewField(stock, nil)
		f.Add(0, tool, at, []motion.Move{m})
		sh := newShape(tool)
		for k := 0; k < 10; k++ {
			p := geom.V3{X: rapid.Float64Range(8, 52).Draw(t, "px"), Y: rapid.Float64Range(8, 32).Draw(t, "py"), Z: rapid.Float64Range(-9, -0.5).Draw(t, "pz")}
			want := math.Max(-Range, f.outside(p))
			for i := 0; i <= 4000; i++ {
				c := m.At(at, float64(i)/4000)
				want = math.Max(want, -sh.distance(p.XY().Dist(c.XY()), p.Z-c.Z))
			}
			got, _ := f.Deviation(p)
			require.InDelta(t, want, got, 0.02)
		}
	})
}

// Faces of a real part: a stock cut nowhere is uncut, and an excuse is heard.
func TestFacesOfAnUncutPart(t *testing.T) {
	file, err := os.Open("../../demo/parts/gauge-lid.step")
	require.NoError(t, err)
	defer file.Close()
	m, err := step.Read(file)
	require.NoError(t, err)
	s := m.Bodies[0].Solid
	mesh, err := s.Tessellate(0.05)
	require.NoError(t, err)
	box := s.Box()
	box.Min, box.Max = box.Min.Sub(geom.V3{X: 3, Y: 3, Z: 3}), box.Max.Add(geom.V3{X: 3, Y: 3, Z: 3})
	never := func(int, geom.V3) bool { return false }
	faces, err := Faces(context.Background(), s, mesh, NewField(box, nil), 2, DefaultLimits, never)
	require.NoError(t, err)
	for _, f := range faces {
		assert.Equal(t, Uncut, f.State)
		assert.InDelta(t, Range, f.Excess, 1e-9)
	}
	faces, err = Faces(context.Background(), s, mesh, NewField(box, nil), 2, DefaultLimits, func(int, geom.V3) bool { return true })
	require.NoError(t, err)
	assert.Equal(t, Unreachable, faces[0].State)
}

// The two simulations are written apart: what the dexels leave standing must
// have no deviation by distance, and the other way round.
func TestFieldAgreesWithDexels(t *testing.T) {
	tool := tooling.Tool{Kind: tooling.EndMill, DC: 10, APMX: 20, Stickout: 30, Shank: 10}
	start := geom.V3{X: 12, Y: 12, Z: -5}
	moves := []motion.Move{line(48, 12, -5), {Kind: motion.CCW, To: geom.V3{X: 48, Y: 28, Z: -5}, C: geom.V2{X: 48, Y: 20}}, line(20, 28, -2)}
	f, g := NewField(stock, nil), removal.NewGrid(stock, 0.25)
	f.Add(0, tool, start, moves)
	at := start
	for _, m := range moves {
		g.Cut(tool, at, m, 0, 1)
		at = m.To
	}
	for j := 0; j < g.NY; j += 3 {
		for i := 0; i < g.NX; i += 3 {
			z := float64(g.Z[j*g.NX+i])
			d, _ := f.Deviation(g.Center(i, j).At(z))
			assert.InDelta(t, 0, d, 1e-4, "cell %d %d at %v", i, j, z)
		}
	}
}
