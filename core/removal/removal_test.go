package removal

import (
	"context"
	"math"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var block = geom.Box{Min: geom.V3{}, Max: geom.V3{X: 60, Y: 40, Z: 20}}

var (
	flat  = tooling.Tool{Kind: tooling.EndMill, DC: 10, APMX: 22, Stickout: 30, Shank: 10}
	ball  = tooling.Tool{Kind: tooling.BallNose, DC: 10, RE: 5, APMX: 22, Stickout: 30, Shank: 10}
	drill = tooling.Tool{Kind: tooling.Drill, DC: 8, SIG: 118, APMX: 60, Stickout: 70, Shank: 8}
)

// removed cuts the moves from a start and returns the lost volume and the
// bound of its error: half a cell over the walls.
func removed(t tooling.Tool, cell float64, wall float64, start geom.V3, moves ...motion.Move) (v, bound float64) {
	g := NewGrid(block, cell)
	before := g.Volume()
	at := start
	for _, m := range moves {
		g.Cut(t, at, m, 0, 1)
		at = m.To
	}
	return before - g.Volume(), math.Max(g.DX, g.DY) / 2 * wall
}

func TestClosedFormVolumes(t *testing.T) {
	line := func(x, y, z float64) motion.Move {
		return motion.Move{Kind: motion.Line, To: geom.V3{X: x, Y: y, Z: z}}
	}
	pocketWall := 2*(20+10)*5 + math.Pi*10*5
	for name, c := range map[string]struct {
		tool  tooling.Tool
		wall  float64 // area of the walls, mm²
		want  float64
		start geom.V3
		moves []motion.Move
	}{
		"slot":      {flat, 2*30*5 + math.Pi*10*5, (30*10 + math.Pi*25) * 5, geom.V3{X: 15, Y: 20, Z: 15}, []motion.Move{line(45, 20, 15)}},
		"drilled":   {drill, math.Pi * 8 * 10, math.Pi * 16 * (10 + drill.PointLength()/3), geom.V3{X: 30, Y: 20, Z: 25}, []motion.Move{line(30, 20, 10-drill.PointLength())}},
		"ball slot": {ball, 2*20*5 + math.Pi*10*5, 20*math.Pi*25/2 + 2.0/3*math.Pi*125, geom.V3{X: 20, Y: 20, Z: 15}, []motion.Move{line(40, 20, 15)}},
		"ring":      {flat, 2*math.Pi*17*5 + 2*math.Pi*7*5, math.Pi * (17*17 - 7*7) * 5, geom.V3{X: 42, Y: 20, Z: 15}, []motion.Move{{Kind: motion.CCW, To: geom.V3{X: 42, Y: 20, Z: 15}, C: geom.V2{X: 30, Y: 20}}}},
		"rectangle": {flat, pocketWall, (20+10)*(10+10)*5 - (4-math.Pi)*25*5, geom.V3{X: 20, Y: 15, Z: 15}, []motion.Move{line(40, 15, 15), line(40, 25, 15), line(20, 25, 15), line(20, 15, 15), line(40, 20, 15)}},
		"ramp":      {flat, 40 * 10, 20 * 10 * 2.5, geom.V3{X: 20, Y: 20, Z: 20}, []motion.Move{line(40, 20, 15)}},
	} {
		t.Run(name, func(t *testing.T) {
			for _, cell := range []float64{0.4, 0.2, 0.1} {
				v, bound := removed(c.tool, cell, c.wall, c.start, c.moves...)
				want := c.want
				if name == "ramp" { // the leading half disc digs on: volume by summing strips
					want = rampVolume()
				}
				assert.InDelta(t, want, v, bound, "cell %v", cell)
			}
		})
	}
}

// rampVolume integrates the depth under a flat end going down 5 mm over 20 mm:
// at x the lowest height is reached when the trailing rim leaves.
func rampVolume() float64 {
	const n = 4000
	sum := 0.0
	for i := 0; i < n; i++ {
		y := -5 + 10*(float64(i)+0.5)/n
		half := math.Sqrt(25 - y*y)
		for k := 0; k < 400; k++ {
			x := -half + (20+2*half)*(float64(k)+0.5)/400
			sum += 5 * math.Min(20, x+half) / 20 * (20 + 2*half) / 400
		}
	}
	return sum * 10 / n
}

func TestRapidThroughStockIsFound(t *testing.T) {
	g := NewGrid(block, 0.3)
	moves := []motion.Move{{Kind: motion.Rapid, To: geom.V3{X: 50, Y: 20, Z: 18}}}
	r, err := Simulate(context.Background(), g, []Step{{ID: "S1", Tool: flat, Start: geom.V3{X: -10, Y: 20, Z: 18}, Moves: moves, Times: []float64{1}}}, Around{}, nil)
	require.NoError(t, err)
	require.Len(t, r.Collisions, 1)
	assert.Equal(t, "rapid", r.Collisions[0].Kind)
}

func TestHolderInStockIsFound(t *testing.T) {
	short := flat
	short.APMX, short.Stickout = 8, 12
	short.Holder = []tooling.Segment{{D1: 25, D2: 25, Length: 30}}
	step := Step{ID: "S1", Tool: short, Start: geom.V3{X: 30, Y: 20, Z: 25}, Moves: []motion.Move{{Kind: motion.Line, To: geom.V3{X: 30, Y: 20, Z: 6}}}, Times: []float64{1}}
	r, err := Simulate(context.Background(), NewGrid(block, 0.3), []Step{step}, Around{}, nil)
	require.NoError(t, err)
	require.Len(t, r.Collisions, 1)
	assert.Equal(t, "holder", r.Collisions[0].Kind)
	assert.Contains(t, r.Collisions[0].Say, "2.00 mm too deep")
}

func TestShankInStockIsFound(t *testing.T) {
	reduced := flat // a cutter thinner than its shank, deeper than it cuts
	reduced.DC, reduced.APMX, reduced.Stickout, reduced.Shank = 6, 8, 40, 10
	step := Step{ID: "S1", Tool: reduced, Start: geom.V3{X: 30, Y: 20, Z: 25}, Moves: []motion.Move{{Kind: motion.Line, To: geom.V3{X: 30, Y: 20, Z: 9}}}, Times: []float64{1}}
	r, err := Simulate(context.Background(), NewGrid(block, 0.3), []Step{step}, Around{}, nil)
	require.NoError(t, err)
	require.Len(t, r.Collisions, 1)
	assert.Equal(t, "shank", r.Collisions[0].Kind)
	step.Moves[0].To.Z = 12.5
	r, err = Simulate(context.Background(), NewGrid(block, 0.3), []Step{step}, Around{}, nil)
	require.NoError(t, err)
	assert.Empty(t, r.Collisions)
}

func TestJawIsNotCut(t *testing.T) {
	jaw := Jaw{Box: geom.Box{Min: geom.V3{X: -5, Y: -20, Z: -20}, Max: geom.V3{X: 65, Y: 0, Z: 5}}}
	for z, hits := range map[float64]int{4: 1, 6: 0} {
		step := Step{ID: "S1", Tool: flat, Start: geom.V3{X: -10, Y: -4, Z: z}, Moves: []motion.Move{{Kind: motion.Line, To: geom.V3{X: 70, Y: -4, Z: z}}}, Times: []float64{1}}
		r, err := Simulate(context.Background(), NewGrid(block, 0.5), []Step{step}, Around{Jaws: []Jaw{jaw}}, nil)
		require.NoError(t, err)
		n := 0
		for _, c := range r.Collisions {
			if c.Kind == "jaw" {
				n++
			}
		}
		assert.Equal(t, hits, n, "at Z%v", z)
	}
}

func TestLoadSharesTheVolumeOverTime(t *testing.T) {
	g := NewGrid(block, 0.25)
	before := g.Volume()
	step := Step{ID: "S1", Tool: flat, Start: geom.V3{X: -10, Y: 20, Z: 15}, Moves: []motion.Move{{Kind: motion.Line, To: geom.V3{X: 30, Y: 20, Z: 15}}, {Kind: motion.Line, To: geom.V3{X: 70, Y: 20, Z: 15}}}, Times: []float64{2, 3}}
	r, err := Simulate(context.Background(), g, []Step{step}, Around{}, nil)
	require.NoError(t, err)
	sum := 0.0
	for _, q := range r.Load {
		sum += q * r.Slot
	}
	assert.InEpsilon(t, before-g.Volume(), sum, 1e-6)
	assert.InEpsilon(t, r.Removed[0], sum, 1e-6)
}

func TestLogRebuildsTheStockAtAnyTime(t *testing.T) {
	g := NewGrid(block, 0.5)
	g.Record()
	at := geom.V3{X: -10, Y: 20, Z: 15}
	half := geom.V3{X: 30, Y: 20, Z: 15}
	g.Cut(flat, at, motion.Move{Kind: motion.Line, To: half}, 0, 1)
	mid := append([]float32(nil), g.Z...)
	g.Cut(flat, half, motion.Move{Kind: motion.Line, To: geom.V3{X: 70, Y: 20, Z: 10}}, 1, 1)
	for c := range g.Z {
		z := float32(g.Top)
		for e := g.Log.Head[c]; e >= 0; e = g.Log.Prev[e] {
			if g.Log.Time[e] <= 1 {
				z = min(z, g.Log.Z[e])
			}
		}
		assert.InDelta(t, mid[c], z, logDrop+1e-6)
	}
}

func BenchmarkCut(b *testing.B) {
	g := NewGrid(block, 0.2)
	for b.Loop() {
		g.Cut(flat, geom.V3{X: 10, Y: 20, Z: 15}, motion.Move{Kind: motion.Line, To: geom.V3{X: 50, Y: 20, Z: 15}}, 0, 1)
	}
}
