package step

import (
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
)

// simpson integrates f from a to b.
func simpson(a, b float64, f func(float64) float64) float64 {
	const n = 20000
	h := (b - a) / n
	sum := f(a) + f(b)
	for i := 1; i < n; i++ {
		sum += f(a+float64(i)*h) * float64(2+2*(i%2))
	}
	return sum * h / 3
}

// bezier returns the cubic with the given ordinates, and its derivative.
func bezier(t float64, p [4]float64) (x, d float64) {
	s := 1 - t
	return s*s*s*p[0] + 3*s*s*t*p[1] + 3*s*t*t*p[2] + t*t*t*p[3],
		3 * (s*s*(p[1]-p[0]) + 2*s*t*(p[2]-p[1]) + t*t*(p[3]-p[2]))
}

// steinmetz is the volume common to two cylinders that cross at right angles,
// the thinner of radius r going right through one of radius R.
func steinmetz(r, big float64) float64 {
	return simpson(-math.Pi/2, math.Pi/2, func(a float64) float64 {
		x := r * math.Sin(a)
		return 2 * r * math.Cos(a) * 2 * math.Sqrt(big*big-x*x) * r * math.Cos(a)
	})
}

const ball = 4. / 3 * math.Pi * 8000

// byHand are volumes of the authored shapes, worked out on paper.
var byHand = map[string]float64{
	"sphere":           ball,
	"sphere-as-spline": ball,
	"torus":            2 * math.Pi * math.Pi * 20 * 25,
	"torus-as-spline":  2 * math.Pi * math.Pi * 20 * 25,
	"torus-part":       2 * math.Pi * math.Pi * 20 * 25 * 300 / 360,
	"cone-to-a-point":  math.Pi * 100 * 20 / 3,
	"cone-part":        math.Pi * 20 / 3 * (144 + 72 + 36) * 270 / 360,
	"sphere-zone": simpson(-10, 20*math.Sqrt2/2, func(z float64) float64 {
		return math.Pi * (400 - z*z)
	}),
	"sphere-part":                ball / 2 * 250 / 360,
	"half-ball":                  ball / 2,
	"ball-less-octant":           ball * 7 / 8,
	"ball-cut-beside-poles":      ball - math.Pi*225*(60-15)/3,
	"ball-drilled-through-poles": 4. / 3 * math.Pi * math.Pow(400-25, 1.5), // the napkin ring
	"ball-drilled-across":        4. / 3 * math.Pi * math.Pow(400-25, 1.5),
	"shaft-cross-drilled":        math.Pi*100*30 - steinmetz(4, 10),
	"shaft-drilled-at-seam":      math.Pi*100*30 - steinmetz(4, 10)/2,
	"lemon-part": simpson(-12, 12, func(z float64) float64 {
		r := math.Sqrt(169-z*z) - 5
		return math.Pi * r * r
	}) * 250 / 360,
	"elliptic-prism":         math.Pi * 200 * 15,
	"leaning-elliptic-prism": math.Pi * 200 * 15,
	"hyperbolic-prism": 8 * (10*math.Cosh(1)*2*6*math.Sinh(1) - simpson(-1, 1, func(t float64) float64 {
		return 10 * math.Cosh(t) * 6 * math.Cosh(t)
	})),
	"parabolic-prism": 8 * (20*40 - simpson(-20, 20, func(y float64) float64 { return y * y / 20 })),
	"vase": simpson(0, 1, func(t float64) float64 {
		x, _ := bezier(t, [4]float64{10, 24, 2, 12})
		_, dz := bezier(t, [4]float64{0, 6, 14, 20})
		return math.Pi * x * x * dz
	}),
	"vase-part": simpson(0, 1, func(t float64) float64 {
		x, _ := bezier(t, [4]float64{10, 24, 2, 12})
		_, dz := bezier(t, [4]float64{0, 6, 14, 20})
		return math.Pi * x * x * dz
	}) / 3,
	"rounded-block": 54*34*14 + 2*3*(54*34+34*14+14*54) + math.Pi*9*(54+34+14) + 4./3*math.Pi*27,
	"boss-with-fillet": 60*40*20 + math.Pi*100*10 + 2*math.Pi*simpson(0, 2, func(z float64) float64 {
		x := 12 - math.Sqrt(4-(2-z)*(2-z)) // quarter circle between boss and block
		return (x*x - 100) / 2
	}),
	"tapered-block":            25. / 6 * (600 + 4*25*15 + 200),
	"drilled-block-as-splines": 60*40*20 - math.Pi*64*20,
	"block-with-void":          64000 - 4./3*math.Pi*1000,
	"two-bodies":               6000 + 4./3*math.Pi*512,
	"shells":                   6000 - math.Pi*25*10,
	"faceted":                  6000 - 250,
	"assembly":                 24000 + 2*math.Pi*16*30,
}

