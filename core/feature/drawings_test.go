package feature

import (
	"context"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/geom"
)

// line is one entry of a drawing's list of features, in the drawing's own
// coordinates. Numbers that are 0 are not compared, except as noted.
type line struct {
	kind          Kind
	from          string // the side it is cut from
	n             int    // how many alike
	top, floor    float64
	d, depth      float64 // of holes and bosses
	bottom        string
	cbore, back   Counterbore
	sink          float64 // diameter of a countersink
	width, length float64
	corner        float64 // tightest inside corner
	floorRadius   float64
	draft, radius float64
	islands       int
	thread        string
	unreachable   bool
}

var side = map[string]geom.V3{"+X": {X: 1}, "-X": {X: -1}, "+Y": {Y: 1}, "-Y": {Y: -1}, "+Z": {Z: 1}, "-Z": {Z: -1}, "slope": geom.V3{X: 1, Z: 1}.Unit()}

// lists are the features of the authored parts as read from the drawing. All
// of a part's features are listed: nothing else may be found.
var lists = map[string][]line{
	"side-slot": {{kind: PlanarFace, from: "+Z", floor: 30}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 60, width: 40},
		{kind: Slot, from: "+X", top: 60, floor: 50, width: 10, length: 30, corner: 5},
		{kind: RoundHole, from: "-X", d: 6, depth: 12, bottom: "flat"}, {kind: RoundHole, from: "±Y", d: 5, depth: 40, bottom: "open", thread: "M6"}},
	"from-below": {{kind: PlanarFace, from: "+Z"}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 70, width: 50},
		{kind: ClosedPocket, from: "-Z", floor: -9, length: 35, width: 30, corner: 6}, {kind: RoundHole, from: "-Z", d: 5, depth: 14, bottom: "cone", thread: "M6"}},
	"window": {{kind: PlanarFace, from: "+Z", floor: 40}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 80, width: 30},
		{kind: Slot, from: "±Y", width: 12, length: 42, corner: 6}, {kind: Slot, from: "-Z", floor: -6, width: 8}},
	"floor-rounds": {{kind: PlanarFace, from: "+Z", floor: 25}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 80, width: 60},
		{kind: ClosedPocket, from: "+Z", top: 25, floor: 10, length: 50, width: 30, corner: 8, floorRadius: 3}},
	"drafted": {{kind: PlanarFace, from: "+Z", floor: 25}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: ClosedPocket, from: "+Z", top: 25, floor: 10, length: 40, width: 20, draft: math.Atan(5./15) * 180 / math.Pi, unreachable: true}},
	"rounded-top": {{kind: PlanarFace, from: "+Z", floor: 20}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: EdgeRound, from: "+Z", top: 20, floor: 16, radius: 4}},
	"chamfered-top": {{kind: PlanarFace, from: "+Z", floor: 20}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Chamfer, from: "+Z", top: 20, floor: 18, width: 2}},
	"nameplate": {{kind: PlanarFace, from: "+Z", floor: 6}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 80, width: 40},
		{kind: Engraving, from: "+Z", top: 6, floor: 5.6, depth: 0.4},
		{kind: Engraving, from: "-Y", top: 0, floor: -0.3, depth: 0.3, width: 0.6},
		{kind: RoundHole, from: "+Z", d: 1, depth: 0.4, bottom: "flat"}},
	"t-slot": {{kind: PlanarFace, from: "+Z", floor: 30}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Slot, from: "+Z", top: 30, floor: 10, width: 10}, {kind: Undercut, from: "+Z", top: 18, floor: 10, unreachable: true}},
	"dovetail": {{kind: PlanarFace, from: "+Z", floor: 30}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Slot, from: "+Z", top: 30, floor: 22, width: 10}, {kind: Undercut, from: "+Z", top: 30, floor: 22, unreachable: true}},
	"clevis": {{kind: PlanarFace, from: "+Z", floor: 40}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Slot, from: "+Z", top: 40, floor: 12, width: 20}, {kind: RoundHole, from: "±X", d: 12, depth: 60, bottom: "open"}},
	"crossing": {{kind: PlanarFace, from: "+Z", floor: 50}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: RoundHole, from: "±Z", d: 16, depth: 50, bottom: "open"}, {kind: RoundHole, from: "±X", d: 10, depth: 50, bottom: "open"}},
	"compound-holes": {{kind: PlanarFace, from: "+Z", floor: 30}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: RoundHole, from: "+Z", d: 8, depth: 30, bottom: "open", cbore: Counterbore{16, 6}, back: Counterbore{14, 5}},
		{kind: RoundHole, from: "+Z", d: 6.6, depth: 30, bottom: "open", sink: 13.2},
		{kind: RoundHole, from: "+Z", d: 6, depth: 22, bottom: "cone", cbore: Counterbore{10, 10}}},
	"patterns": {{kind: PlanarFace, from: "+Z", floor: 12}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 160, width: 80},
		{kind: RoundHole, from: "±Z", n: 6, d: 5.5, depth: 12, bottom: "open"}, {kind: RoundHole, from: "±Z", n: 12, d: 4.2, depth: 12, bottom: "open", thread: "M5"},
		{kind: RoundHole, from: "+Z", n: 5, d: 3.3, depth: 8, bottom: "flat", thread: "M4"}},
	"bosses": {{kind: PlanarFace, from: "+Z", floor: 25}, {kind: PlanarFace, from: "+Z", floor: 18}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Step, from: "+Z", top: 25, floor: 10, islands: 2}, {kind: Boss, from: "+Z", top: 25, floor: 10, d: 24, depth: 15}, {kind: Boss, from: "+Z", top: 18, floor: 10, length: 25, width: 24, depth: 8}},
	"staircase": {{kind: PlanarFace, from: "+Z", floor: 40}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Step, from: "+Z", top: 40, floor: 30}, {kind: Step, from: "+Z", top: 30, floor: 20}, {kind: Step, from: "+Z", top: 20, floor: 10}, {kind: Slot, from: "+Z", floor: 6, width: 8}},
	"inclined": {{kind: PlanarFace, from: "+Z", floor: 40}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: PlanarFace, from: "slope", floor: 80 / math.Sqrt2}, {kind: RoundHole, from: "slope", d: 6, depth: 12, bottom: "flat"}},
	"crowned": {{kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "*"}, {kind: FreeSurface, from: "+Z"}},
	"dome":    {{kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"}, {kind: Step, from: "+Z", floor: 10, islands: 1}, {kind: FreeSurface, from: "+Z"}},
	"arc-slot": {{kind: PlanarFace, from: "+Z", floor: 15}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Slot, from: "+Z", top: 15, floor: 7, width: 8, length: 40*math.Pi/2 + 8, corner: 4}},
	"spline-wall": {{kind: PlanarFace, from: "+Z", floor: 15}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: ClosedPocket, from: "+Z", top: 15, floor: 5, length: 50, unreachable: true}},
	"two-levels": {{kind: PlanarFace, from: "+Z", floor: 30}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: ClosedPocket, from: "+Z", top: 30, floor: 18, length: 80, width: 50, corner: 8, islands: 1},
		{kind: ClosedPocket, from: "+Z", top: 18, floor: 8, length: 30, width: 25, corner: 6}},
	"sampler": {{kind: PlanarFace, from: "+Z", floor: 40}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z", length: 240, width: 160},
		{kind: ClosedPocket, from: "+Z", n: 12, top: 40, floor: 22, length: 40, width: 34, corner: 5},
		{kind: RoundHole, from: "+Z", n: 12, d: 6.6, depth: 22, bottom: "open", cbore: Counterbore{11, 6}},
		{kind: RoundHole, from: "+Z", n: 16, d: 4.2, depth: 16, bottom: "cone", thread: "M5"},
		{kind: RoundHole, from: "-Y", n: 9, d: 5, depth: 12, bottom: "flat", thread: "M6"},
		{kind: RoundHole, from: "+Y", n: 9, d: 8, depth: 10, bottom: "flat"},
		{kind: ClosedPocket, from: "+X", n: 4, floor: 230, length: 16, width: 12, unreachable: true},
		{kind: ClosedPocket, from: "-X", n: 4, floor: -10, length: 16, width: 12, unreachable: true}},
	"slot-over-hole": {{kind: PlanarFace, from: "+Z", floor: 25}, {kind: PlanarFace, from: "-Z"}, {kind: OutsideProfile, from: "±Z"},
		{kind: Slot, from: "+Z", top: 25, floor: 17, width: 8}, {kind: Step, from: "+Z", top: 25, floor: 12, unreachable: true},
		{kind: RoundHole, from: "±Z", d: 10, bottom: "open"}},
}

