package clearing

import (
	"context"
	"math"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
	"arete/core/removal"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const tol = planar.DefaultTolerance

var plate = geom.Box{Min: geom.V3{Z: -10}, Max: geom.V3{X: 60, Y: 50}}

// pocketShape draws a pocket inside the plate: joined rectangles and discs,
// perhaps with islands.
func pocketShape(t *rapid.T) planar.Region {
	var r planar.Region
	for i, n := 0, rapid.IntRange(1, 4).Draw(t, "n"); i < n; i++ {
		x, y := rapid.Float64Range(10, 40).Draw(t, "x"), rapid.Float64Range(10, 30).Draw(t, "y")
		w, h := rapid.Float64Range(4, 15).Draw(t, "w"), rapid.Float64Range(4, 15).Draw(t, "h")
		l := planar.Rect(x, y, x+w, y+h)
		if rapid.Bool().Draw(t, "disc") {
			l = planar.Circle(geom.V2{X: x + 5, Y: y + 5}, w/2)
		}
		r = planar.Union(r, planar.Region{l}, tol)
	}
	if rapid.Bool().Draw(t, "island") {
		p, d := r.Deepest(0.1)
		r = planar.Difference(r, planar.Region{planar.Circle(p, d*0.3)}, tol)
	}
	return r
}

func input(r planar.Region, radius, ae float64) Input {
	whole := planar.Region{planar.Rect(plate.Min.X, plate.Min.Y, plate.Max.X, plate.Max.Y)}
	keep := planar.Difference(planar.Offset(whole, 20, tol), r, tol)
	return Input{
		Levels: []Level{{Z: -2, From: 0, Keep: keep, Stock: r, Material: whole}, {Z: -4, From: -2, Keep: keep, Stock: r, Material: whole}},
		Bound:  planar.Offset(r, 0.001, tol), Radius: radius, AE: ae, Clear: 5, Feed: 1000, Plunge: 200, RampAngle: 0.05, MinHelix: 0.1, Plunges: true, Climb: true, Tol: tol,
	}
}

// Whatever the area, the tool and the width of cut: what the tool can reach is
// cut to depth, what must stay is not touched, and rapids cut nothing. The
// judge is the dexel simulation, which knows nothing of regions.
func TestNothingStaysUnclearedWhateverTheWidth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := pocketShape(t)
		radius := rapid.Float64Range(0.8, 4).Draw(t, "radius")
		ae := radius * rapid.Float64Range(0.1, 1.95).Draw(t, "ae/radius")
		in := input(r, radius, ae)
		path, _, err := Make(context.Background(), in, nil)
		require.NoError(t, err)
		tool := tooling.Tool{Kind: tooling.EndMill, DC: 2 * radius, APMX: 50, Stickout: 60, Shank: 2 * radius}
		g := removal.NewGrid(plate, 0.3)
		at := geom.V3{Z: 5}
		for _, m := range path.Moves {
			v := g.Cut(tool, at, m, 0, 1)
			if m.Kind == motion.Rapid && at.Z < 5 {
				require.LessOrEqual(t, v, 0.05, "a rapid to %v cuts", m.To)
			}
			at = m.To
		}
		room := planar.Offset(r, -radius, tol)
		reach := planar.Offset(room, radius, tol)
		for j := 0; j < g.NY; j++ {
			for i := 0; i < g.NX; i++ {
				p, z := g.Center(i, j), float64(g.Z[j*g.NX+i])
				switch {
				case reach.Contains(p) && reach.Dist(p) > 0.03*radius:
					require.InDelta(t, -4, z, 1e-4, "left uncleared at %v", p)
				case !r.Contains(p) && r.Dist(p) > 1e-3:
					require.Zero(t, z, "cut outside at %v", p)
				}
			}
		}
	})
}

func TestEntryNeverGoesStraightDownWhereAHelixFits(t *testing.T) {
	r := planar.Region{planar.Rect(10, 10, 50, 40)}
	in := input(r, 4, 3)
	in.Levels = in.Levels[:1]
	path, _, err := Make(context.Background(), in, nil)
	require.NoError(t, err)
	at := geom.V3{Z: 5}
	steepest := 0.0
	for _, m := range path.Moves {
		if m.Kind != motion.Rapid && m.To.Z < at.Z && at.Z <= 0.1+1e-9 && m.To.Z < -1e-9 {
			flat := m.Len(at)
			steepest = math.Max(steepest, (at.Z-m.To.Z)/math.Sqrt(math.Max(1e-12, flat*flat-(at.Z-m.To.Z)*(at.Z-m.To.Z))))
		}
		at = m.To
	}
	assert.InDelta(t, math.Tan(0.05), steepest, 0.03, "as steep as the ramp angle")
}

func TestTooWideAToolSaysHowWideItMayBe(t *testing.T) {
	r := planar.Region{planar.Rect(10, 10, 50, 16)}
	path, problems, err := Make(context.Background(), input(r, 4, 3), nil)
	require.NoError(t, err)
	assert.Empty(t, path.Moves)
	require.NotEmpty(t, problems)
	assert.Contains(t, problems[0].Say, "⌀6.0")
}

func TestCancelledWorkStops(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, _, err := Make(ctx, input(planar.Region{planar.Rect(10, 10, 50, 40)}, 4, 3), nil)
	assert.ErrorIs(t, err, context.Canceled)
}

func BenchmarkClearing(b *testing.B) {
	in := input(planar.Region{planar.Rect(5, 5, 55, 45), planar.Circle(geom.V2{X: 30, Y: 25}, 6).Reverse()}, 3, 2.4)
	for b.Loop() {
		_, _, _ = Make(context.Background(), in, nil)
	}
}
