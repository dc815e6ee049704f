package prepare_test

import (
	"context"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/exchange/step"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/planar"
	"arete/core/prepare"
)

func rect(x0, y0, x1, y1 float64) planar.Loop {
	p := []geom.V2{{X: x0, Y: y0}, {X: x1, Y: y0}, {X: x1, Y: y1}, {X: x0, Y: y1}}
	var l planar.Loop
	for i := range p {
		l = append(l, planar.Line(p[i], p[(i+1)%4]))
	}
	return l
}

// plate is 80 × 50 × 20 mm with a round hole of 10 mm through at (15, 25) and
// a pocket 30 × 20 × 8 mm at (40, 15).
func plate(t require.TestingT) *brep.Solid {
	chains := []drawing.Chain{{Layer: "o", Loop: rect(0, 0, 80, 50)}, {Layer: "h", Loop: planar.Circle(geom.V2{X: 15, Y: 25}, 5)}, {Layer: "p", Loop: rect(40, 15, 70, 35)}}
	s, err := drawing.Solids(chains, []drawing.Level{{Layer: "o", Depth: 20}, {Layer: "h", Depth: 20}, {Layer: "p", Depth: 8}})
	require.NoError(t, err)
	require.Len(t, s, 1)
	return s[0]
}

// edges lists the edges for which want holds of middle and length.
func edges(s *brep.Solid, want func(mid geom.V3, length float64) bool) []int {
	var out []int
	for i, e := range s.Edges {
		if mid, _ := e.Mid(); want(mid, e.Len()) {
			out = append(out, i)
		}
	}
	return out
}

func faces(s *brep.Solid, want func(f *brep.Face) bool) []int {
	var out []int
	for i, f := range s.Faces {
		if want(f) {
			out = append(out, i)
		}
	}
	return out
}

func volume(s *brep.Solid) float64 { v, _ := s.Mass(); return v }

func apply(t *testing.T, s *brep.Solid, c ...prepare.Change) *brep.Solid {
	out, from, err := prepare.Apply(s, c)
	require.NoError(t, err)
	require.Len(t, from, len(out.Faces))
	return out
}

const block = 80 * 50 * 20

func TestHolesAndPocketsAreCapped(t *testing.T) {
	s := plate(t)
	hole, pocket := math.Pi*25*20, 30*20*8.0
	require.InDelta(t, block-hole-pocket, volume(s), 1e-6)
	round := faces(s, func(f *brep.Face) bool { return f.Surface.Kind() == brep.KindCylinder })
	inside := faces(s, func(f *brep.Face) bool {
		b, _ := f.Box()
		return f.Surface.Kind() == brep.KindPlane && b.Min.X > 39 && b.Max.X < 71
	})
	require.Len(t, inside, 5)
	require.Len(t, round, 2, "two halves")
	half := apply(t, s, prepare.Change{Act: prepare.Remove, Faces: round[:1]})
	assert.InDelta(t, block-pocket, volume(half), 1e-6, "the other half goes too")
	a := apply(t, s, prepare.Change{Act: prepare.Remove, Faces: round})
	assert.InDelta(t, block-pocket, volume(a), 1e-6)
	b := apply(t, s, prepare.Change{Act: prepare.Remove, Faces: append(inside, round...)})
	assert.InDelta(t, block, volume(b), 1e-6)
	assert.Len(t, b.Faces, 6)
	// Changes name faces of what the changes before them left.
	c := apply(t, s, prepare.Change{Act: prepare.Remove, Faces: round}, prepare.Change{Act: prepare.Paint, Faces: []int{0}, Colour: 0xff112233})
	assert.Equal(t, uint32(0xff112233), c.Faces[0].Colour)
	assert.Zero(t, s.Faces[0].Colour, "the part itself is not touched")
}

