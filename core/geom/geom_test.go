package geom

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func vec(t *rapid.T, name string) V3 {
	f := rapid.Float64Range(-100, 100)
	return V3{f.Draw(t, name+"x"), f.Draw(t, name+"y"), f.Draw(t, name+"z")}
}

func TestFramesAreRightHandedAndInvert(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		z := vec(t, "z")
		if z.Len() < 1e-3 {
			return
		}
		f := NewFrame(vec(t, "o"), z, vec(t, "hint"))
		require.InDelta(t, 1, f.X.Cross(f.Y).Dot(f.Z), 1e-9)
		require.InDelta(t, 0, f.Z.Cross(z).Len()/z.Len(), 1e-9)
		p := vec(t, "p")
		require.InDelta(t, 0, f.ToWorld(f.ToLocal(p)).Dist(p), 1e-9)
		require.InDelta(t, 0, f.Inverse().ToWorld(f.ToWorld(p)).Dist(p), 1e-9)
		g := NewFrame(vec(t, "o2"), V3{1, 2, 3}, V3{X: 1})
		require.InDelta(t, 0, f.Then(g).ToWorld(p).Dist(f.ToWorld(g.ToWorld(p))), 1e-9)
		m := f.Matrix()
		q := f.ToWorld(p)
		require.InDelta(t, q.Y, m[4]*p.X+m[5]*p.Y+m[6]*p.Z+m[7], 1e-9)
	})
}

func TestPerpendicularIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := vec(t, "a")
		if a.Len() < 1e-3 {
			return
		}
		p := a.Perpendicular()
		require.InDelta(t, 1, p.Len(), 1e-9)
		require.InDelta(t, 0, p.Dot(a)/a.Len(), 1e-9)
	})
}

func TestBoxGrowsByPointsAndHasCorners(t *testing.T) {
	b := EmptyBox()
	assert.True(t, b.Empty())
	b = b.Add(V3{1, 2, 3}).Add(V3{-1, 5, 0})
	assert.Equal(t, V3{2, 3, 3}, b.Size())
	assert.Equal(t, b, b.Union(EmptyBox()))
	c := EmptyBox()
	for _, p := range b.Corners() {
		c = c.Add(p)
	}
	assert.Equal(t, b, c)
	assert.InDelta(t, 5, Polar(5, 1).Len(), 1e-12)
	assert.InDelta(t, math.Pi/2, math.Atan2(V2{1, 0}.Left().Y, V2{1, 0}.Left().X), 1e-12)
}
