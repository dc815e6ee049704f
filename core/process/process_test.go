package process

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Passes go down, none deeper than the depth of cut, stop at every floor on
// the way, and end at the bottom.
func TestPasses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		top := rapid.Float64Range(-5, 50).Draw(t, "top")
		bottom := top - rapid.Float64Range(0.1, 60).Draw(t, "depth")
		ap := rapid.Float64Range(0.1, 20).Draw(t, "ap")
		stops := rapid.SliceOfN(rapid.Float64Range(-70, 60), 0, 5).Draw(t, "stops")
		out := passes(top, bottom, ap, stops)
		at := top
		for _, z := range out {
			require.Less(t, z, at+1e-9)
			require.LessOrEqual(t, at-z, ap+1e-6)
			at = z
		}
		require.InDelta(t, bottom, at, 1e-9)
		for _, s := range stops {
			if s < top-1e-6 && s > bottom+1e-6 {
				found := false
				for _, z := range out {
					found = found || z > s-1e-9 && z < s+1e-9
				}
				require.True(t, found, "no stop at %v", s)
			}
		}
	})
	assert.Equal(t, []float64{-1, -2}, passes(0, -2, 1, nil))
}
