package feature

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/geom"
)

func source(t require.TestingT, name string) string {
	data, err := os.ReadFile(filepath.Join("testdata", name+".step"))
	require.NoError(t, err)
	return string(data)
}

func parsed(t require.TestingT, text string) *brep.Solid {
	m, err := step.Parse([]byte(text))
	require.NoError(t, err)
	return m.Bodies[0].Solid
}

func sortedNames() []string {
	var out []string
	for name := range lists {
		if name != "sampler" { // as the others, only larger
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

var reference = regexp.MustCompile(`#\d+`)

// Other numbers for the entities, and another order of them in the file,
// change nothing.
func TestRenumberingChangesNothing(t *testing.T) {
	names := sortedNames()
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom(names).Draw(t, "part")
		head, rest, ok := strings.Cut(source(t, name), "DATA;")
		require.True(t, ok)
		data, tail, ok := strings.Cut(rest, "ENDSEC;")
		require.True(t, ok)
		entities := regexp.MustCompile(`;\s*\n`).Split(strings.TrimSpace(data), -1)
		by, from := rapid.SampledFrom([]int{7, 13, 1009}).Draw(t, "by"), rapid.IntRange(1, 5000).Draw(t, "from")
		entities = rapid.Permutation(entities).Draw(t, "order")
		for i, e := range entities {
			entities[i] = reference.ReplaceAllStringFunc(strings.TrimSuffix(strings.TrimSpace(e), ";"), func(s string) string {
				n, _ := strconv.Atoi(s[1:])
				return "#" + strconv.Itoa(from+n*by)
			})
		}
		text := head + "DATA;\n" + strings.Join(slices.DeleteFunc(entities, func(e string) bool { return e == "" }), ";\n") + ";\nENDSEC;" + tail
		compare(t, name, survey(t, parsed(t, text), geom.Identity()))
	})
}

var (
	lengths = regexp.MustCompile(`(?s)\b(CARTESIAN_POINT|CIRCLE|ELLIPSE|VECTOR|CYLINDRICAL_SURFACE|SPHERICAL_SURFACE|TOROIDAL_SURFACE)\(([^;]*)\);`)
	cones   = regexp.MustCompile(`(?s)\bCONICAL_SURFACE\(('[^']*',#\d+,)([^,]*)(,[^;]*)\);`)
	decimal = regexp.MustCompile(`[-+]?\d+\.\d*(E[-+]?\d+)?`)
)

// The same part written in another unit is the same part.
func TestUnitsChangeNothing(t *testing.T) {
	for _, name := range sortedNames() {
		scale := func(s string) string {
			v, err := strconv.ParseFloat(s, 64)
			require.NoError(t, err)
			out := strconv.FormatFloat(v/10, 'g', 17, 64)
			if mantissa, exp, has := strings.Cut(out, "e"); has {
				if !strings.Contains(mantissa, ".") {
					mantissa += "."
				}
				return mantissa + "E" + exp
			} else if !strings.Contains(out, ".") {
				out += "."
			}
			return out
		}
		text := strings.ReplaceAll(source(t, name), "SI_UNIT(.MILLI.,.METRE.)", "SI_UNIT(.CENTI.,.METRE.)")
		text = lengths.ReplaceAllStringFunc(text, func(s string) string { return decimal.ReplaceAllStringFunc(s, scale) })
		text = cones.ReplaceAllStringFunc(text, func(s string) string {
			m := cones.FindStringSubmatch(s)
			return "CONICAL_SURFACE(" + m[1] + scale(m[2]) + m[3] + ");"
		})
		compare(t, name, survey(t, parsed(t, text), geom.Identity()))
	}
}

// A part and its mirror image have the same features, from mirrored sides.
func TestMirroringChangesNothingButSides(t *testing.T) {
	for _, name := range sortedNames() {
		s, ok := mirrored(drawn(t, name))
		if !ok {
			continue // free-formed
		}
		set := survey(t, s, geom.Identity())
		for _, f := range set.Features {
			f.Approach.X = -f.Approach.X
		}
		compare(t, name, set)
	}
}

// mirrored returns the image of a solid of simple surfaces in the plane x = 0.
func mirrored(s *brep.Solid) (*brep.Solid, bool) {
	over := func(p geom.V3) geom.V3 { return geom.V3{X: -p.X, Y: p.Y, Z: p.Z} }
	frame := func(f geom.Frame, sign float64) geom.Frame {
		return geom.NewFrame(over(f.O), over(f.Z).Mul(sign), over(f.X))
	}
	out := s.Transform(geom.Identity())
	for _, e := range out.Edges {
		switch c := e.Curve.(type) {
		case brep.Line:
			e.Curve = brep.Line{P: over(c.P), D: over(c.D)}
		case brep.Circle: // runs the other way about the image of its axis
			e.Curve = brep.Circle{F: frame(c.F, -1), R: c.R}
		default:
			return nil, false
		}
	}
	seen := map[*brep.Vertex]bool{}
	turn := func(v *brep.Vertex) {
		if v != nil && !seen[v] {
			seen[v] = true
			v.P = over(v.P)
		}
	}
	for _, f := range out.Faces {
		switch c := f.Surface.(type) {
		case brep.Plane:
			f.Surface = brep.Plane{F: frame(c.F, 1)}
		case brep.Cylinder:
			f.Surface = brep.Cylinder{F: frame(c.F, 1), R: c.R}
		case brep.Cone:
			f.Surface = brep.Cone{F: frame(c.F, 1), R: c.R, Half: c.Half}
		default:
			return nil, false
		}
		for k := range f.Loops {
			l := &f.Loops[k]
			turn(l.Point)
			for _, c := range l.Coedges {
				turn(c.Edge.A)
				turn(c.Edge.B)
				c.Forward = !c.Forward
			}
			slices.Reverse(l.Coedges)
		}
	}
	return out, true
}

func TestTheMirrorKeepsVolumes(t *testing.T) {
	for _, name := range sortedNames() {
		if m, ok := mirrored(drawn(t, name)); ok {
			want, _ := drawn(t, name).Mass()
			got, _ := m.Mass()
			require.InDelta(t, want, got, 1e-9*math.Abs(want), fmt.Sprint(name))
		}
	}
}
