package planar

import (
	"flag"
	"fmt"
	"math"
	"os"
	"testing"

	"arete/core/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const tol = DefaultTolerance

// Regions are cheap to check and near-degenerate ones rare: thousands.
func TestMain(m *testing.M) {
	flag.Parse()
	if f := flag.Lookup("rapid.checks"); f != nil && f.Value.String() == f.DefValue {
		_ = f.Value.Set("2500")
	}
	os.Exit(m.Run())
}

func ExampleOffset() {
	plate := Region{Rect(0, 0, 40, 20), Circle(geom.V2{X: 10, Y: 10}, 3).Reverse()}
	in := Offset(plate, -2, tol)
	fmt.Printf("%.3f mm² in %d loops\n", in.Area(), len(in))
	// Output: 497.460 mm² in 2 loops
}

// shape draws a region from rectangles, discs, triangles and rounded slots on
// a coarse grid, so that edges coincide, touch and nearly touch.
func shape(t *rapid.T) Region {
	var out Region
	for i, n := 0, rapid.IntRange(1, 6).Draw(t, "n"); i < n; i++ {
		grid := func(name string, lo, hi int) float64 {
			v := float64(rapid.IntRange(lo, hi).Draw(t, name))
			switch rapid.IntRange(0, 9).Draw(t, "nudge") {
			case 0:
				v += 1e-8
			case 1:
				v += 3e-7
			case 2:
				v += 0.137
			}
			return v
		}
		x, y := grid("x", 0, 20), grid("y", 0, 20)
		w, h := grid("w", 1, 10), grid("h", 1, 10)
		var l Loop
		switch rapid.IntRange(0, 3).Draw(t, "kind") {
		case 0:
			l = Rect(x, y, x+w, y+h)
		case 1:
			l = Circle(geom.V2{X: x, Y: y}, w/2)
		case 2:
			l = Polygon(geom.V2{X: x, Y: y}, geom.V2{X: x + w, Y: y}, geom.V2{X: x, Y: y + h})
		default:
			l = Loop{Line(geom.V2{X: x, Y: y}, geom.V2{X: x + w, Y: y})}
			l = append(l, Arc(geom.V2{X: x + w, Y: y}, geom.V2{X: x + w, Y: y + h}, geom.V2{X: x + w, Y: y + h/2}, 1)...)
			l = append(l, Line(geom.V2{X: x + w, Y: y + h}, geom.V2{X: x, Y: y + h}))
			l = append(l, Arc(geom.V2{X: x, Y: y + h}, geom.V2{X: x, Y: y}, geom.V2{X: x, Y: y + h/2}, 1)...)
		}
		if rapid.IntRange(0, 2).Draw(t, "cut") == 0 {
			out = Difference(out, Region{l}, tol)
		} else {
			out = Union(out, Region{l}, tol)
		}
	}
	return out
}

// probe draws a point near the region.
func probe(t *rapid.T) geom.V2 {
	return geom.V2{X: rapid.Float64Range(-8, 38).Draw(t, "px"), Y: rapid.Float64Range(-8, 38).Draw(t, "py")}
}

// closed fails the test unless every loop closes.
func closed(t require.TestingT, r Region) {
	for _, l := range r {
		for i, s := range l {
			require.Less(t, s.B.Dist(l[(i+1)%len(l)].A), 1e-6, "loop is open")
		}
	}
}

func TestBooleanAgreesWithPointsAndAreas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := shape(t), shape(t)
		u, i := Union(a, b, tol), Intersection(a, b, tol)
		ab, ba := Difference(a, b, tol), Difference(b, a, tol)
		for _, r := range []Region{u, i, ab, ba} {
			closed(t, r)
		}
		slack := 1e-5 * (1 + a.Perimeter() + b.Perimeter())
		require.InDelta(t, a.Area()+b.Area(), u.Area()+i.Area(), slack)
		require.InDelta(t, a.Area(), ab.Area()+i.Area(), slack)
		require.InDelta(t, u.Area(), ab.Area()+ba.Area()+i.Area(), slack)
		for k := 0; k < 20; k++ {
			p := probe(t)
			if math.Min(a.Dist(p), b.Dist(p)) < 1e-5 {
				continue
			}
			inA, inB := a.Contains(p), b.Contains(p)
			require.Equal(t, inA || inB, u.Contains(p), "union at %v", p)
			require.Equal(t, inA && inB, i.Contains(p), "intersection at %v", p)
			require.Equal(t, inA && !inB, ab.Contains(p), "difference at %v", p)
		}
	})
}

func TestOffsetIsTheSetWithinTheDistance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := shape(t)
		d := rapid.SampledFrom([]float64{-3, -2, -1.5, -1, -0.5, -0.25, 0.3, 0.5, 1, 2.5, 5}).Draw(t, "d")
		o := Offset(r, d, tol)
		closed(t, o)
		for k := 0; k < 30; k++ {
			p := probe(t)
			dist := r.Dist(p) // signed: negative inside
			if r.Contains(p) {
				dist = -dist
			}
			if math.Abs(dist-d) < 1e-5 {
				continue
			}
			require.Equal(t, dist < d, o.Contains(p), "d=%v, distance %v at %v", d, dist, p)
		}
		for _, l := range o { // no point of the boundary nearer than |d|
			for _, s := range l {
				for _, f := range []float64{0, 0.31, 0.77} {
					require.InDelta(t, math.Abs(d), r.Dist(s.At(f)), 1e-5)
				}
			}
		}
	})
}

func TestOffsetLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := shape(t)
		d := rapid.Float64Range(0.05, 4).Draw(t, "d")
		grown := Offset(r, d, tol)
		opened := Offset(Offset(r, -d, tol), d, tol)
		shut := Offset(grown, -d, tol)
		slack := 1e-4 * (1 + r.Perimeter())
		require.LessOrEqual(t, opened.Area(), r.Area()+slack, "opening removes")
		require.GreaterOrEqual(t, shut.Area(), r.Area()-slack, "closing adds")
		again := Offset(Offset(opened, -d, tol), d, tol)
		// Idempotent; but a neck within the tolerance of vanishing may go.
		require.LessOrEqual(t, again.Area(), opened.Area()+slack)
		finer := Offset(Offset(r, -d-1e-5, tol), d+1e-5, tol)
		require.GreaterOrEqual(t, again.Area(), math.Min(opened.Area(), finer.Area())-slack)
		half := Offset(Offset(r, d/2, tol), d/2, tol)
		require.InDelta(t, grown.Area(), half.Area(), slack, "growing adds up")
	})
}

// Steiner's formula: a convex body K grown by d has area A + P·d + π·d² and
// perimeter P + 2π·d.
func TestOffsetOfConvexFollowsSteiner(t *testing.T) {
	for name, l := range map[string]Loop{
		"rectangle": Rect(3, 4, 50, 20),
		"triangle":  Polygon(geom.V2{X: 0, Y: 0}, geom.V2{X: 30, Y: 2}, geom.V2{X: 7, Y: 19}),
		"circle":    Circle(geom.V2{X: -4, Y: 9}, 6),
	} {
		for _, d := range []float64{0.01, 1, 12.5, 300} {
			o := Offset(Region{l}, d, tol)
			assert.InDelta(t, l.Area()+l.Len()*d+math.Pi*d*d, o.Area(), 1e-6*(1+d), name)
			assert.InDelta(t, l.Len()+2*math.Pi*d, o.Perimeter(), 1e-6*(1+d), name)
		}
	}
}

func TestOffsetVanishesAtTheInradius(t *testing.T) {
	assert.Empty(t, Offset(Region{Rect(0, 0, 10, 30)}, -5, tol))
	assert.Empty(t, Offset(Region{Circle(geom.V2{}, 5)}, -5, tol))
	assert.NotEmpty(t, Offset(Region{Rect(0, 0, 10, 30)}, -4.999, tol))
}

func TestPartsPairHolesWithTheirOuterLoop(t *testing.T) {
	r := Region{Rect(0, 0, 30, 30), Rect(5, 5, 25, 25).Reverse(), Rect(8, 8, 22, 22), Circle(geom.V2{X: 15, Y: 15}, 3).Reverse(), Rect(40, 0, 45, 5)}
	parts := r.Parts()
	require.Len(t, parts, 3)
	assert.InDelta(t, 900-400, parts[0].Area(), 1e-9)
	assert.InDelta(t, 14*14-9*math.Pi, parts[1].Area(), 1e-9)
	assert.InDelta(t, 25, parts[2].Area(), 1e-9)
}

func BenchmarkOffset(b *testing.B) {
	var r Region
	for i := 0; i < 100; i++ {
		r = Union(r, Region{Circle(geom.Polar(40, float64(i)*0.7).Mul(1+float64(i%7)/9), 6)}, tol)
	}
	for b.Loop() {
		Offset(r, -1, tol)
	}
}

// Bands that lie edge to edge, divided differently along their common sides
// and off by the last digits, join to one rectangle at the first try.
func TestSidesThatDifferByRoundingJoin(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		off := rapid.Float64Range(-3e-14, 3e-14)
		at := func(x, y float64) geom.V2 {
			return geom.V2{X: x + off.Draw(t, "dx"), Y: y + off.Draw(t, "dy")}
		}
		stops := []float64{0, 0.3, 1, 2.5, 4, 7, 9.1, 10}
		var all Region
		bands := rapid.IntRange(2, 6).Draw(t, "bands")
		for k := 0; k < bands; k++ {
			lo, hi := float64(6*k), float64(6*k+6)
			for copies := rapid.IntRange(1, 3).Draw(t, "copies"); copies > 0; copies-- {
				var way []geom.V2
				for i, x := range stops {
					if i == 0 || i == len(stops)-1 || rapid.Bool().Draw(t, "below") {
						way = append(way, at(x, lo))
					}
				}
				for i := len(stops) - 1; i >= 0; i-- {
					if i == 0 || i == len(stops)-1 || rapid.Bool().Draw(t, "above") {
						way = append(way, at(stops[i], hi))
					}
				}
				all = append(all, Polygon(way...))
			}
		}
		out, err := combineTurned(all, nil, tol, 0, func(a, _ int) bool { return a > 0 }, false)
		require.NoError(t, err)
		require.Len(t, out, 1)
		require.InDelta(t, float64(60*bands), out.Area(), 1e-9)
	})
}

// A point within lies inside, and not much nearer to the boundary than the
// deepest.
func TestWithinIsInside(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w, h := rapid.Float64Range(1, 80).Draw(t, "w"), rapid.Float64Range(1, 80).Draw(t, "h")
		r := Region{Rect(0, 0, w, h)}
		for range rapid.IntRange(0, 4).Draw(t, "holes") {
			c := geom.V2{X: w * rapid.Float64Range(0, 1).Draw(t, "x"), Y: h * rapid.Float64Range(0, 1).Draw(t, "y")}
			r = Difference(r, Region{Circle(c, rapid.Float64Range(0.1, 20).Draw(t, "r"))}, tol)
		}
		if r.Area() < 1e-3 {
			return
		}
		for _, part := range r.Parts() {
			_, most := part.Deepest(0.01)
			if most < 1e-4 {
				continue
			}
			p := part.Within()
			require.True(t, part.Contains(p))
			require.Greater(t, part.Dist(p), 0.02*most)
		}
	})
}
