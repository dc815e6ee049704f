package motion

import (
	"math"
	"testing"

	"arete/core/geom"
	"arete/core/machine"
	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

var mc = machine.Machine{Rapid: 30000, MaxFeed: 10000, Accel: 4000, CornerTol: 0.02}

func TestTrapezoidInClosedForm(t *testing.T) {
	// 100 mm at 6000 mm/min (100 mm/s), 4000 mm/s²: ramps of 25 ms and 1.25 mm.
	got := Times([]Move{{Kind: Line, To: geom.V3{X: 100}, Feed: 6000}}, geom.V3{}, mc)
	assert.InDelta(t, 2*0.025+(100-2.5)/100, got[0], 1e-9)
	// Too short to reach speed: a triangle of 2·√(L/a).
	got = Times([]Move{{Kind: Line, To: geom.V3{X: 1}, Feed: 6000}}, geom.V3{}, mc)
	assert.InDelta(t, 2*math.Sqrt(1/4000.0), got[0], 1e-9)
}

func TestSplittingALineCostsNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 20).Draw(t, "n")
		feed := rapid.Float64Range(100, 9000).Draw(t, "feed")
		length := rapid.Float64Range(0.1, 300).Draw(t, "length")
		var parts []Move
		for i := 1; i <= n; i++ {
			parts = append(parts, Move{Kind: Line, To: geom.V3{X: length * float64(i) / float64(n)}, Feed: feed})
		}
		sum := 0.0
		for _, s := range Times(parts, geom.V3{}, mc) {
			sum += s
		}
		whole := Times([]Move{{Kind: Line, To: geom.V3{X: length}, Feed: feed}}, geom.V3{}, mc)[0]
		if math.Abs(sum-whole) > 1e-6*whole {
			t.Fatalf("%d parts take %v s, the whole %v s", n, sum, whole)
		}
	})
}

func TestCornersCostTime(t *testing.T) {
	straight := Times([]Move{{Kind: Line, To: geom.V3{X: 20}, Feed: 5000}, {Kind: Line, To: geom.V3{X: 40}, Feed: 5000}}, geom.V3{}, mc)
	corner := Times([]Move{{Kind: Line, To: geom.V3{X: 20}, Feed: 5000}, {Kind: Line, To: geom.V3{X: 20, Y: 20}, Feed: 5000}}, geom.V3{}, mc)
	assert.Greater(t, corner[0]+corner[1], straight[0]+straight[1])
}

func TestArcSweepAndPoints(t *testing.T) {
	m := Move{Kind: CW, To: geom.V3{X: 0, Y: -10, Z: -2}, C: geom.V2{}}
	from := geom.V3{X: 10}
	assert.InDelta(t, -math.Pi/2, m.Sweep(from), 1e-12)
	assert.InDelta(t, 10, m.At(from, 0.3).XY().Len(), 1e-12)
	assert.InDelta(t, math.Hypot(math.Pi*5, 2), m.Len(from), 1e-9)
	full := Move{Kind: CCW, To: from, C: geom.V2{}}
	assert.InDelta(t, 2*math.Pi, full.Sweep(from), 1e-12)
}

// An arc that all but closes is run in halves, a whole circle as it is.
func TestArcsThatAllButCloseAreHalved(t *testing.T) {
	p := Path{Moves: []Move{{Kind: Line, To: geom.V3{X: 10}}, {Kind: CCW, To: geom.V3{X: 10, Y: -0.003}}, {Kind: Line, To: geom.V3{X: 10}}, {Kind: CCW, To: geom.V3{X: 10}}}}
	p.Straighten()
	assert.Len(t, p.Moves, 5)
	assert.InDelta(t, -10, p.Moves[1].To.X, 1e-3)
	assert.Equal(t, geom.V3{X: 10, Y: -0.003}, p.Moves[2].To)
}

// An arc shorter than its ends can be told apart is run straight.
func TestShortArcsAreStraightened(t *testing.T) {
	p := Path{Moves: []Move{{Kind: Line, To: geom.V3{X: 10}, Feed: 100}, {Kind: CCW, To: geom.V3{X: 10, Y: 0.003}, Feed: 100}, {Kind: CCW, To: geom.V3{Y: 10}, Feed: 100}}}
	p.Straighten()
	assert.Equal(t, []Kind{Line, Line, CCW}, []Kind{p.Moves[0].Kind, p.Moves[1].Kind, p.Moves[2].Kind})
	assert.Equal(t, geom.V3{X: 10, Y: 0.003}, p.Moves[1].To)
}
