package prepare_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/prepare"
)

// Whatever is picked, a change is refused in words or leaves a sound solid: of
// outside edges less, of inside edges more.
func TestAnyPickIsRefusedOrSound(t *testing.T) {
	parts := map[string]*brep.Solid{}
	names := []string{"rounded-top", "two-levels", "drafted", "floor-rounds", "compound-holes", "arc-slot", "nameplate"}
	for _, n := range names {
		parts[n] = load(t, "../feature/testdata/"+n+".step")
	}
	made := 0
	rapid.Check(t, func(t *rapid.T) {
		s := parts[rapid.SampledFrom(names).Draw(t, "part")]
		c := prepare.Change{Act: rapid.SampledFrom([]prepare.Act{prepare.Remove, prepare.Chamfer, prepare.Round}).Draw(t, "act")}
		shape := brep.Smooth
		if c.Act == prepare.Remove {
			c.Faces = rapid.SliceOfN(rapid.IntRange(0, len(s.Faces)-1), 1, 4).Draw(t, "faces")
		} else {
			k := rapid.IntRange(0, len(s.Edges)-1).Draw(t, "edge")
			shape = s.Edges[k].Shape()
			c.Edges, c.Size = []int{k}, rapid.Float64Range(0.02, 5).Draw(t, "size")
		}
		out, _, err := prepare.Apply(s, []prepare.Change{c})
		if err != nil {
			var p prepare.Problem
			require.True(t, errors.As(err, &p), "%v", err)
			return
		}
		made++
		require.Zero(t, out.OpenEdges())
		m, err := out.Tessellate(0.05)
		require.NoError(t, err)
		require.Zero(t, m.OpenEdges())
		switch shape {
		case brep.Convex:
			require.Less(t, volume(out), volume(s))
		case brep.Concave:
			require.Greater(t, volume(out), volume(s))
		}
	})
	require.Greater(t, made, 5, "some can be")
}
