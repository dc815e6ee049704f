package edges

import (
	"context"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Around a plate the axis runs at the offset outside the edge, corners on arcs.
func TestTheAxisKeepsItsDistance(t *testing.T) {
	plate := planar.Rect(0, 0, 40, 30)
	rim := Rim{Chain: plate.Reverse(), Low: -1, Offset: 1.5, Tip: -2}
	p, err := Make(context.Background(), Input{Rims: []Rim{rim}, Lead: 1, Clear: 5, Feed: 500, Tol: planar.DefaultTolerance})
	require.NoError(t, err)
	at, n := geom.V3{Z: 5}, 0
	for _, m := range p.Moves {
		if m.Kind != motion.Rapid && at.Z == -2 && m.To.Z == -2 {
			for k := 0.0; k <= 4; k++ {
				q := m.At(at, k/4).XY()
				assert.False(t, plate.Contains(q))
				assert.GreaterOrEqual(t, planar.Region{plate}.Dist(q), 1.5-1e-9)
			}
			n++
		}
		at = m.To
	}
	assert.GreaterOrEqual(t, n, 8)
}