func open(t *testing.T, name string) *Model {
	f, err := os.Open(filepath.Join("testdata/shapes", name))
	require.NoError(t, err)
	defer f.Close()
	m, err := Read(f)
	require.NoError(t, err, name)
	return m
}

// Every authored shape comes in with the volume worked out by hand, meshes
// watertight at any chord, without folds, and its mesh nears that volume.
func TestShapesOfEveryKind(t *testing.T) {
	files, err := filepath.Glob("testdata/shapes/*.step")
	require.NoError(t, err)
	require.Greater(t, len(files), 40)
	for _, path := range files {
		name := strings.TrimSuffix(filepath.Base(path), ".step")
		m := open(t, name+".step")
		volume, area, meshed := 0.0, 0.0, 0.0
		for _, b := range m.Bodies {
			v, a := b.Mass()
			volume, area = volume+v, area+a
			for _, chord := range []float64{1, 0.2, 0.02} {
				mesh, err := b.Tessellate(chord)
				require.NoError(t, err, name)
				assert.Zero(t, mesh.OpenEdges(), "%s at %v", name, chord)
				if chord == 0.02 {
					meshed += mesh.Volume()
					assert.Zero(t, folds(b.Solid, chord, t), name)
					assert.Less(t, strays(b.Solid, mesh), 1.5*chord, "%s: triangles off the surface", name)
				}
			}
		}
		assert.InDelta(t, volume, meshed, 0.02*area, "%s: mesh against integrals", name)
		if want, ok := byHand[name]; ok {
			assert.InEpsilon(t, want, volume, 1e-6, name)
		}
	}
}

// strays returns how far middles of triangles' sides lie off their surface.
func strays(s *brep.Solid, m *mesh.Mesh) (most float64) {
	for i, tri := range m.Tris {
		surface := s.Faces[m.Face[i]].Surface
		for k := range tri {
			mid := m.Points[tri[k]].Lerp(m.Points[tri[(k+1)%3]], 0.5)
			most = math.Max(most, surface.At(surface.Param(mid)).Dist(mid))
		}
	}
	return most
}

// Fine meshes of the trial parts stay on their surfaces: within the chord, and
// twice that where both ends of a wall are divided differently.
func TestFineMeshesStayOnTheirSurfaces(t *testing.T) {
	files, err := filepath.Glob("../../../shop/testdata/*.step")
	require.NoError(t, err)
	for _, path := range files {
		f, err := os.Open(path)
		require.NoError(t, err)
		m, err := Read(f)
		f.Close()
		require.NoError(t, err)
		mesh, err := m.Bodies[0].Tessellate(0.002)
		require.NoError(t, err)
		assert.Less(t, strays(m.Bodies[0].Solid, mesh), 0.005, path)
	}
}

