package drawing

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/exchange/dxf"
	"arete/core/feature"
	"arete/core/geom"
)

// text writes a drawing of groups "code value" split by commas.
func text(unit int, entities ...string) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n%d\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n", unit)
	for _, e := range entities {
		for _, g := range strings.Split(e, ",") {
			code, value, _ := strings.Cut(strings.TrimSpace(g), " ")
			b.WriteString(code + "\n" + value + "\n")
		}
	}
	b.WriteString("0\nENDSEC\n0\nEOF\n")
	return []byte(b.String())
}

// A plate 100 × 60 with rounded corners, drawn as loose lines and arcs out of
// order, a pocket with an island, and four holes.
func plate() []byte {
	return text(4,
		"0 LINE, 8 OUTLINE, 10 10, 20 0, 11 90, 21 0", "0 ARC, 8 OUTLINE, 10 10, 20 10, 40 10, 50 180, 51 270",
		"0 LINE, 8 OUTLINE, 10 100, 20 50, 11 100, 21 10", "0 ARC, 8 OUTLINE, 10 90, 20 10, 40 10, 50 270, 51 0",
		"0 LINE, 8 OUTLINE, 10 90, 20 60, 11 10, 21 60.01", "0 ARC, 8 OUTLINE, 10 90, 20 50, 40 10, 50 0, 51 90",
		"0 LINE, 8 OUTLINE, 10 0, 20 10, 11 0, 21 50", "0 ARC, 8 OUTLINE, 10 10, 20 50, 40 10, 50 90, 51 180",
		"0 LWPOLYLINE, 8 POCKET, 70 1, 10 30, 20 15, 42 0, 10 70, 20 15, 42 1, 10 70, 20 45, 42 0, 10 30, 20 45, 42 1",
		"0 CIRCLE, 8 POCKET, 10 50, 20 30, 40 6",
		"0 CIRCLE, 8 HOLES, 10 10, 20 10, 40 3", "0 CIRCLE, 8 HOLES, 10 90, 20 10, 40 3", "0 CIRCLE, 8 HOLES, 10 90, 20 50, 40 3", "0 CIRCLE, 8 HOLES, 10 10, 20 50, 40 3",
		"0 CIRCLE, 8 HOLES, 10 10, 20 50, 40 3", "0 TEXT, 8 NOTES, 1 gauge plate")
}

func TestAFlatDrawingBecomesAPart(t *testing.T) {
	d, err := dxf.Read(plate())
	require.NoError(t, err)
	assert.Equal(t, []string{"1 × text left out: no curve"}, d.Notes)
	chains, open := Join(d.Curves, JoinWithin)
	require.Empty(t, open)
	require.Len(t, chains, 7, "the circle drawn twice counts once")
	levels := []Level{{Layer: "OUTLINE", Depth: 15}, {Layer: "POCKET", Depth: 8}, {Layer: "HOLES", Depth: 15}}
	out, err := Solids(chains, levels)
	require.NoError(t, err)
	require.Len(t, out, 1)
	s := out[0]
	assert.Zero(t, s.OpenEdges())
	outline := 100*60 - (4-math.Pi)*100 + 0.005*80 // one line is drawn 0.01 too high at an end
	pocket := 40*30 + math.Pi*225 - math.Pi*36
	v, _ := s.Mass()
	assert.InDelta(t, 15*(outline-4*math.Pi*9)-8*pocket, v, 15*0.2, "by hand")
	mesh, err := s.Tessellate(0.01)
	require.NoError(t, err)
	assert.Zero(t, mesh.OpenEdges())
	assert.InDelta(t, v, mesh.Volume(), 0.001*v)
	set, _, err := feature.Recognise(context.Background(), s)
	require.NoError(t, err)
	got := map[feature.Kind]int{}
	for _, f := range set.Features {
		got[f.Kind]++
	}
	assert.Equal(t, 4, got[feature.RoundHole])
	assert.Equal(t, 1, got[feature.OutsideProfile])
	assert.Equal(t, 1, got[feature.ClosedPocket]+got[feature.Slot])
}

