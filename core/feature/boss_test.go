package feature

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/geom"
)

// Islands on sides that are not cut now have no region; they are not bosses
// of this setup.
func TestBossesOfOtherSidesAreLeftAlone(t *testing.T) {
	s := drawn(t, "bosses").Transform(geom.NewFrame(geom.V3{}, geom.V3{X: 1}, geom.V3{Y: 1}))
	set, _, err := Recognise(context.Background(), s)
	require.NoError(t, err)
	for _, f := range set.Features {
		assert.NotEqual(t, Boss, f.Kind)
	}
}