// folds counts triangles that look against the surface at their middle.
func folds(s *brep.Solid, chord float64, t *testing.T) (n int) {
	m, err := s.Tessellate(chord)
	require.NoError(t, err)
	for i, tri := range m.Tris {
		a, b, c := m.Points[tri[0]], m.Points[tri[1]], m.Points[tri[2]]
		if b.Sub(a).Cross(c.Sub(a)).Len() < 100*chord*chord { // slivers within the chord
			continue
		}
		mid := a.Add(b).Add(c).Mul(1. / 3)
		if s.Faces[m.Face[i]].NormalAt(mid).Dot(m.Normal(i)) < 0 {
			n++
		}
	}
	return n
}

// Boxes of whole round shapes are their exact ones.
func TestBoxesOfRoundShapes(t *testing.T) {
	for name, half := range map[string]geom.V3{
		"sphere": {X: 20, Y: 20, Z: 20}, "torus": {X: 25, Y: 25, Z: 5}, "sphere-as-spline": {X: 20, Y: 20, Z: 20},
		"torus-as-spline": {X: 25, Y: 25, Z: 5}, "ball-drilled-across": {X: math.Sqrt(375), Y: 20, Z: 20},
	} {
		b := open(t, name+".step").Bodies[0].Box()
		assert.InDelta(t, 0, b.Max.Sub(half).Len(), 1e-4, name)
		assert.InDelta(t, 0, b.Min.Add(half).Len(), 1e-4, name)
	}
}

// Centre and inertia against closed forms.
func TestInertia(t *testing.T) {
	p := open(t, "torus.step").Bodies[0].Props()
	m, r, a := p.Volume, 20., 5.
	assert.InDelta(t, 0, p.Center.Len(), 1e-6)
	assert.InEpsilon(t, m*(r*r+0.75*a*a), p.Inertia[2], 1e-6)
	assert.InEpsilon(t, m*(4*r*r+5*a*a)/8, p.Inertia[0], 1e-6)
	p = open(t, "half-ball.step").Bodies[0].Props()
	assert.InDelta(t, 3./8*20, p.Center.Z, 1e-6)
	assert.InEpsilon(t, p.Volume*400*(2./5-9./64), p.Inertia[0], 1e-6)
	p = open(t, "cone-to-a-point.step").Bodies[0].Props()
	assert.InDelta(t, 5, p.Center.Z, 1e-6)
	assert.InEpsilon(t, 0.3*p.Volume*100, p.Inertia[2], 1e-6)
}

// An assembly of a plate and a pin used twice, once turned over: three bodies
// where the structure puts them, with their products' names, colours, layers.
func TestAssemblyIsPlaced(t *testing.T) {
	m := open(t, "assembly.step")
	require.Len(t, m.Bodies, 3)
	box := map[string][]geom.Box{}
	for _, b := range m.Bodies {
		box[b.Name] = append(box[b.Name], b.Box())
		switch b.Name {
		case "Pin":
			assert.Equal(t, uint32(0xffff8000)>>16, b.Colour>>16, "orange")
			assert.Equal(t, b.Colour, b.Faces[0].Colour)
			assert.NotEqual(t, geom.Identity(), b.Placement)
		case "Base plate":
			assert.Zero(t, b.Colour)
			assert.Equal(t, "Machined", b.Layer)
		}
	}
	require.Len(t, box["Base plate"], 1)
	require.Len(t, box["Pin"], 2)
	near := func(b geom.Box, x0, y0, z0, x1, y1, z1 float64) {
		assert.InDelta(t, 0, b.Min.Dist(geom.V3{X: x0, Y: y0, Z: z0}), 1e-6)
		assert.InDelta(t, 0, b.Max.Dist(geom.V3{X: x1, Y: y1, Z: z1}), 1e-6)
	}
	near(box["Base plate"][0], 0, 0, 0, 60, 40, 10)
	near(box["Pin"][0], 6, 6, 10, 14, 14, 40)
	near(box["Pin"][1], 6, 26, 20, 14, 34, 50)
}
