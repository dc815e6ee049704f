package shop

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/drawing"
	"arete/core/exchange/stl"
	"arete/core/workplan"
)

const clamp = "../demo/parts/clamp-plate.dxf"

var clampLevels = []drawing.Level{{Layer: "COUNTERBORE", Depth: 6}, {Layer: "OUTLINE", Depth: 16}, {Layer: "POCKET", Depth: 9}, {Layer: "THROUGH", Depth: 16}}

// A flat drawing with levels goes all the way to a proven program; its volume
// is known by hand.
func TestADrawingComesOutProven(t *testing.T) {
	w := work(t, clamp, func(p *workplan.Plan) { p.Setup.Layers = clampLevels })
	assert.InDelta(t, clampVolume, volume(w.r.Geometry), 0.5)
	p := w.prove(t)
	assert.Empty(t, p.Findings())
	assert.Empty(t, p.ReadBack)
}

var clampVolume = 16*(110*70-(4-math.Pi)*144) - 9*(54*46-(4-math.Pi)*49-math.Pi*144) - 16*math.Pi*16 - 4*math.Pi*(6*25+10*2.75*2.75)

func volume(g *Geometry) float64 { v, _ := g.Solid.Mass(); return v }

// A mesh of a part gets the same steps as the part; curves may begin elsewhere.
func TestAMeshIsPlannedLikeItsPart(t *testing.T) {
	w := work(t, lid, nil)
	var file bytes.Buffer
	mesh, err := load(t, lid).Bodies[0].Tessellate(0.01)
	require.NoError(t, err)
	require.NoError(t, stl.WriteText(&file, mesh, "lid"))
	m, err := Import(file.Bytes())
	require.NoError(t, err)
	e, plan := NewEngine(), workplan.Default(w.lib.Machines[0].ID, w.lib.Materials[0].ID)
	_, err = e.Propose(context.Background(), m, &plan, w.lib)
	require.NoError(t, err)
	r, err := e.Compute(context.Background(), m, plan, w.lib, nil)
	require.NoError(t, err)
	require.Len(t, r.Steps, len(w.r.Steps))
	assert.InDelta(t, w.r.Total, r.Total, 0.02*r.Total)
	for i := range r.Steps {
		assert.Equal(t, w.r.Steps[i].Step.Name, r.Steps[i].Step.Name)
		assert.InDelta(t, w.r.Steps[i].Time, r.Steps[i].Time, 0.1*w.r.Steps[i].Time, r.Steps[i].Step.Name)
	}
}

// What is taken out reads back: the part, the stock at a time, the regions.
func TestExportsReadBack(t *testing.T) {
	w := work(t, lid, nil)
	p := w.prove(t)
	write := func(name string, at float64) []byte {
		var b bytes.Buffer
		require.NoError(t, Exports[name](&b, "lid", w.r, p, at))
		return b.Bytes()
	}
	part, err := stl.Read(write("part.stl", 0))
	require.NoError(t, err)
	assert.Zero(t, part.OpenEdges())
	assert.InDelta(t, volume(w.r.Geometry), part.Volume(), 0.002*part.Volume())
	before, err := stl.Read(write("stock.stl", -1))
	require.NoError(t, err)
	size := w.r.Geometry.Work.Stock.Size()
	assert.InDelta(t, size.X*size.Y*size.Z, before.Volume(), 1e-3*before.Volume(), "whole before the first cut")
	after, err := stl.Read(write("stock.stl", math.Inf(1)))
	require.NoError(t, err)
	assert.InDelta(t, p.Grid.Volume(), after.Volume(), 1e-4*after.Volume())
	assert.Less(t, after.Volume(), before.Volume())
	m, err := Import(write("regions.dxf", 0))
	require.NoError(t, err)
	assert.Greater(t, len(m.Chains), 8)
	assert.Contains(t, strings.Join(m.Problems, "\n"), "touch or cross near", "regions that overlap are said, and the outline stands alone")
	assert.Contains(t, string(write("regions.svg", 0)), "<title>F")
}

// The body to cut is chosen; a number too high is refused.
func TestTheBodyToCut(t *testing.T) {
	data, err := os.ReadFile("../core/exchange/step/testdata/shapes/assembly.step")
	require.NoError(t, err)
	m, err := Import(data)
	require.NoError(t, err)
	require.Greater(t, len(m.Bodies), 1)
	largest, n, err := m.Body(workplan.Setup{})
	require.NoError(t, err)
	top, _ := largest.Mass()
	for i := range m.Bodies {
		b, k, err := m.Body(workplan.Setup{Body: i + 1})
		require.NoError(t, err)
		assert.Equal(t, i, k)
		v, _ := b.Mass()
		assert.LessOrEqual(t, v, top+1e-9)
		if i == n {
			assert.Equal(t, top, v)
		}
	}
	_, _, err = m.Body(workplan.Setup{Body: len(m.Bodies) + 1})
	assert.ErrorContains(t, err, "choose one of them")
}

func TestBadMeshesAndDrawingsAreRefusedInOneLine(t *testing.T) {
	for name, data := range map[string]string{
		"open mesh":    "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid x\n",
		"bad corner":   "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0\nendloop\nendfacet\nendsolid x\n",
		"open drawing": "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nA\n10\n0\n20\n0\n11\n5\n21\n5\n0\nENDSEC\n0\nEOF\n",
	} {
		_, err := Import([]byte(data))
		require.Error(t, err, name)
		assert.NotContains(t, err.Error(), "\n")
		assert.Contains(t, err.Error(), "export", name)
	}
}

// A STEP file that gives its body as triangles is planned like the body.
func TestATessellatedFileIsAPart(t *testing.T) {
	mesh, err := load(t, lid).Bodies[0].Tessellate(0.01)
	require.NoError(t, err)
	var points, tris strings.Builder
	for i, p := range mesh.Points {
		fmt.Fprintf(&points, "%s(%.9f,%.9f,%.9f)", [2]string{",", ""}[min(1, max(0, 1-i))], p.X, p.Y, p.Z)
	}
	for i, c := range mesh.Tris {
		fmt.Fprintf(&tris, "%s(%d,%d,%d)", [2]string{",", ""}[min(1, max(0, 1-i))], c[0]+1, c[1]+1, c[2]+1)
	}
	m, err := Import([]byte("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#10=COORDINATES_LIST(''," + fmt.Sprint(len(mesh.Points)) + ",(" + points.String() +
		"));\n#11=TRIANGULATED_FACE('',#10,3,(),$,(),(" + tris.String() + "));\n#12=TESSELLATED_SHELL('',(#11),$);\nENDSEC;\nEND-ISO-10303-21;\n"))
	require.NoError(t, err)
	require.Len(t, m.Bodies, 1)
	assert.Contains(t, strings.Join(m.Problems, "\n"), "triangles alone; 38 faces were found again")
	want, _ := load(t, lid).Bodies[0].Mass()
	got, _ := m.Bodies[0].Mass()
	assert.InEpsilon(t, want, got, 1e-4)
}