func drawn(t require.TestingT, name string) *brep.Solid {
	f, err := os.Open(filepath.Join("testdata", name+".step"))
	require.NoError(t, err)
	defer f.Close()
	m, err := step.Read(f)
	require.NoError(t, err)
	return m.Bodies[0].Solid
}

// survey finds the features of a solid turned about the origin, with their
// directions and places turned back.
func survey(t require.TestingT, s *brep.Solid, turn geom.Frame) *Set {
	s = s.Transform(turn)
	view := geom.NewFrame(geom.V3{}, turn.Z, turn.Z.Perpendicular()) // lying as drawn
	set, _, err := Recognise(context.Background(), s.Transform(view.Inverse()))
	require.NoError(t, err)
	for _, f := range set.Features {
		f.Approach = turn.TurnLocal(view.Turn(f.Approach))
	}
	for i, o := range set.Owner {
		assert.GreaterOrEqual(t, o, 0, "face #%d belongs to no feature", s.Faces[i].ID)
	}
	return set
}

func (w line) fits(f *Feature) bool {
	p := f.Params
	same := func(want, got float64) bool { return want == 0 || math.Abs(want-got) < 1e-3 }
	if w.kind != f.Kind || w.unreachable == f.Tool.OK {
		return false
	}
	switch d := f.Approach; w.from {
	case "*":
	case "±X":
		if math.Abs(d.X) < 1-1e-6 {
			return false
		}
	case "±Y":
		if math.Abs(d.Y) < 1-1e-6 {
			return false
		}
	case "±Z":
		if math.Abs(d.Z) < 1-1e-6 {
			return false
		}
	default:
		if d.Dot(side[w.from]) < 1-1e-6 {
			return false
		}
	}
	return same(w.top, p.TopZ) && same(w.floor, p.FloorZ) && same(w.d, p.Diameter) && same(w.depth, p.Depth) && (w.bottom == "" || w.bottom == p.Bottom) &&
		same(w.width, p.Width) && same(w.length, p.Length) && same(w.corner, p.MinInsideRadius) && same(w.floorRadius, p.FloorRadius) && same(w.draft, p.Draft) &&
		same(w.radius, p.Radius) && (w.kind != RoundHole || math.Abs(w.cbore.Diameter-p.Counterbore.Diameter)+math.Abs(w.cbore.Depth-p.Counterbore.Depth) < 1e-3) &&
		(w.kind != RoundHole || math.Abs(w.back.Diameter-p.Back.Diameter)+math.Abs(w.back.Depth-p.Back.Depth) < 1e-3) &&
		(w.kind != RoundHole || math.Abs(w.sink-p.Countersink.Diameter) < 1e-3 && w.thread == p.Thread) && (w.islands == 0 || w.islands == p.Islands)
}

