package step

import (
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// halves returns the text before, in and after the data of the clevis.
func halves(t *testing.T) (head string, entities []string, tail string) {
	raw, err := os.ReadFile("../../feature/testdata/clevis.step")
	require.NoError(t, err)
	head, rest, ok := strings.Cut(string(raw), "DATA;")
	require.True(t, ok)
	data, tail, ok := strings.Cut(rest, "ENDSEC;")
	require.True(t, ok)
	for _, e := range regexp.MustCompile(`;\s*\n`).Split(strings.TrimSpace(data)+"\n", -1) {
		if e = strings.TrimSuffix(strings.TrimSpace(e), ";"); e != "" {
			entities = append(entities, e)
		}
	}
	return head, entities, tail
}

func same(t *testing.T, text, why string) {
	head, entities, tail := halves(t)
	want, err := Parse([]byte(head + "DATA;\n" + strings.Join(entities, ";\n") + ";\nENDSEC;" + tail))
	require.NoError(t, err)
	got, err := Parse([]byte(text))
	require.NoError(t, err, why)
	require.Len(t, got.Bodies, 1, why)
	v, a := want.Bodies[0].Mass()
	w, b := got.Bodies[0].Mass()
	assert.InDelta(t, v, w, 1e-6, why)
	assert.InDelta(t, a, b, 1e-6, why)
	assert.Len(t, got.Bodies[0].Faces, len(want.Bodies[0].Faces), why)
}

// The forms of the three editions of ISO 10303-21 around the same entities.
func TestFormsOfTheEditions(t *testing.T) {
	head, es, tail := halves(t)
	n := len(es) / 2
	join := func(es []string) string { return strings.Join(es, ";\n") + ";\n" }
	same(t, head+"DATA('a',('AUTOMOTIVE_DESIGN'));\n"+join(es[n:])+"ENDSEC;\nDATA('b',('AUTOMOTIVE_DESIGN'));\n"+join(es[:n])+"ENDSEC;"+tail, "two sections of data, edition 2")
	same(t, head+"ANCHOR;\n<top>=#12;\n<size>=(1.,2.){kind:x};\nENDSEC;\nREFERENCE;\n#900001=<other.step#face>;\nENDSEC;\nDATA;\n"+join(es)+"ENDSEC;\nSIGNATURE;\nMIIB+/==\nENDSEC;"+tail, "anchors, references and a signature, edition 3")
	name, rest, ok := strings.Cut(es[len(es)-1], "=")
	require.True(t, ok)
	same(t, head+"DATA;\n"+name+"= &SCOPE\n"+join(es[:n])+"ENDSCOPE /#1,#2/ "+rest+";\n"+join(es[n:len(es)-1])+"ENDSEC;"+tail, "entities in a scope, edition 1")
	same(t, strings.ReplaceAll(head+"/* made *//* twice\n */DATA;\n"+strings.ReplaceAll(join(es), ",", " /* , */ ,\n ")+"ENDSEC;"+tail, "\n", "\r\n"), "comments and line ends anywhere")
}

// A representation used twice by mapped items, once where it is and once turned
// a quarter and moved.
func TestMappedItemsArePlaced(t *testing.T) {
	head, es, tail := halves(t)
	find := func(pattern string) (id string, m []string) {
		for _, e := range es {
			if m := regexp.MustCompile(`(?s)^(#\d+)\s*=\s*` + pattern).FindStringSubmatch(e); m != nil {
				return m[1], m[2:]
			}
		}
		require.Fail(t, pattern)
		return
	}
	rep, m := find(`ADVANCED_BREP_SHAPE_REPRESENTATION\('[^']*',\([^)]*\),\s*(#\d+)`)
	context := m[0]
	for i, e := range es {
		if strings.Contains(e, "SHAPE_DEFINITION_REPRESENTATION(") {
			es[i] = strings.Replace(e, rep+")", "#900000)", 1)
			require.NotEqual(t, e, es[i])
		}
	}
	es = append(es,
		"#900000=SHAPE_REPRESENTATION('',(#900010,#900020,#900031),"+context+")",
		"#900001=CARTESIAN_POINT('',(0.,0.,0.))", "#900002=AXIS2_PLACEMENT_3D('',#900001,$,$)", "#900003=REPRESENTATION_MAP(#900002,"+rep+")",
		"#900010=MAPPED_ITEM('',#900003,#900002)",
		"#900021=CARTESIAN_POINT('',(500.,0.,0.))", "#900022=DIRECTION('',(0.,0.,1.))", "#900023=DIRECTION('',(0.,1.,0.))",
		"#900024=AXIS2_PLACEMENT_3D('',#900021,#900022,#900023)", "#900020=MAPPED_ITEM('',#900003,#900024)",
		"#900030=CARTESIAN_TRANSFORMATION_OPERATOR_3D('',$,'',$,$,#900021,2.,$)", "#900031=MAPPED_ITEM('',#900003,#900030)")
	got, err := Parse([]byte(head + "DATA;\n" + strings.Join(es, ";\n") + ";\nENDSEC;" + tail))
	require.NoError(t, err)
	require.Len(t, got.Bodies, 3)
	var one float64
	for _, k := range got.Bodies {
		if v, _ := k.Mass(); one == 0 || v < one {
			one = v
		}
	}
	large := slices.IndexFunc(got.Bodies, func(k Body) bool { v, _ := k.Mass(); return v > 2*one })
	require.GreaterOrEqual(t, large, 0, "one is twice as large")
	v, _ := got.Bodies[large].Mass()
	assert.InEpsilon(t, 8*one, v, 1e-9)
	twice := got.Bodies[large].Box()
	got.Bodies = slices.Delete(got.Bodies, large, large+1)
	a, b := got.Bodies[0].Box(), got.Bodies[1].Box()
	if a.Min.X > b.Min.X {
		a, b = b, a
	}
	assert.InDelta(t, a.Size().X, b.Size().Y, 1e-9, "a quarter turn")
	assert.InDelta(t, a.Size().Y, b.Size().X, 1e-9)
	assert.InDelta(t, 500-a.Max.Y, b.Min.X, 1e-9, "x comes from -y")
	assert.InDelta(t, a.Min.X, b.Min.Y, 1e-9)
	assert.InDelta(t, 500+2*a.Min.X, twice.Min.X, 1e-9)
	assert.InDelta(t, 2*a.Max.Y, twice.Max.Y, 1e-9)
}

// Faces that share no edge but lie edge to edge are sewn; a side that looks the
// wrong way is turned; both are reported.
func TestLooseFacesAreSewnAndTurned(t *testing.T) {
	head, es, tail := halves(t)
	next := 800000
	fresh := regexp.MustCompile(`#\d+`)
	var loose []string
	byID := map[string]string{}
	for _, e := range es {
		id, _, _ := strings.Cut(e, "=")
		byID[strings.TrimSpace(id)] = e
	}
	var faces []string
	for _, e := range es { // every face gets loops, edges, curves and points of its own
		id, body, _ := strings.Cut(e, "=")
		if !strings.Contains(body, "ADVANCED_FACE(") {
			continue
		}
		copied := map[string]string{}
		var take func(ref string) string
		take = func(ref string) string {
			if copied[ref] != "" {
				return copied[ref]
			}
			next++
			copied[ref] = "#" + itoa(next)
			_, text, _ := strings.Cut(byID[ref], "=")
			loose = append(loose, copied[ref]+"="+fresh.ReplaceAllStringFunc(text, take))
			return copied[ref]
		}
		faces = append(faces, take(strings.TrimSpace(id)))
	}
	for i, e := range es {
		if strings.Contains(e, "CLOSED_SHELL(") {
			id, _, _ := strings.Cut(e, "=")
			es[i] = id + "=CLOSED_SHELL('',(" + strings.Join(faces, ",") + "))"
		}
	}
	text := head + "DATA;\n" + strings.Join(append(es, loose...), ";\n") + ";\nENDSEC;" + tail
	same(t, text, "sewn")
	m, err := Parse([]byte(text))
	require.NoError(t, err)
	assert.Contains(t, strings.Join(m.Problems, "\n"), "pairs of edges were sewn together")
}

func itoa(n int) string {
	out := ""
	for ; n > 0; n /= 10 {
		out = string(rune('0'+n%10)) + out
	}
	return out
}

// What stands beside the body in its representation, known or not, is left out
// and told; what nothing refers to does no harm.
func TestOtherItemsAreLeftOutAndTold(t *testing.T) {
	head, es, tail := halves(t)
	text := strings.Join(es, ";\n") + ";\n"
	rep := regexp.MustCompile(`ADVANCED_BREP_SHAPE_REPRESENTATION\('',\(`)
	require.Regexp(t, rep, text)
	text = rep.ReplaceAllString(text, "${0}#900001,#900002,#900003,")
	m, err := Parse([]byte(head + "DATA;\n" + text + "#900001=FOO_BAR('',#1,*,$,.T.);\n#900002=GEOMETRIC_CURVE_SET('',(#900004));\n#900003=FOO_BAR();\n#900005=!NEVER_HEARD(((1,(2.)),'x'));\n#900006=(LENGTH_UNIT()QUITE_NEW()NAMED_UNIT(*));\nENDSEC;" + tail))
	require.NoError(t, err)
	require.Len(t, m.Bodies, 1)
	assert.Equal(t, []string{"2 × FOO_BAR left out: no body", "1 × GEOMETRIC_CURVE_SET left out: no body",
		"entities that are not known here are skipped: FOO_BAR, NEVER_HEARD, QUITE_NEW"}, m.Problems)
}
