package planar

import (
	"math"
	"testing"

	"arete/core/geom"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What lies inside and what lies outside make up the whole curve, and every
// piece lies where it is said to.
func TestClipDividesACurve(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := shape(t), shape(t)
		frame := Region{Rect(-100, -100, 100, 100)}
		rest := Difference(frame, b, tol)
		for _, l := range a {
			in, out := Clip(l, b, tol), Clip(l, rest, tol)
			total, onEdge := 0.0, false
			for _, c := range append(append([]Loop{}, in...), out...) {
				total += c.Len()
			}
			for _, s := range l { // runs along the boundary belong to either
				onEdge = onEdge || b.Dist(s.At(0.37)) < 1e-5 || b.Dist(s.At(0.5)) < 1e-5
			}
			for _, c := range in {
				for _, s := range c {
					if m := s.At(0.5); b.Dist(m) > 1e-5 {
						require.True(t, b.Contains(m))
					}
				}
			}
			if !onEdge && touchesSlantwise(l, b) {
				require.InDelta(t, l.Len(), total, 1e-4*(1+l.Len()))
			}
		}
	})
}

// touchesSlantwise tells whether no part of the curve runs near along the
// boundary.
func touchesSlantwise(l Loop, r Region) bool {
	for _, s := range l {
		for k := 0.0; k < 40; k++ {
			if r.Dist(s.At(k/40)) < 1e-5 && r.Dist(s.At(k/40+1e-3)) < 1e-5 {
				return false
			}
		}
	}
	return true
}

func TestDeepestAgainstAGrid(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := shape(t)
		if r.Empty() {
			return
		}
		p, d := r.Deepest(0.01)
		require.True(t, r.Contains(p))
		require.InDelta(t, r.Dist(p), d, 1e-9)
		lo, hi := r.Bounds()
		for i := 0.0; i <= 30; i++ {
			for j := 0.0; j <= 30; j++ {
				q := geom.V2{X: lo.X + (hi.X-lo.X)*i/30, Y: lo.Y + (hi.Y-lo.Y)*j/30}
				if r.Contains(q) {
					require.LessOrEqual(t, r.Dist(q), d+math.Max(0.011, 1e-9))
				}
			}
		}
	})
}

func TestArcsAreStoredAsAtMostHalfCircles(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := geom.V2{X: 3, Y: -2}
		r, a, sweep := rapid.Float64Range(0.1, 50).Draw(t, "r"), rapid.Float64Range(-7, 7).Draw(t, "a"), rapid.Float64Range(0.01, 6.2).Draw(t, "sweep")
		turn := int8(1)
		if rapid.Bool().Draw(t, "cw") {
			turn = -1
		}
		parts := Arc(c.Add(geom.Polar(r, a)), c.Add(geom.Polar(r, a+sweep*float64(turn))), c, turn)
		length := 0.0
		for _, s := range parts {
			require.LessOrEqual(t, math.Abs(s.Sweep()), math.Pi+1e-9)
			require.InDelta(t, r, s.At(0.3).Dist(c), 1e-9*r+1e-9)
			lo, hi := s.Bounds()
			for k := 0.0; k <= 10; k++ {
				p := s.At(k / 10)
				require.True(t, p.X >= lo.X-1e-9 && p.X <= hi.X+1e-9 && p.Y >= lo.Y-1e-9 && p.Y <= hi.Y+1e-9)
			}
			length += s.Len()
		}
		require.InDelta(t, r*sweep, length, 1e-6)
	})
}
