package step

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const parts = "../../../demo/parts"

// truth holds volumes worked out by hand from the authoring script.
var truth = map[string]struct {
	faces  int
	volume float64
}{
	"gauge-lid": {0, func() float64 {
		plate := (96*71 - (4-math.Pi)*81) * 18.0
		pocket := (56*43 - (4-math.Pi)*49) * 12.0
		island := (12*11 + math.Pi*5.5*5.5) * 9
		bolts := 4 * math.Pi * (3.3*3.3*11.4 + 5.5*5.5*6.6)
		return plate - pocket + island - bolts - math.Pi*2.1*2.1*10
	}()},
	"sensor-bracket": {0, func() float64 {
		block := 80 * 50 * 24.0
		step := 30 * 50 * 10.0
		slot := (12*8.5 + math.Pi*4.25*4.25) * 14
		open := (29*10 + math.Pi*25/2) * 8.0
		blind := 2 * math.Pi * 6.25 * (18 + 0.5)
		holes := 2*math.Pi*9*24 + 4*math.Pi*2.25*2.25*14
		return block - step - slot - open - blind - holes
	}()},
}

func TestVolumesOfAuthoredParts(t *testing.T) {
	for name, want := range truth {
		f, err := os.Open(filepath.Join(parts, name+".step"))
		require.NoError(t, err)
		m, err := Read(f)
		f.Close()
		require.NoError(t, err)
		require.Len(t, m.Bodies, 1)
		v, a := m.Bodies[0].Mass()
		assert.InEpsilon(t, want.volume, v, 1e-9, name)
		assert.Equal(t, "mm", m.Unit)
		for _, chord := range []float64{0.5, 0.1, 0.01} {
			mesh, err := m.Bodies[0].Tessellate(chord)
			require.NoError(t, err)
			assert.Zero(t, mesh.OpenEdges(), "%s at %v is watertight", name, chord)
			assert.InDelta(t, v, mesh.Volume(), chord*a, name)
			assert.InDelta(t, a, mesh.Area(), 0.02*chord*a+1, name)
		}
	}
}

const (
	head = "ISO-10303-21;HEADER;ENDSEC;DATA;\n"
	tail = "ENDSEC;END-ISO-10303-21;"
)

// family is an assembly whose every part holds the next one twice: 2^39 of
// the last.
func family() string {
	var s strings.Builder
	s.WriteString("#50=ITEM_DEFINED_TRANSFORMATION('','',#51,#51);#51=AXIS2_PLACEMENT_3D('',#52,$,$);#52=CARTESIAN_POINT('',(0.,0.,0.));\n")
	for k := 0; k < 40; k++ {
		fmt.Fprintf(&s, "#%d=SHAPE_REPRESENTATION('',(#51),#9);\n", 100+k)
		for j := 0; j < 2 && k < 39; j++ {
			fmt.Fprintf(&s, "#%d=(REPRESENTATION_RELATIONSHIP('','',#%d,#%d)REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(#50)SHAPE_REPRESENTATION_RELATIONSHIP());\n", 1000+2*k+j, 100+k, 101+k)
		}
	}
	return s.String()
}

func TestBadFilesSayWhatAndWhere(t *testing.T) {
	good, err := os.ReadFile(filepath.Join(parts, "gauge-lid.step"))
	require.NoError(t, err)
	text := string(good)
	for name, c := range map[string]struct {
		in    string
		class error
		say   string
	}{
		"empty":     {"", ErrSyntax, "does not begin"},
		"picture":   {"\x89PNG\r\n\x1a\n", ErrSyntax, "choose a STEP file"},
		"truncated": {text[:len(text)/2], ErrSyntax, "ends"},
		"bomb":      {"ISO-10303-21;HEADER;ENDSEC;DATA;#1=A(" + strings.Repeat("(", 1<<20), ErrSyntax, "nested"},
		"no solid":  {"ISO-10303-21;HEADER;ENDSEC;DATA;\n#1=CARTESIAN_POINT('',(0.,0.,0.));ENDSEC;END-ISO-10303-21;", ErrNoSolid, "export the part as a solid"},
		"dangling":  {strings.Replace(text, "ADVANCED_FACE('',(#", "ADVANCED_FACE('',(#9999", 1), ErrReference, "not in the file"},
		"huge":      {strings.Replace(text, "(48.,", "(4.8E300,", -1), ErrSyntax, "absurd"},
		"no number": {strings.Replace(text, "(48.,", "(4.8E3000,", -1), ErrSyntax, "cannot read the number"},
		"own basis": {head + "#1=MANIFOLD_SOLID_BREP('',#2);#2=CLOSED_SHELL('',(#3));#3=ADVANCED_FACE('',(),#5,.T.);#5=RECTANGULAR_TRIMMED_SURFACE('',#5,0.,1.,0.,1.,.T.,.T.);" + tail, ErrSyntax, "refers to itself"},
		"knot bomb": {head + "#1=MANIFOLD_SOLID_BREP('',#2);#2=CLOSED_SHELL('',(#3));#3=ADVANCED_FACE('',(),#5,.T.);#5=B_SPLINE_SURFACE_WITH_KNOTS('',3,3,((#9,#9,#9,#9),(#9,#9,#9,#9),(#9,#9,#9,#9),(#9,#9,#9,#9)),.UNSPECIFIED.,.F.,.F.,.F.,(1000000000,4),(4,4),(0.,1.),(0.,1.),.UNSPECIFIED.);#9=CARTESIAN_POINT('',(0.,0.,0.));" + tail, ErrSyntax, "knots"},
		"wires":     {head + "#1=GEOMETRIC_CURVE_SET('',(#2));#2=CARTESIAN_POINT('',(0.,0.,0.));" + tail, ErrNoSolid, "only curves"},
		"family":    {head + family() + tail, ErrUnsupported, "components"},
		"a million": {head + strings.Repeat("#1=CARTESIAN_POINT('',(0.,0.,0.));\n", 1_000_000) + tail, ErrNoSolid, "1000000 entities"},
		"cyclic":    {"ISO-10303-21;HEADER;ENDSEC;DATA;\n#1=MANIFOLD_SOLID_BREP('',#1);ENDSEC;END-ISO-10303-21;", ErrSyntax, "#1"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := Read(strings.NewReader(c.in))
			require.ErrorIs(t, err, c.class)
			assert.Contains(t, err.Error(), c.say)
			assert.NotContains(t, err.Error(), "\n")
		})
	}
}

