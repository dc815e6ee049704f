package step

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/geom"
)

// Placements with scales are a group: what is placed twice is placed by the
// product, and the inverse undoes it.
func TestPlacementsCompose(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := rapid.Float64Range(-3, 3)
		v := func(n string) geom.V3 { return geom.V3{X: f.Draw(t, n), Y: f.Draw(t, n), Z: 1 + f.Draw(t, n)/4} }
		draw := func(n string) placement {
			return placement{geom.NewFrame(v(n).Mul(10), v(n), v(n)), rapid.Float64Range(0.1, 30).Draw(t, n)}
		}
		apply := func(p placement, q geom.V3) geom.V3 { return p.O.Add(p.Turn(q).Mul(p.scale)) }
		a, b, p := draw("a"), draw("b"), v("p")
		require.InDelta(t, 0, apply(a.then(b), p).Dist(apply(a, apply(b, p))), 1e-9)
		require.InDelta(t, 0, apply(a.inverse(), apply(a, p)).Dist(p), 1e-9)
	})
}
