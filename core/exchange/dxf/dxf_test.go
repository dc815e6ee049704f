package dxf

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/geom"
	"arete/core/planar"
)

// text writes a drawing of groups "code value" split by commas.
func text(unit int, blocks, entities []string) []byte {
	var b strings.Builder
	put := func(all []string) {
		for _, e := range all {
			for _, g := range strings.Split(e, ",") {
				code, value, _ := strings.Cut(strings.TrimSpace(g), " ")
				b.WriteString(code + "\r\n" + value + "\r\n")
			}
		}
	}
	fmt.Fprintf(&b, "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n%d\n0\nENDSEC\n", unit)
	put([]string{"0 SECTION, 2 BLOCKS"})
	put(blocks)
	put([]string{"0 ENDSEC, 0 SECTION, 2 ENTITIES"})
	put(entities)
	put([]string{"0 ENDSEC, 0 EOF"})
	return []byte(b.String())
}

func read(t require.TestingT, unit int, entities ...string) []Curve {
	d, err := Read(text(unit, nil, entities))
	require.NoError(t, err)
	return d.Curves
}

// Areas by closed forms: what is drawn is what comes out.
func TestAreasOfCurves(t *testing.T) {
	for _, c := range []struct {
		name   string
		unit   int
		entity string
		area   float64
	}{
		{"circle", 4, "0 CIRCLE, 8 A, 10 5, 20 5, 40 3", 9 * math.Pi},
		{"circle in inches", 1, "0 CIRCLE, 8 A, 10 5, 20 5, 40 1", 25.4 * 25.4 * math.Pi},
		{"from behind", 4, "0 CIRCLE, 8 A, 10 5, 20 5, 40 3, 230 -1", 9 * math.Pi},
		{"ellipse", 4, "0 ELLIPSE, 8 A, 10 0, 20 0, 11 10, 21 5, 40 0.4, 41 0, 42 6.283185307179586", math.Pi * 125 * 0.4},
		{"slot by bulges", 4, "0 LWPOLYLINE, 8 A, 70 1, 10 0, 20 0, 10 20, 20 0, 42 1, 10 20, 20 10, 10 0, 20 10, 42 1", 200 + 25*math.Pi},
		{"quarter by bulge", 4, "0 LWPOLYLINE, 8 A, 70 1, 10 0, 20 0, 10 10, 20 0, 42 0.41421356237309503, 10 0, 20 10", 25 * math.Pi},
		{"three quarters by bulge", 4, "0 LWPOLYLINE, 8 A, 70 1, 10 0, 20 0, 10 10, 20 0, 42 2.414213562373095, 10 0, 20 10", 50 + 50*(1.5*math.Pi+1)},
		{"old polyline", 4, "0 POLYLINE, 8 A, 70 1, 0 VERTEX, 10 0, 20 0, 0 VERTEX, 10 8, 20 0, 0 VERTEX, 10 8, 20 4, 0 SEQEND", 16},
		// a circle of radius 10 as a rational quadratic spline of four quarters
		{"spline", 4, "0 SPLINE, 8 A, 70 4, 71 2, 40 0, 40 0, 40 0, 40 1, 40 1, 40 2, 40 2, 40 3, 40 3, 40 4, 40 4, 40 4," +
			"10 10, 20 0, 10 10, 20 10, 10 0, 20 10, 10 -10, 20 10, 10 -10, 20 0, 10 -10, 20 -10, 10 0, 20 -10, 10 10, 20 -10, 10 10, 20 0," +
			"41 1, 41 0.70710678118654752, 41 1, 41 0.70710678118654752, 41 1, 41 0.70710678118654752, 41 1, 41 0.70710678118654752, 41 1", 100 * math.Pi},
	} {
		got := read(t, c.unit, c.entity)
		require.Len(t, got, 1, c.name)
		assert.True(t, got[0].Closed, c.name)
		assert.InDelta(t, c.area, math.Abs(got[0].Chain.Area()), 1e-3*c.area, c.name)
		for i, s := range got[0].Chain {
			assert.InDelta(t, 0, s.B.Dist(got[0].Chain[(i+1)%len(got[0].Chain)].A), 1e-9, c.name)
		}
	}
}