// Bevels by formula, and taken off again: the part is as it was.
func TestEdgesGetChamfersAndRounds(t *testing.T) {
	s := plate(t)
	full := volume(s)
	outer := edges(s, func(m geom.V3, _ float64) bool {
		return m.Z > -1e-9 && (m.X < 1e-9 || m.Y < 1e-9 || m.X > 80-1e-9 || m.Y > 50-1e-9)
	})
	require.Len(t, outer, 4)
	mouth := edges(s, func(m geom.V3, l float64) bool { return m.Z > -1e-9 && math.Abs(m.X-15) < 6 && l < 35 })
	rim := edges(s, func(m geom.V3, _ float64) bool {
		return m.Z > -1e-9 && m.X > 39 && m.X < 71 && m.Y > 14 && m.Y < 36
	})
	require.Len(t, rim, 4)
	corner := edges(s, func(m geom.V3, _ float64) bool { return math.Abs(m.Z+10) < 1e-6 && m.X < 1 && m.Y < 1 })
	foot := edges(s, func(m geom.V3, _ float64) bool { return math.Abs(m.Z+8) < 1e-6 })
	q := 1 - math.Pi/4 // what a round takes of a square
	for _, c := range []struct {
		name  string
		edges []int
		act   prepare.Act
		size  float64
		less  float64
	}{
		{"outside, chamfer", outer, prepare.Chamfer, 2, 2*(80+50)*2 - 4*8/3.0}, // mitres: pyramids counted twice
		{"outside, round", outer, prepare.Round, 2, 2*(80+50)*4*q - 4*mitred(2)},
		{"one edge", outer[:1], prepare.Chamfer, 1, 40},
		{"one edge, round", outer[:1], prepare.Round, 1, 80 * q},
		{"mouth, chamfer", mouth, prepare.Chamfer, 1, math.Pi * ((5*5+5*6+6*6)/3.0 - 25)},
		{"mouth, round", mouth, prepare.Round, 1, 2 * math.Pi * (5.5 - (math.Pi / 4 * (6 - 4/(3*math.Pi))))},
		{"pocket's rim, chamfer", rim, prepare.Chamfer, 1, 2*(30+20)*0.5 + 4/3.0},
		{"upright edge, round", corner, prepare.Round, 5, 25 * q * 20},
		{"upright edge, chamfer", corner, prepare.Chamfer, 5, 12.5 * 20},
		{"pocket's foot, round", foot, prepare.Round, 2, -(2*(30+20)*4*q - 4*mitred(2))},
	} {
		t.Run(c.name, func(t *testing.T) {
			require.NotEmpty(t, c.edges)
			b := apply(t, s, prepare.Change{Act: c.act, Edges: c.edges, Size: c.size})
			assert.InDelta(t, full-c.less, volume(b), 1e-6*full)
			var added []int
			for i := len(s.Faces); i < len(b.Faces); i++ {
				added = append(added, i)
			}
			back := apply(t, b, prepare.Change{Act: prepare.Remove, Faces: added})
			assert.InDelta(t, full, volume(back), 1e-6)
			assert.Len(t, back.Faces, len(s.Faces))
			assert.Len(t, back.Edges, len(s.Edges))
		})
	}
}

// mitred is what two rounds of radius r along edges that meet at a right angle
// take together in the corner, where each would count it: the integral over
// the height of the square of what is left out.
func mitred(r float64) float64 {
	sum := 0.0
	const n = 20000
	for i := range n {
		z := r * (float64(i) + 0.5) / n
		d := r - math.Sqrt(r*r-z*z)
		sum += d * d * r / n
	}
	return sum
}

func load(t require.TestingT, path string) *brep.Solid {
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	m, err := step.Parse(data)
	require.NoError(t, err)
	return m.Bodies[0].Solid
}