// compare checks a list against what was found: each line as often as it says,
// and nothing that no line says.
func compare(t require.TestingT, name string, set *Set) {
	used := map[*Feature]bool{}
	for _, w := range lists[name] {
		n := 0
		for _, f := range set.Features {
			if !used[f] && w.fits(f) && n < max(1, w.n) {
				used[f] = true
				n++
			}
		}
		assert.Equal(t, max(1, w.n), n, "%s: %+v", name, w)
	}
	for _, f := range set.Features {
		assert.True(t, used[f], "%s: not on the drawing: %s %s from %v %+v %v", name, f.Kind, f.Title(), f.Approach, f.Params, f.Tool)
	}
}

func TestDrawings(t *testing.T) {
	for name := range lists {
		t.Run(name, func(t *testing.T) { compare(t, name, survey(t, drawn(t, name), geom.Identity())) })
	}
}

// anyTurn is a rotation in space that leaves no face of the parts level.
func anyTurn(t *rapid.T) geom.Frame {
	z := geom.V3{X: rapid.Float64Range(0.2, 0.4).Draw(t, "zx"), Y: rapid.Float64Range(-0.7, -0.5).Draw(t, "zy"), Z: rapid.Float64Range(-0.9, 0.9).Draw(t, "zz")}
	return geom.NewFrame(geom.V3{}, z, geom.Polar(1, rapid.Float64Range(0, 2*math.Pi).Draw(t, "x")).At(0.1))
}

// In any rotation in space the same is found.
func TestDrawingsInAnyRotation(t *testing.T) {
	var names []string
	for name := range lists {
		names = append(names, name)
	}
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom(names).Draw(t, "part")
		compare(t, name, survey(t, drawn(t, name), anyTurn(t)))
	})
}

// Parts with a side that most is cut from come up with it, however they lie.
func TestBestUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom([]string{"two-levels", "floor-rounds", "compound-holes", "arc-slot", "t-slot"}).Draw(t, "part")
		turn := anyTurn(t)
		up, err := BestUp(context.Background(), drawn(t, name).Transform(turn))
		require.NoError(t, err)
		require.Greater(t, up.Dot(turn.Z), 1-1e-9, name)
	})
}

func TestPatterns(t *testing.T) {
	set := survey(t, drawn(t, "patterns"), geom.Identity())
	got := map[string]Pattern{}
	for _, p := range set.Patterns {
		got[p.Kind] = p
	}
	require.Len(t, set.Patterns, 3)
	assert.Len(t, got["circle"].Features, 6)
	assert.InDelta(t, 50, got["circle"].Diameter, 1e-6)
	assert.InDelta(t, 0, got["circle"].Center.XY().Dist(geom.V2{X: 40, Y: 40}), 1e-6)
	assert.Len(t, got["grid"].Features, 12)
	assert.InDelta(t, 15*12, got["grid"].Pitch[0]*got["grid"].Pitch[1], 1e-6)
	assert.Len(t, got["line"].Features, 5)
	assert.InDelta(t, 14, got["line"].Pitch[0], 1e-6)
}

// The whole of a part with 258 faces that are cut from six sides.
func BenchmarkRecognise(b *testing.B) {
	s := drawn(b, "sampler")
	b.ReportMetric(float64(len(s.Faces)), "faces")
	for b.Loop() {
		_, _, err := Recognise(context.Background(), s)
		require.NoError(b, err)
	}
}