// A block inserted turned, scaled, mirrored and repeated.
func TestInserts(t *testing.T) {
	blocks := []string{"0 BLOCK, 2 HOLE, 10 1, 20 1, 0 CIRCLE, 8 0, 10 1, 20 1, 40 2, 0 LINE, 8 AXES, 10 1, 20 1, 11 4, 21 1, 0 ENDBLK",
		"0 BLOCK, 2 PAIR, 10 0, 20 0, 0 INSERT, 2 HOLE, 8 0, 10 0, 20 0, 0 INSERT, 2 HOLE, 8 0, 10 10, 20 0, 0 ENDBLK"}
	d, err := Read(text(4, blocks, []string{"0 INSERT, 2 PAIR, 8 DRILL, 10 100, 20 50, 41 2, 42 2, 50 90, 70 2, 44 30"}))
	require.NoError(t, err)
	var centres []geom.V2
	for _, c := range d.Curves {
		if c.Closed {
			assert.Equal(t, "DRILL", c.Layer, "layer 0 takes the insert's")
			assert.InDelta(t, 4, c.Chain[0].Radius(), 1e-9)
			centres = append(centres, c.Chain[0].C)
		} else {
			assert.Equal(t, "AXES", c.Layer)
			assert.InDelta(t, 6, c.Chain.Len(), 1e-9)
		}
	}
	want := []geom.V2{{X: 100, Y: 50}, {X: 100, Y: 70}, {X: 100, Y: 80}, {X: 100, Y: 100}}
	require.Len(t, centres, 4)
	for i, c := range centres {
		assert.InDelta(t, 0, c.Dist(want[i]), 1e-9)
	}
	d, err = Read(text(4, blocks, []string{"0 INSERT, 2 HOLE, 8 A, 10 0, 20 0, 41 2, 42 1"}))
	require.NoError(t, err)
	assert.InDelta(t, 8*math.Pi, d.Curves[0].Chain.Area(), 0.02, "a stretched circle is an ellipse")
}

func TestBadDrawingsSayWhatAndWhere(t *testing.T) {
	good := text(4, nil, []string{"0 CIRCLE, 8 A, 10 5, 20 5, 40 3"})
	loop := text(4, []string{"0 BLOCK, 2 B, 0 INSERT, 2 B, 0 ENDBLK"}, []string{"0 INSERT, 2 B, 8 A"})
	var bomb []string // ten inserts of ten inserts of … nothing but text
	for k := range 12 {
		bomb = append(bomb, fmt.Sprintf("0 BLOCK, 2 B%d", k), "0 TEXT, 1 x")
		for range 10 {
			bomb = append(bomb, fmt.Sprintf("0 INSERT, 2 B%d", k+1))
		}
		bomb = append(bomb, "0 ENDBLK")
	}
	for name, c := range map[string]struct {
		data []byte
		say  string
	}{
		"a bomb":    {text(4, bomb, []string{"0 INSERT, 2 B0"}), "entities with all inserts"},
		"cut off":   {good[:len(good)-12], "cut off"},
		"no curve":  {text(4, nil, []string{"0 TEXT, 1 hello"}), "no line, arc, polyline"},
		"a picture": {[]byte("\x89PNG\r\n\x1a\n0000"), "group code"},
		"loop":      {loop, "without end"},
		"empty":     {nil, "the end is missing"},
		"far":       {text(4, nil, []string{"0 CIRCLE, 8 A, 10 1e300, 20 5, 40 3"}), "beyond 1 km"},
		"repeated":  {text(4, []string{"0 BLOCK, 2 B, 0 LINE, 11 1, 0 ENDBLK"}, []string{"0 INSERT, 2 B, 70 30000, 71 30000"}), "repeated"},
	} {
		_, err := Read(c.data)
		require.ErrorIs(t, err, ErrFormat, name)
		assert.Contains(t, err.Error(), c.say, name)
		assert.NotContains(t, err.Error(), "\n")
	}
}

// What is written reads back the same.
func TestWrittenRegionsReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		num := func(lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, "n") }
		plate := planar.Region{planar.Rect(0, 0, num(20, 90), num(20, 90)), planar.Circle(geom.V2{X: 10, Y: 10}, num(1, 8)).Reverse()}
		r := planar.Offset(plate, num(-0.9, 4), planar.DefaultTolerance)
		var file bytes.Buffer
		require.NoError(t, Write(&file, []Layered{{"TOP", r}}))
		require.True(t, Is(file.Bytes()))
		d, err := Read(file.Bytes())
		require.NoError(t, err)
		require.Len(t, d.Curves, len(r))
		for i, c := range d.Curves {
			require.Equal(t, "TOP", c.Layer)
			require.InDelta(t, r[i].Area(), c.Chain.Area(), 1e-3)
		}
	})
}

func FuzzRead(f *testing.F) {
	f.Add(text(4, []string{"0 BLOCK, 2 HOLE, 10 1, 20 1, 0 CIRCLE, 8 0, 10 1, 20 1, 40 2, 0 ENDBLK"}, []string{"0 INSERT, 2 HOLE, 8 A, 70 3", "0 SPLINE, 71 2, 40 0, 10 1, 20 1"}))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Read(data)
		if err == nil {
			for _, c := range d.Curves {
				require.NotEmpty(t, c.Chain)
			}
		}
	})
}
