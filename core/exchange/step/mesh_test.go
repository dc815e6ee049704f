package step

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/geom"
	"arete/core/mesh"
)

// tessellatedFile writes a mesh as a body of triangles, in inches; face by
// face as a face of the file.
func tessellatedFile(m *mesh.Mesh, face func(k int, tris [][3]int32) string, extra string) string {
	var b strings.Builder
	b.WriteString("ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF'));\nENDSEC;\nDATA;\n" +
		"#1=(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNIT_ASSIGNED_CONTEXT((#2,#3,#4))REPRESENTATION_CONTEXT('',''));\n" +
		"#2=(CONVERSION_BASED_UNIT('INCH',#5)LENGTH_UNIT()NAMED_UNIT(#6));\n#3=(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.));\n#4=(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT());\n" +
		"#5=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#7);\n#6=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.);\n#7=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.));\n#10=COORDINATES_LIST('',")
	fmt.Fprintf(&b, "%d,(", len(m.Points))
	for i, p := range m.Points {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, "(%.12f,%.12f,%.12f)", p.X/25.4, p.Y/25.4, p.Z/25.4)
	}
	b.WriteString("));\n")
	by := map[int32][][3]int32{}
	most := int32(0)
	for i, t := range m.Tris {
		by[m.Face[i]] = append(by[m.Face[i]], t)
		most = max(most, m.Face[i])
	}
	var names []string
	for k := range most + 1 {
		fmt.Fprintf(&b, "#%d=%s;\n", 100+k, face(int(k), by[k]))
		names = append(names, fmt.Sprintf("#%d", 100+k))
	}
	fmt.Fprintf(&b, "#20=TESSELLATED_SOLID('body',(%s),$);\n%sENDSEC;\nEND-ISO-10303-21;\n", strings.Join(names, ","), extra)
	return b.String()
}

func plain(_ int, tris [][3]int32) string {
	var s []string
	for _, t := range tris {
		s = append(s, fmt.Sprintf("(%d,%d,%d)", t[0]+1, t[1]+1, t[2]+1))
	}
	return "TRIANGULATED_FACE('',#10,99,((0.,0.,1.)),$,(),(" + strings.Join(s, ",") + "))"
}

// fans gives every triangle as a fan or as a strip, by an index of its own.
func fans(_ int, tris [][3]int32) string {
	var index, strips, fan []string
	for i, t := range tris {
		n := len(index)
		index = append(index, fmt.Sprint(t[0]+1), fmt.Sprint(t[1]+1), fmt.Sprint(t[2]+1))
		s := fmt.Sprintf("(%d,%d,%d)", n+1, n+2, n+3)
		if i%2 == 0 {
			strips = append(strips, s)
		} else {
			fan = append(fan, s)
		}
	}
	return "COMPLEX_TRIANGULATED_FACE('',#10,99,((0.,0.,1.)),$,(" + strings.Join(index, ",") + "),(" + strings.Join(strips, ",") + "),(" + strings.Join(fan, ",") + "))"
}

func clevis(t *testing.T) *mesh.Mesh {
	head, es, tail := halves(t)
	m, err := Parse([]byte(head + "DATA;\n" + strings.Join(es, ";\n") + ";\nENDSEC;" + tail))
	require.NoError(t, err)
	out, err := m.Bodies[0].Tessellate(0.01)
	require.NoError(t, err)
	return out
}

func TestTessellatedBodies(t *testing.T) {
	want := clevis(t)
	for name, face := range map[string]func(int, [][3]int32) string{"faces": plain, "strips and fans": fans} {
		got, err := Parse([]byte(tessellatedFile(want, face, "")))
		require.NoError(t, err, name)
		require.Len(t, got.Meshes, 1, name)
		assert.Empty(t, got.Bodies)
		m := got.Meshes[0]
		assert.Equal(t, "inch", got.Unit)
		assert.Zero(t, m.OpenEdges(), name)
		assert.Len(t, m.Tris, len(want.Tris), name)
		assert.InDelta(t, want.Volume(), m.Volume(), 1e-4, name)
	}
	strip := &mesh.Mesh{Points: []geom.V3{{}, {X: 1}, {Y: 1}, {X: 1, Y: 1}, {X: 0, Y: 2}}, Tris: [][3]int32{{0, 1, 2}}, Face: []int32{0}}
	got, err := Parse([]byte(tessellatedFile(strip, func(int, [][3]int32) string {
		return "COMPLEX_TRIANGULATED_FACE('',#10,5,(),$,(),((1,2,3,4,5)),())"
	}, "")))
	require.NoError(t, err)
	require.Len(t, got.Meshes[0].Tris, 3)
	for i := range 3 {
		assert.InDelta(t, 1, got.Meshes[0].Normal(i).Z, 1e-9, "all triangles of a strip look one way")
	}
}

func TestDamagedTessellationIsTold(t *testing.T) {
	m := clevis(t)
	for want, face := range map[string]string{
		"does not have":         "TRIANGULATED_FACE('',#10,9,(),$,(),((1,2,99999)))",
		"without three corners": "TRIANGULATED_FACE('',#10,9,(),$,(),((1,2)))",
		"too few parameters":    "TRIANGULATED_FACE('',#10)",
		"COORDINATES_LIST":      "TRIANGULATED_FACE('',#20,9,(),$,(),((1,2,3)))",
		"not in the file":       "TRIANGULATED_FACE('',#777,9,(),$,(),((1,2,3)))",
	} {
		_, err := Parse([]byte(tessellatedFile(m, func(int, [][3]int32) string { return face }, "")))
		assert.ErrorContains(t, err, want)
	}
}
