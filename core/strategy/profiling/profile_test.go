package profiling

import (
	"context"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const tol = planar.DefaultTolerance

func task(r planar.Region, radius float64, climb bool) (Input, planar.Region) {
	room := planar.Offset(r, -radius, tol)
	return Input{Passes: []Pass{{Z: -5, Top: 0, Curves: room, Room: room}}, Radius: radius, Lead: radius * 0.6, Extend: radius, Clear: 5, Feed: 900, Plunge: 300, Climb: climb, Tol: tol}, room
}

// In any pocket: every move at depth stays in the room, the whole wall is
// followed, and the wall is met and left without a corner.
func TestWallsAreFollowedFromTangentArcs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w, h, c := rapid.Float64Range(14, 60).Draw(t, "w"), rapid.Float64Range(14, 60).Draw(t, "h"), rapid.Float64Range(3, 6.9).Draw(t, "c")
		r := planar.Offset(planar.Region{planar.Rect(c, c, w-c, h-c)}, c, tol)
		in, room := task(r, 2.5, rapid.Bool().Draw(t, "climb"))
		p, err := Make(context.Background(), in)
		require.NoError(t, err)
		at, length := geom.V3{Z: 5}, 0.0
		wide := planar.Offset(room, 1e-4, tol)
		var depth []motion.Move // at depth, with where they begin
		var begin []geom.V3
		for _, m := range p.Moves {
			if m.Kind != motion.Rapid && m.To.Z == -5 && at.Z == -5 {
				for k := 0.0; k <= 8; k++ {
					q := m.At(at, k/8).XY()
					require.True(t, wide.Contains(q) || wide.Dist(q) < 1e-6, "leaves the room at %v", q)
				}
				length += m.Len(at)
				depth, begin = append(depth, m), append(begin, at)
			}
			at = m.To
		}
		require.GreaterOrEqual(t, length, room.Perimeter())
		n := len(depth) - 1
		for _, k := range []int{0, n} { // approach and retract: arcs off the wall
			require.True(t, depth[k].IsArc())
			off := begin[0]
			if k == n {
				off = depth[n].To
			}
			require.Greater(t, room.Dist(off.XY()), 0.01)
		}
		heading := func(k int, from, to float64) geom.V2 {
			return depth[k].At(begin[k], to).Sub(depth[k].At(begin[k], from)).XY().Unit()
		}
		require.Greater(t, heading(0, 0.999, 1).Dot(heading(1, 0, 0.001)), 0.999, "tangent onto the wall")
		require.Greater(t, heading(n-1, 0.999, 1).Dot(heading(n, 0, 0.001)), 0.999, "tangent off the wall")
	})
}

func TestSpringPassRunsTheWallTwice(t *testing.T) {
	in, room := task(planar.Region{planar.Rect(0, 0, 40, 30)}, 3, true)
	once, err := Make(context.Background(), in)
	require.NoError(t, err)
	in.Spring = 1
	twice, err := Make(context.Background(), in)
	require.NoError(t, err)
	assert.InDelta(t, room.Perimeter(), cut(twice)-cut(once), 1e-6)
}

func cut(p motion.Path) float64 {
	l, at := 0.0, geom.V3{Z: 5}
	for _, m := range p.Moves {
		if m.Kind != motion.Rapid {
			l += m.Len(at)
		}
		at = m.To
	}
	return l
}

func TestClimbHasTheWallOnTheRight(t *testing.T) {
	for _, climb := range []bool{true, false} {
		in, _ := task(planar.Region{planar.Rect(0, 0, 40, 30)}, 3, climb)
		p, err := Make(context.Background(), in)
		require.NoError(t, err)
		area, at := 0.0, geom.V2{}
		for _, m := range p.Moves {
			if m.Kind == motion.Line && m.To.Z == -5 {
				area += at.Cross(m.To.XY()) / 2
			}
			at = m.To.XY()
		}
		assert.Equal(t, climb, area > 0, "a pocket is climbed counter-clockwise")
	}
}
