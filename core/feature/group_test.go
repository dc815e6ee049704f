package feature

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/planar"
)

func regrouped(t *testing.T, s *brep.Solid, groups ...Group) *Set {
	set, _, err := Recognise(context.Background(), s, groups...)
	require.NoError(t, err)
	owned := map[int]int{}
	for _, f := range set.Features {
		if f.Kind != Boss {
			for _, i := range f.Faces {
				owned[i]++
			}
		}
	}
	for i := range s.Faces {
		assert.LessOrEqual(t, owned[i], 1+owned[i]/2, "face %d", i)
		assert.GreaterOrEqual(t, set.Owner[i], 0, "face %d has no feature", i)
	}
	return set
}

func titled(set *Set, title string) []*Feature {
	var out []*Feature
	for _, f := range set.Features {
		if f.Title() == title {
			out = append(out, f)
		}
	}
	return out
}

// A counterbored hole falls into two holes when its counterbore is wanted by
// itself, and is one again when they are joined.
func TestAHoleIsSplitAndJoined(t *testing.T) {
	s := drawn(t, "sampler")
	before := regrouped(t, s)
	const whole = "Hole ⌀6.6 through, counterbore ⌀11"
	n := len(titled(before, whole))
	h := titled(before, whole)[0]
	wide := -1
	for _, i := range h.Faces {
		if c, ok := s.Faces[i].Surface.(brep.Cylinder); ok && c.R > 5 {
			wide = i
		}
	}
	require.GreaterOrEqual(t, wide, 0)
	split := regrouped(t, s, Group{Own, []int{wide}})
	assert.Empty(t, split.Notes)
	assert.Len(t, titled(split, whole), n-1)
	own := titled(split, "Hole ⌀11 × 6")
	require.Len(t, own, 1)
	assert.Equal(t, "flat", own[0].Params.Bottom)
	require.Len(t, titled(split, "Hole ⌀6.6 through"), 1)
	assert.InDelta(t, 16, titled(split, "Hole ⌀6.6 through")[0].Params.Depth, 1e-6)

	joined := regrouped(t, s, Group{Own, []int{wide}}, Group{Join, h.Faces})
	assert.Empty(t, joined.Notes)
	assert.Len(t, titled(joined, whole), n)
	assert.Len(t, joined.Features, len(before.Features))
}

// Two pockets of one level are joined: their regions together, no less.
func TestPocketsAreJoined(t *testing.T) {
	s := drawn(t, "sampler")
	before := regrouped(t, s)
	pockets := titled(before, "Pocket 40 × 34, 18 deep")
	require.Greater(t, len(pockets), 2)
	set := regrouped(t, s, Group{Join, []int{pockets[0].Faces[0], pockets[1].Faces[0]}})
	assert.Empty(t, set.Notes)
	assert.Len(t, titled(set, "Pocket 40 × 34, 18 deep"), len(pockets)-2)
	one := set.Features[set.Owner[pockets[0].Faces[0]]]
	assert.Same(t, one, set.Features[set.Owner[pockets[1].Faces[0]]])
	assert.InDelta(t, pockets[0].Region.Area()+pockets[1].Region.Area(), one.Region.Area(), 1e-6)
	assert.Equal(t, ClosedPocket, one.Kind)
	assert.InDelta(t, 5, one.Params.MinInsideRadius, 1e-6)
	assert.Len(t, one.Region, 2)

	for _, bad := range []Group{{Join, []int{pockets[0].Faces[0]}}, {Join, []int{pockets[0].Faces[0], titled(before, "Hole ⌀4.2 × 16")[0].Faces[0]}},
		{Join, []int{9999}}, {Own, nil}, {"bend", []int{1}}} {
		set := regrouped(t, s, bad)
		assert.Len(t, set.Notes, 1)
		assert.Len(t, set.Features, len(before.Features), "nothing else is changed")
	}
}

// A floor that a feature shares with others becomes one by itself: the regions
// of both are those of the whole before.
func TestAFloorIsTakenOut(t *testing.T) {
	s := drawn(t, "two-levels")
	before := regrouped(t, s)
	top := titled(before, "Top face")[0]
	require.Len(t, top.Faces, 2, "the top and that of the island")
	island := top.Faces[1]
	set := regrouped(t, s, Group{Own, []int{island}})
	assert.Empty(t, set.Notes)
	own := set.Features[set.Owner[island]]
	require.Equal(t, PlanarFace, own.Kind)
	assert.Equal(t, []int{island}, own.Faces)
	assert.InDelta(t, s.Faces[island].Area(), own.Region.Area(), 1e-6)
	rest := set.Features[set.Owner[top.Faces[0]]]
	assert.InDelta(t, top.Region.Area(), rest.Region.Area()+own.Region.Area(), 1e-3)
	assert.Less(t, planar.Intersection(rest.Region, own.Region, planar.DefaultTolerance).Area(), 1e-6)

	walls := []int{}
	for i, f := range s.Faces {
		if p, ok := f.Surface.(brep.Plane); ok && p.F.Z.Z*p.F.Z.Z < 1e-9 {
			walls = append(walls, i)
		}
	}
	side := regrouped(t, s, Group{Own, walls[:1]})
	assert.Empty(t, side.Notes)
	assert.Contains(t, side.Features[side.Owner[walls[0]]].Why, "another setup")
}

// Whatever faces are put together, what comes out is whole: every face has a
// feature, no feature is empty, and what cannot be is told.
func TestAnyGroupLeavesTheSetWhole(t *testing.T) {
	names := []string{"two-levels", "compound-holes", "staircase", "t-slot", "side-slot", "nameplate", "bosses", "rounded-top"}
	done := map[bool]int{}
	rapid.Check(t, func(t *rapid.T) {
		s := drawn(t, rapid.SampledFrom(names).Draw(t, "part"))
		var groups []Group
		for range rapid.IntRange(1, 3).Draw(t, "groups") {
			groups = append(groups, Group{rapid.SampledFrom([]Act{Own, Join}).Draw(t, "act"), rapid.SliceOfN(rapid.IntRange(0, len(s.Faces)-1), 1, 4).Draw(t, "faces")})
		}
		set, _, err := Recognise(context.Background(), s, groups...)
		require.NoError(t, err)
		done[len(set.Notes) == 0]++
		require.LessOrEqual(t, len(set.Notes), len(groups))
		ids := map[string]bool{}
		for _, f := range set.Features {
			require.NotEmpty(t, f.Title())
			require.False(t, ids[f.ID])
			ids[f.ID] = true
			require.True(t, len(f.Faces) > 0 || f.Kind == OutsideProfile, "%s has no faces", f.Title())
			require.GreaterOrEqual(t, f.Region.Area(), 0.0)
			require.GreaterOrEqual(t, f.Params.TopZ, f.Params.FloorZ-1e-6, f.Title())
		}
		for i, k := range set.Owner {
			require.GreaterOrEqual(t, k, 0, "face %d has no feature", i)
		}
	})
	require.Positive(t, done[true])
	require.Positive(t, done[false])
}

// What is too deep, too wide or alone is no engraving.
func TestGroovesAreNoEngraving(t *testing.T) {
	for _, name := range []string{"arc-slot", "staircase", "two-levels", "patterns", "compound-holes", "sampler"} {
		for _, f := range regrouped(t, drawn(t, name)).Features {
			assert.NotEqual(t, Engraving, f.Kind, name)
		}
	}
}