// Whole features of parts from files, with the volume that they took by hand
// formulas; and what cannot be closed is refused, not guessed.
func TestFeaturesAreTakenOff(t *testing.T) {
	for _, c := range []struct {
		file, title string
		fill        float64
	}{
		{"feature/testdata/drafted", "Pocket 40 × 20, 15 deep, draft 18.43°", 15 / 6.0 * (40*20 + 4*45*25 + 50*30)},
		{"feature/testdata/arc-slot", "Slot 8, 8 deep", -1},
		{"feature/testdata/staircase", "Slot 8, 4 deep", -1},
		{"../shop/testdata/rim", "Chamfer 1", math.Pi * (30*30 - (30*30+30*29+29*29)/3.0)},
		{"../shop/testdata/openpocket", "Slot 30, 10 deep", -1},
		{"../shop/testdata/sharp", "Hole ⌀12.7 through", math.Pi * 6.35 * 6.35 * 19.05},
		{"feature/testdata/rounded-top", "Edge round R4", -1},
		{"feature/testdata/nameplate", "Engraving 36 long, 0.4 deep", 0.4 * (12*0.8 + 6.2*0.8 + 8.8*0.8 + 11.2*0.8 + math.Pi*(36-5.2*5.2))},
		{"feature/testdata/nameplate", "Engraving 10.6 long, 0.3 deep", 2 * 0.3 * 0.3 * 3},
		{"feature/testdata/chamfered-top", "Chamfer 2", 2*(60+40)*2 - 4*8/3.0},
	} {
		t.Run(c.file, func(t *testing.T) {
			s := load(t, "../"+c.file+".step")
			set, _, err := feature.Recognise(context.Background(), s)
			require.NoError(t, err)
			for _, f := range set.Features {
				if f.Title() != c.title {
					continue
				}
				out := apply(t, s, prepare.Change{Act: prepare.Remove, Faces: f.Faces})
				fill := volume(out) - volume(s)
				if c.fill > 0 {
					assert.InDelta(t, c.fill, fill, 0.1)
				}
				frame := geom.NewFrame(geom.V3{X: 5, Y: -60, Z: 17}, geom.V3{X: 1, Y: 2, Z: -1}, geom.V3{X: 1})
				moved := apply(t, s.Transform(frame), prepare.Change{Act: prepare.Remove, Faces: f.Faces})
				assert.InDelta(t, volume(out), volume(moved), 1e-3, "in any position")
				assert.Len(t, moved.Faces, len(out.Faces))
				return
			}
			t.Fatalf("%s has no %s", c.file, c.title)
		})
	}
}

// All pockets and holes of the sampler at once leave its block.
func TestAllFeaturesAtOnceLeaveTheBlock(t *testing.T) {
	s := load(t, "../feature/testdata/sampler.step")
	set, _, err := feature.Recognise(context.Background(), s)
	require.NoError(t, err)
	var list []int
	for _, f := range set.Features {
		if f.Kind == feature.ClosedPocket || f.Kind == feature.RoundHole {
			list = append(list, f.Faces...)
		}
	}
	out := apply(t, s, prepare.Change{Act: prepare.Remove, Faces: list})
	size := out.Box().Size()
	assert.InDelta(t, size.X*size.Y*size.Z, volume(out), 1e-3)
	assert.Len(t, out.Faces, 6)
}

func TestWhatCannotBeIsRefused(t *testing.T) {
	s := plate(t)
	all := faces(s, func(*brep.Face) bool { return true })
	rim := edges(s, func(m geom.V3, _ float64) bool { return m.Z > -1e-9 })
	for name, c := range map[string]prepare.Change{
		"everything":     {Act: prepare.Remove, Faces: all},
		"nothing":        {Act: prepare.Remove},
		"no such face":   {Act: prepare.Remove, Faces: []int{99}},
		"no such edge":   {Act: prepare.Round, Edges: []int{-1}, Size: 1},
		"no size":        {Act: prepare.Chamfer, Edges: rim[:1]},
		"not a number":   {Act: prepare.Chamfer, Edges: rim[:1], Size: math.NaN()},
		"too large":      {Act: prepare.Round, Edges: rim, Size: 30},
		"into the hole":  {Act: prepare.Chamfer, Edges: edges(s, func(m geom.V3, _ float64) bool { return m.Z > -1e-9 && m.X < 1e-9 }), Size: 12},
		"through":        {Act: prepare.Chamfer, Edges: edges(s, func(m geom.V3, _ float64) bool { return math.Abs(m.Z+10) < 1e-6 && m.X < 1 && m.Y < 1 }), Size: 60},
		"no such change": {Act: "bend", Faces: []int{0}},
		"a side":         {Act: prepare.Remove, Faces: faces(s, func(f *brep.Face) bool { b, _ := f.Box(); return b.Max.X < 1e-9 })},
	} {
		_, _, err := prepare.Apply(s, []prepare.Change{c})
		var p prepare.Problem
		require.ErrorAs(t, err, &p, name)
		assert.NotEmpty(t, p.Say)
	}
	require.InDelta(t, block-math.Pi*25*20-30*20*8, volume(s), 1e-6, "the part itself is not touched")
}