func TestBossesStepsAndLayersLeftOut(t *testing.T) {
	square := func(layer string, a, b float64) string {
		return fmt.Sprintf("0 LWPOLYLINE, 8 %s, 70 1, 10 %g, 20 %g, 10 %g, 20 %g, 10 %g, 20 %g, 10 %g, 20 %g", layer, a, a, b, a, b, b, a, b)
	}
	d, err := dxf.Read(text(4, square("A", 0, 50), square("B", 10, 40), square("C", 20, 30)))
	require.NoError(t, err)
	chains, _ := Join(d.Curves, JoinWithin)
	for _, c := range []struct {
		levels []Level
		want   float64
	}{
		{[]Level{{"A", 0, 0, 20, false}, {"B", 0, 0, 5, false}, {"C", 0, 3, 0, false}}, 2500*20 - 900*5 + 100*8}, // a boss 3 above the top in a pocket
		{[]Level{{"A", 0, 0, 20, false}, {"B", 0, 0, 5, false}, {"C", 0, 0, 12, false}}, 2500*20 - 900*5 - 100*7},
		{[]Level{{"A", 0, 0, 20, false}, {"B", 0, 0, 20, false}, {"C", 0, 0, 5, false}}, 1600 * 20}, // what lies in an opening falls out
		{[]Level{{"A", 0, 0, 20, false}, {"B", 0, 0, 5, true}, {"C", 0, 0, 20, false}}, 2400 * 20},
		{[]Level{{"A", 0, 0, 20, false}, {"B", 0, 0, 0, false}, {"C", 0, 0, 4, false}}, 2500*20 - 400}, // depth 0: no wall
	} {
		out, err := Solids(chains, c.levels)
		require.NoError(t, err)
		require.Len(t, out, 1)
		v, _ := out[0].Mass()
		assert.InDelta(t, c.want, v, 1e-6, "%+v", c.levels)
		assert.Zero(t, out[0].OpenEdges())
	}
	_, err = Solids(chains, []Level{{"A", 0, 0, 0, false}})
	assert.ErrorContains(t, err, "its depth is the thickness")
	_, err = Solids(chains, nil)
	assert.ErrorContains(t, err, "no layer with a closed chain")
}

// One chain of a layer has a depth of its own: one hole shallower, and the
// island of the pocket lower than the top.
func TestAChainHasALevelOfItsOwn(t *testing.T) {
	d, err := dxf.Read(plate())
	require.NoError(t, err)
	chains, _ := Join(d.Curves, JoinWithin)
	levels := []Level{{Layer: "OUTLINE", Depth: 15}, {Layer: "POCKET", Depth: 8}, {Layer: "HOLES", Depth: 15}}
	volume := func(more ...Level) float64 {
		out, err := Solids(chains, append(levels[:3:3], more...))
		require.NoError(t, err)
		v, _ := out[0].Mass()
		return v
	}
	hole, ok := At(chains, geom.V2{X: 10, Y: 13})
	require.True(t, ok)
	island, ok := At(chains, geom.V2{X: 56, Y: 30})
	require.True(t, ok)
	assert.Equal(t, "HOLES", hole.Layer)
	assert.Equal(t, "POCKET", island.Layer)
	_, ok = At(chains, geom.V2{X: 20, Y: 20})
	assert.False(t, ok)
	full := volume()
	assert.InDelta(t, full+math.Pi*9*9, volume(Level{Layer: hole.Layer, Chain: hole.Chain, Depth: 6}), 1e-6)
	assert.InDelta(t, full-math.Pi*36*3, volume(Level{Layer: island.Layer, Chain: island.Chain, Depth: 3}), 1e-6)
	assert.InDelta(t, full+math.Pi*9*15, volume(Level{Layer: hole.Layer, Chain: hole.Chain, Off: true}), 1e-6)
}

func TestOpenAndCrossingChainsAreNamed(t *testing.T) {
	d, err := dxf.Read(text(4, "0 LINE, 8 A, 10 0, 20 0, 11 10, 21 0", "0 LINE, 8 A, 10 10, 20 0, 11 10, 21 5"))
	require.NoError(t, err)
	chains, open := Join(d.Curves, JoinWithin)
	assert.Empty(t, chains)
	require.Len(t, open, 1)
	assert.Equal(t, "layer A: a chain is open between X0.000 Y0.000 and X10.000 Y5.000", open[0].Where())
	d, err = dxf.Read(text(4, "0 CIRCLE, 8 A, 10 0, 20 0, 40 10", "0 CIRCLE, 8 B, 10 9, 20 0, 40 5"))
	require.NoError(t, err)
	chains, _ = Join(d.Curves, JoinWithin)
	_, err = Solids(chains, DefaultLevels(chains))
	assert.ErrorContains(t, err, "touch or cross near X")
}
