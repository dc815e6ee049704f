package feature

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/geom"
)

// What is said of a feature by one of its faces holds for it alone, however the
// part lies.
func TestAmendmentsFindTheirFeature(t *testing.T) {
	for _, turn := range []geom.Frame{geom.Identity(), geom.NewFrame(geom.V3{X: 5}, geom.V3{Z: 1}, geom.V3{Y: 1})} {
		set, _, err := Recognise(context.Background(), drawn(t, "two-levels").Transform(turn))
		require.NoError(t, err)
		var deep *Feature
		for _, f := range set.Features {
			if f.Kind == ClosedPocket && f.Params.FloorZ < 10 {
				deep = f
			}
		}
		require.NotNil(t, deep)
		other := set.Features[0].Title()
		set.Amend([]Amendment{{Face: deep.Faces[0], Name: "Well", Kind: Slot, Leave: true}, {Face: -1, Name: "x"}, {Face: 1 << 20, Name: "x"}})
		assert.Equal(t, "Well", deep.Title())
		assert.Equal(t, Slot, deep.Kind)
		assert.True(t, deep.Leave)
		assert.False(t, deep.Reachable)
		assert.Equal(t, other, set.Features[0].Title())
		set.Amend([]Amendment{{Face: deep.Faces[0], Kind: RoundHole}})
		assert.Equal(t, Slot, deep.Kind, "a pocket is no round hole")
	}
}

func TestTooDeepForItsWidth(t *testing.T) {
	for _, c := range []struct {
		f    Feature
		deep bool
	}{
		{Feature{Kind: Slot, Params: Params{Width: 3, Depth: 36}}, false},
		{Feature{Kind: Slot, Params: Params{Width: 3, Depth: 37}}, true},
		{Feature{Kind: ClosedPocket, Params: Params{Width: 40, MinInsideRadius: 1, Depth: 25}}, true},
		{Feature{Kind: ClosedPocket, Params: Params{Width: 40, Depth: 25}}, false},
		{Feature{Kind: RoundHole, Params: Params{Diameter: 2, Depth: 100}}, false},
		{Feature{Kind: RoundHole, Params: Params{Diameter: 2, Depth: 101}}, true},
		{Feature{Kind: Step, Params: Params{Width: 1, Depth: 500}}, false},
	} {
		assert.Equal(t, c.deep, c.f.tooDeep() != "", "%+v", c.f.Params)
	}
}

// Neighbours know each other; what goes through can be cut from both sides.
func TestNeighboursAndDirections(t *testing.T) {
	set, _, err := Recognise(context.Background(), drawn(t, "sampler"))
	require.NoError(t, err)
	for _, f := range set.Features {
		for _, id := range f.Neighbours {
			assert.Contains(t, set.ByID(id).Neighbours, f.ID, "%s and %s", f.ID, id)
		}
		want := 1
		if f.Kind == OutsideProfile {
			want = 2 // the holes have a counterbore
		}
		assert.Len(t, f.Directions, want, f.Title())
	}
}
