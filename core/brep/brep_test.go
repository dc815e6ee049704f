package brep_test

import (
	"math"
	"os"
	"testing"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func load(t require.TestingT, path string) *brep.Solid {
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	m, err := step.Read(f)
	require.NoError(t, err)
	return m.Bodies[0].Solid
}

// A motion in space changes neither volume nor area nor the tightness of the
// mesh, and the mesh's volume approaches the exact one with the chord.
func TestMassAndMeshDoNotDependOnPlace(t *testing.T) {
	parts := map[string]*brep.Solid{}
	for _, n := range []string{"demo/parts/sensor-bracket", "shop/testdata/boss", "shop/testdata/bevel", "shop/testdata/rim"} {
		parts[n] = load(t, "../../"+n+".step")
	}
	rapid.Check(t, func(t *rapid.T) {
		s := parts[rapid.SampledFrom([]string{"demo/parts/sensor-bracket", "shop/testdata/boss", "shop/testdata/bevel", "shop/testdata/rim"}).Draw(t, "part")]
		f := rapid.Float64Range(-1, 1)
		z := geom.V3{X: f.Draw(t, "zx"), Y: f.Draw(t, "zy"), Z: f.Draw(t, "zz")}
		if z.Len() < 0.1 {
			return
		}
		moved := s.Transform(geom.NewFrame(geom.V3{X: 100 * f.Draw(t, "x"), Y: -40, Z: 7}, z, geom.V3{X: 1, Y: 0.2}))
		v, a := s.Mass()
		w, b := moved.Mass()
		require.InEpsilon(t, v, w, 1e-9)
		require.InEpsilon(t, a, b, 1e-9)
		for _, chord := range []float64{0.3, 0.03} {
			m, err := moved.Tessellate(chord)
			require.NoError(t, err)
			require.Zero(t, m.OpenEdges())
			require.InDelta(t, v, m.Volume(), chord*a)
		}
	})
}

func TestEdgesAreConvexOrConcaveAsOnTheDrawing(t *testing.T) {
	s := load(t, "../../shop/testdata/boss.step") // a plate, a boss on it, a bore through both
	count := map[brep.Shape]int{}
	for _, e := range s.Edges {
		if e.Uses[0].Face != e.Uses[1].Face {
			count[e.Shape()]++
		}
	}
	assert.Equal(t, 1, count[brep.Concave], "the foot of the boss")
	assert.Equal(t, 12+1+2, count[brep.Convex], "the plate's edges, the boss's rim, both mouths of the bore")
	box := s.Box()
	assert.InDelta(t, 0, box.Min.Dist(geom.V3{}), 1e-6)
	assert.InDelta(t, 0, box.Max.Dist(geom.V3{X: 60, Y: 60, Z: 22}), 1e-6)
}

func TestBoxOfARoundPartComesFromItsArcs(t *testing.T) {
	b := load(t, "../../shop/testdata/rim.step").Box()
	assert.InDelta(t, -30, b.Min.X, 1e-9)
	assert.InDelta(t, 30, b.Max.Y, 1e-9)
}

func TestFacesMeasureExactly(t *testing.T) {
	s := load(t, "../../shop/testdata/rim.step")
	slant := math.Pi * (30 + 29) * math.Sqrt2
	found := false
	for _, f := range s.Faces {
		if f.Surface.Kind() == brep.KindCone {
			found = true
			assert.InDelta(t, slant, f.Area(), 1e-9)
		}
	}
	assert.True(t, found)
}

// Along no side of a triangle does the surface turn by more than asked for,
// however coarse the chord.
func TestMeshesKeepToAnAngle(t *testing.T) {
	for _, name := range []string{"sphere-part", "torus-part", "cone-part", "vase-part", "elliptic-prism", "two-bodies", "gauge-lid"} {
		path := "../exchange/step/testdata/shapes/" + name + ".step"
		if name == "gauge-lid" {
			path = "../../demo/parts/gauge-lid.step"
		}
		s := load(t, path)
		for _, degrees := range []float64{20, 5} {
			turn := degrees * math.Pi / 180
			m, err := s.TessellateWithin(1e3, turn)
			require.NoError(t, err)
			require.Zero(t, m.OpenEdges())
			most := 0.0
			for i, tri := range m.Tris {
				f := s.Faces[m.Face[i]]
				for k := range 3 {
					a, b := m.Points[tri[k]], m.Points[tri[(k+1)%3]]
					if len(f.Surface.Poles()) > 0 { // the normal of a pole is any around it
						continue
					}
					most = math.Max(most, math.Acos(math.Min(1, f.NormalAt(a).Dot(f.NormalAt(b)))))
				}
			}
			assert.LessOrEqual(t, most, turn*1.5, "%s at %g degrees", name, degrees)
			coarse, err := s.TessellateWithin(1e3, math.Pi)
			require.NoError(t, err)
			assert.LessOrEqual(t, len(coarse.Tris), len(m.Tris))
		}
	}
}
