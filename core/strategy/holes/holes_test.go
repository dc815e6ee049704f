package holes

import (
	"context"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestOrderKeepsEveryHoleAndShortensTheWay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var in []Hole
		for i, n := 0, rapid.IntRange(1, 30).Draw(t, "n"); i < n; i++ {
			in = append(in, Hole{XY: geom.V2{X: rapid.Float64Range(0, 100).Draw(t, "x"), Y: rapid.Float64Range(0, 100).Draw(t, "y")}, Z: float64(i)})
		}
		out := ordered(in)
		assert.ElementsMatch(t, in, out)
		assert.LessOrEqual(t, way(out), way(in)+1e-9)
	})
}

func TestPecksReachTheBottomAndReturn(t *testing.T) {
	p, err := Make(context.Background(), Input{Holes: []Hole{{XY: geom.V2{X: 5, Y: 5}, R: 2, Z: -20}}, Kind: motion.CyclePeck, Peck: 6, Feed: 100, Clear: 10})
	require.NoError(t, err)
	require.Len(t, p.Cycles, 1)
	deepest, at, removed := 0.0, 10.0, 2.0
	for _, m := range p.Moves {
		if m.Kind == motion.Rapid && m.To.Z < at {
			assert.GreaterOrEqual(t, m.To.Z, removed, "rapids stay above what is drilled")
		}
		if m.Kind == motion.Line {
			removed = m.To.Z
		}
		deepest, at = min(deepest, m.To.Z), m.To.Z
	}
	assert.Equal(t, -20.0, deepest)
	assert.Equal(t, 10.0, at)
}
