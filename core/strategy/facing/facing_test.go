package facing

import (
	"context"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/removal"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Whatever the size, tool and width: the whole top is cut to the level, and
// the first and last points are clear of the stock.
func TestTheWholeTopIsCut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		box := geom.Box{Min: geom.V3{Z: -5}, Max: geom.V3{X: rapid.Float64Range(5, 120).Draw(t, "x"), Y: rapid.Float64Range(5, 120).Draw(t, "y"), Z: 1}}
		r := rapid.Float64Range(3, 30).Draw(t, "r")
		in := Input{Min: box.Min.XY(), Max: box.Max.XY(), Z: []float64{0}, Radius: r, AE: r * rapid.Float64Range(0.2, 2).Draw(t, "ae"), Clear: 10, Feed: 1000, OneWay: rapid.Bool().Draw(t, "one-way")}
		p, err := Make(context.Background(), in)
		require.NoError(t, err)
		tool := tooling.Tool{Kind: tooling.FaceMill, DC: 2 * r, APMX: 5, Stickout: 50, Shank: r}
		g := removal.NewGrid(box, 0.7)
		at := geom.V3{Z: 10}
		for _, m := range p.Moves {
			v := g.Cut(tool, at, m, 0, 1)
			if m.Kind == motion.Rapid {
				require.Zero(t, v, "a rapid cuts")
			}
			at = m.To
		}
		for _, z := range g.Z {
			require.InDelta(t, 0, float64(z), 1e-6)
		}
		assert.Equal(t, 10.0, at.Z)
	})
}