func TestInchFilesComeInAsMillimetres(t *testing.T) {
	good, err := os.ReadFile(filepath.Join(parts, "sensor-bracket.step"))
	require.NoError(t, err)
	inch := strings.Replace(string(good), "( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.) )",
		"( CONVERSION_BASED_UNIT('INCH',#900001) LENGTH_UNIT() NAMED_UNIT(#900003) )", 1)
	inch = strings.Replace(inch, "DATA;", `DATA;
#900001 = LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#900002);
#900002 = ( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.) );
#900003 = DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.);`, 1)
	m, err := Read(strings.NewReader(inch))
	require.NoError(t, err)
	v, _ := m.Bodies[0].Mass()
	assert.Equal(t, "inch", m.Unit)
	assert.InEpsilon(t, truth["sensor-bracket"].volume*25.4*25.4*25.4, v, 1e-9)
}

// Two parts' entities in one file, under the schema names of all three
// protocols: both solids come out, each with its own volume.
func TestSeveralSolidsAndSchemas(t *testing.T) {
	a, err := os.ReadFile(filepath.Join(parts, "gauge-lid.step"))
	require.NoError(t, err)
	b, err := os.ReadFile(filepath.Join(parts, "sensor-bracket.step"))
	require.NoError(t, err)
	body := string(b[strings.Index(string(b), "DATA;")+5 : strings.LastIndex(string(b), "ENDSEC;")])
	body = regexp.MustCompile(`#(\d+)`).ReplaceAllString(body, "#90000${1}")
	end := strings.LastIndex(string(a), "ENDSEC;")
	both := string(a[:end]) + body + string(a[end:])
	for _, schema := range []string{"CONFIG_CONTROL_DESIGN", "AUTOMOTIVE_DESIGN", "AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF"} {
		m, err := Read(strings.NewReader(regexp.MustCompile(`AUTOMOTIVE_DESIGN[^']*`).ReplaceAllString(both, schema)))
		require.NoError(t, err)
		require.Len(t, m.Bodies, 2)
		assert.Equal(t, schema, m.Schema)
		for i, n := range []string{"gauge-lid", "sensor-bracket"} {
			v, _ := m.Bodies[i].Mass()
			assert.InEpsilon(t, truth[n].volume, v, 1e-9)
		}
	}
}

// The gauge lid as written by another writer under AP203 and AP242: the same
// solid with the same number of faces.
func TestFilesOfTheOtherProtocols(t *testing.T) {
	for file, schema := range map[string]string{
		"gauge-lid-ap203.step": "CONFIG_CONTROL_DESIGN",
		"gauge-lid-ap242.step": "AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF",
	} {
		data, err := os.ReadFile(filepath.Join("testdata", file))
		require.NoError(t, err)
		m, err := Read(bytes.NewReader(data))
		require.NoError(t, err)
		require.Len(t, m.Bodies, 1)
		assert.Contains(t, m.Schema, schema)
		v, _ := m.Bodies[0].Mass()
		assert.InEpsilon(t, truth["gauge-lid"].volume, v, 1e-9)
		assert.Len(t, m.Bodies[0].Faces, 38)
	}
}

func TestTextEscapes(t *testing.T) {
	for in, want := range map[string]string{
		`it''s`: "it's", `\S\d`: "ä", `\X\E9`: "é", `\X2\03B103B2\X0\`: "αβ", `\X4\0001F600\X0\`: "😀", `a\\b`: `a\b`,
	} {
		assert.Equal(t, want, decode(in))
	}
}

func FuzzRead(f *testing.F) {
	good, err := os.ReadFile(filepath.Join(parts, "sensor-bracket.step"))
	require.NoError(f, err)
	f.Add(string(good))
	f.Add("ISO-10303-21;HEADER;ENDSEC;DATA;#1=(A()B(.T.));ENDSEC;END-ISO-10303-21;")
	f.Fuzz(func(t *testing.T, s string) {
		m, err := Read(strings.NewReader(s))
		if err == nil {
			assert.NotEmpty(t, m.Bodies)
		}
	})
}
