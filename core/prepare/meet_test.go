package prepare

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/geom"
)

func frame(t *rapid.T, name string) geom.Frame {
	f := rapid.Float64Range(-1, 1)
	v := func(s string) geom.V3 {
		return geom.V3{X: f.Draw(t, name+s+"x"), Y: f.Draw(t, name+s+"y"), Z: f.Draw(t, name+s+"z")}
	}
	z := v("z")
	if z.Len() < 0.2 {
		z = geom.V3{Z: 1}
	}
	return geom.NewFrame(v("o").Mul(20), z, z.Perpendicular())
}

func round(t *rapid.T, f geom.Frame, name string) brep.Surface {
	r := rapid.Float64Range(2, 9).Draw(t, name+"r")
	switch rapid.IntRange(0, 3).Draw(t, name+"kind") {
	case 0:
		return brep.Cylinder{F: f, R: r}
	case 1:
		return brep.Cone{F: f, R: r, Half: rapid.Float64Range(-1, 1).Draw(t, name+"half")}
	case 2:
		return brep.Sphere{F: f, R: r}
	}
	return brep.Torus{F: f, Major: r + 5, Minor: 3}
}

// Where two surfaces are said to meet, all of the curve lies on both; a plane
// square to an axis, or through a centre, always meets.
func TestCurvesLieOnBothSurfaces(t *testing.T) {
	met := 0
	rapid.Check(t, func(t *rapid.T) {
		f := frame(t, "f")
		s := round(t, f, "s")
		n := []geom.V3{f.Z, f.X, f.Z.Add(f.X.Mul(0.4)).Unit()}[rapid.IntRange(0, 2).Draw(t, "lie")]
		at := rapid.Float64Range(-1, 1).Draw(t, "at")
		o := f.O.Add(n.Mul(at))
		var other brep.Surface = brep.Plane{F: geom.NewFrame(o, n, n.Perpendicular())}
		// a point on both: along a circle of directions in the plane, where the other's level changes its sign
		p, ok := onBoth(s, other.(brep.Plane))
		if !ok {
			return
		}
		if rapid.Bool().Draw(t, "swap") {
			s, other = other, s
		}
		c, ok := meet(s, other, p)
		if !ok {
			return
		}
		met++
		require.InDelta(t, 0, c.At(c.Param(p)).Dist(p), 1e-6)
		for k := range 24 {
			q := c.At(c.Param(p) + 0.25*float64(k))
			for _, x := range []brep.Surface{s, other} {
				d, known := level(x, q)
				require.True(t, known)
				require.InDelta(t, 0, d, 1e-6, "%T", x)
			}
		}
	})
	assert.Greater(t, met, 10)
}

// onBoth searches a point of a plane where a surface's level is zero.
func onBoth(s brep.Surface, p brep.Plane) (geom.V3, bool) {
	ray := func(r float64) geom.V3 { return p.F.ToWorld(geom.V3{X: r * 0.8, Y: r * 0.6}) }
	f := func(r float64) float64 { d, _ := level(s, ray(r)); return d }
	for r := -40.0; r < 40; r += 0.5 {
		if f(r)*f(r+0.5) < 0 {
			return ray(zero(f, r, r+0.5)), true
		}
	}
	return geom.V3{}, false
}

// Round surfaces about one axis meet in circles, cylinders side by side in
// lines.
func TestRoundSurfacesMeet(t *testing.T) {
	up := geom.Identity()
	cone := brep.Cone{F: up, R: 5, Half: math.Atan(0.5)}
	c, ok := meet(brep.Cylinder{F: up, R: 6}, cone, geom.V3{X: 6, Z: 2})
	require.True(t, ok)
	assert.InDelta(t, 6, c.(brep.Circle).R, 1e-12)
	assert.InDelta(t, 2, c.At(1).Z, 1e-12)
	aside := up
	aside.O.X = 6
	c, ok = meet(brep.Cylinder{F: up, R: 5}, brep.Cylinder{F: aside, R: 5}, geom.V3{X: 3, Y: 4})
	require.True(t, ok)
	assert.InDelta(t, 0, c.At(7).Sub(geom.V3{X: 3, Y: 4, Z: 7}).XY().Len(), 1e-12)
	_, ok = meet(brep.Cylinder{F: up, R: 5}, brep.Cylinder{F: geom.NewFrame(geom.V3{}, geom.V3{X: 1}, geom.V3{Y: 1}), R: 3}, geom.V3{X: 4, Y: 3})
	assert.False(t, ok, "crossing cylinders meet in no plain curve")
}

// Hits come in the order of their distance, and all of them.
func TestHitsAreFoundInOrder(t *testing.T) {
	ball := brep.Sphere{F: geom.Identity(), R: 5}
	line := brep.Line{P: geom.V3{X: -20, Y: 3}, D: geom.V3{X: 1}}
	got := hits(line, 0, 1, 100, ball)
	require.Len(t, got, 2)
	assert.InDelta(t, 16, got[0], 1e-9)
	assert.InDelta(t, 24, got[1], 1e-9)
	assert.Empty(t, hits(line, 0, -1, 100, ball))
	assert.Len(t, hits(line, 0, 1, 20, ball), 1, "as far as the reach")
	circle := brep.Circle{F: geom.Identity(), R: 10}
	wall := brep.Plane{F: geom.NewFrame(geom.V3{X: 5}, geom.V3{X: 1}, geom.V3{Y: 1})}
	got = hits(circle, 0, 1, 1e3, wall)
	require.Len(t, got, 2)
	assert.InDelta(t, math.Pi/3, got[0], 1e-9)
	assert.InDelta(t, 5*math.Pi/3, got[1], 1e-9)
}
