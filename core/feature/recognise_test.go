package feature

import (
	"context"
	"math"
	"os"
	"path/filepath"
	"testing"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func solid(t require.TestingT, name string) *brep.Solid {
	for _, dir := range []string{"../../demo/parts", "../../shop/testdata"} {
		f, err := os.Open(filepath.Join(dir, name+".step"))
		if err != nil {
			continue
		}
		defer f.Close()
		m, err := step.Read(f)
		require.NoError(t, err)
		return m.Bodies[0].Solid
	}
	require.Fail(t, "no such part", name)
	return nil
}

// want is a feature as a person would write it down from the drawing.
type want struct {
	kind       Kind
	top, floor float64
	radius     float64 // tightest inside corner
	diameter   float64
	depth      float64
	bottom     string
	cbore      Counterbore
	count      int
}

var drawings = map[string][]want{
	"gauge-lid": {
		{kind: PlanarFace, top: 18, floor: 18, count: 1}, {kind: PlanarFace, top: 15, floor: 15, count: 1},
		{kind: ClosedPocket, top: 18, floor: 6, radius: 7, count: 1}, {kind: OutsideProfile, top: 18, floor: 0, count: 1},
		{kind: RoundHole, top: 18, floor: 0, diameter: 6.6, depth: 18, bottom: "open", cbore: Counterbore{11, 6.6}, count: 4},
		{kind: RoundHole, top: 15, floor: 5, diameter: 4.2, depth: 10, bottom: "flat", count: 1},
	},
	"sensor-bracket": {
		{kind: PlanarFace, top: 24, floor: 24, count: 1}, {kind: Step, top: 24, floor: 14, count: 1},
		{kind: Slot, top: 24, floor: 16, radius: 5, count: 1}, {kind: Slot, top: 14, floor: 0, radius: 4.25, count: 1},
		{kind: OutsideProfile, top: 24, floor: 0, count: 1},
		{kind: RoundHole, top: 24, floor: 6, diameter: 5, depth: 18, bottom: "cone", count: 2},
		{kind: RoundHole, top: 24, floor: 0, diameter: 6, depth: 24, bottom: "open", count: 2},
		{kind: RoundHole, top: 14, floor: 0, diameter: 4.5, depth: 14, bottom: "open", count: 4},
	},
	"nested": {
		{kind: PlanarFace, top: 30, floor: 30, count: 1}, {kind: PlanarFace, top: 26, floor: 26, count: 1},
		{kind: ClosedPocket, top: 30, floor: 22, radius: 6, count: 1}, {kind: ClosedPocket, top: 22, floor: 14, radius: 5, count: 1},
		{kind: ClosedPocket, top: 14, floor: 6, radius: 4, count: 1}, {kind: OutsideProfile, top: 30, floor: 0, count: 1},
		{kind: RoundHole, top: 6, floor: 0, diameter: 6.8, depth: 6, bottom: "open", count: 1},
		{kind: RoundHole, top: 26, floor: 0, diameter: 5, depth: 26, bottom: "open", count: 1},
	},
	"disc": {
		{kind: PlanarFace, top: 14, floor: 14, count: 1}, {kind: Slot, top: 14, floor: 0, radius: 5, count: 1},
		{kind: ClosedPocket, top: 14, floor: 0, radius: 2.6, count: 1}, {kind: OutsideProfile, top: 14, floor: 0, count: 1},
		{kind: RoundHole, top: 14, floor: 0, diameter: 5.5, depth: 14, bottom: "open", count: 6},
	},
	"sharp": {
		{kind: PlanarFace, top: 19.05, floor: 19.05, count: 1}, {kind: ClosedPocket, top: 19.05, floor: 9, count: 1},
		{kind: OutsideProfile, top: 19.05, floor: 0, count: 1},
		{kind: RoundHole, top: 19.05, floor: 10, diameter: 8.2, depth: 9.05, bottom: "flat", count: 1},
		{kind: RoundHole, top: 19.05, floor: 0, diameter: 12.7, depth: 19.05, bottom: "open", count: 1},
	},
}

func matches(f *Feature, w want) bool {
	p := f.Params
	near := func(a, b float64) bool { return math.Abs(a-b) < 1e-4 }
	if f.Kind != w.kind || !near(p.TopZ, w.top) || !near(p.FloorZ, w.floor) || !near(p.Counterbore.Diameter, w.cbore.Diameter) || !near(p.Counterbore.Depth, w.cbore.Depth) {
		return false
	}
	if w.kind == RoundHole {
		return near(p.Diameter, w.diameter) && near(p.Depth, w.depth) && p.Bottom == w.bottom && p.Through == (w.bottom == "open")
	}
	return w.kind == PlanarFace || w.radius == 0 || near(p.MinInsideRadius, w.radius)
}

func check(t require.TestingT, name string, set *Set, dz float64) {
	for _, w := range drawings[name] {
		w.top, w.floor = w.top+dz, w.floor+dz
		n := 0
		for _, f := range set.Features {
			if f.Reachable || f.Kind != PlanarFace {
				if matches(f, w) {
					n++
				}
			}
		}
		require.Equal(t, w.count, n, "%s: %+v", name, w)
	}
}

func TestFeaturesAsOnTheDrawing(t *testing.T) {
	for name := range drawings {
		t.Run(name, func(t *testing.T) {
			s := solid(t, name)
			set, _, err := Recognise(context.Background(), s)
			require.NoError(t, err)
			check(t, name, set, 0)
			for i, o := range set.Owner {
				assert.GreaterOrEqual(t, o, 0, "face #%d belongs to no feature", s.Faces[i].ID)
			}
		})
	}
}

// Turning the part about the spindle and moving it changes nothing but place.
func TestFeaturesDoNotDependOnPlace(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom([]string{"gauge-lid", "sensor-bracket", "nested", "disc"}).Draw(t, "part")
		a := rapid.Float64Range(0, 2*math.Pi).Draw(t, "angle")
		at := geom.V3{X: rapid.Float64Range(-300, 300).Draw(t, "x"), Y: rapid.Float64Range(-300, 300).Draw(t, "y"), Z: rapid.Float64Range(-300, 300).Draw(t, "z")}
		frame := geom.NewFrame(at, geom.V3{Z: 1}, geom.Polar(1, a).At(0))
		s := solid(t, name).Transform(frame)
		set, _, err := Recognise(context.Background(), s)
		require.NoError(t, err)
		check(t, name, set, at.Z)
	})
}

func TestSideHolesAndDownwardCounterboresSaySo(t *testing.T) {
	set, _, err := Recognise(context.Background(), solid(t, "sides"))
	require.NoError(t, err)
	why := map[string]string{}
	for _, f := range set.Features {
		if !f.Reachable {
			why[f.Title()] = f.Why
		}
	}
	assert.Contains(t, why["Hole ⌀5 through"], "another setup")
	assert.Contains(t, why["Hole ⌀6.6 through, counterbore ⌀11"], "second setup")
}
