package shop

import (
	"bytes"
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/exchange/stl"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/planar"
	"arete/core/workplan"
)

// plate is a block of 80 × 50 × 20 mm, top at Z0, with a pocket of 30 × 20 × 8
// with corners R6; more is what stands on all of its surfaces.
func plate(t *testing.T, more float64) *brep.Solid {
	box := planar.Offset(planar.Region{planar.Rect(0, 0, 80, 50)}, more, planar.DefaultTolerance)
	pocket := planar.Offset(planar.Region{planar.Rect(46, 21, 64, 29)}, 6-more, planar.DefaultTolerance)
	s, err := drawing.Solids([]drawing.Chain{{Layer: "o", Loop: box[0]}, {Layer: "p", Loop: pocket[0]}},
		[]drawing.Level{{Layer: "o", Top: more, Depth: 20 + more + 6*math.Min(1, more)}, {Layer: "p", Top: more, Depth: 8}})
	require.NoError(t, err)
	return s[0]
}

func stlOf(t *testing.T, m *mesh.Mesh) []byte {
	var b bytes.Buffer
	require.NoError(t, stl.WriteBinary(&b, m, "casting"))
	return b.Bytes()
}

func tessellated(t *testing.T, s *brep.Solid) *mesh.Mesh {
	m, err := s.Tessellate(0.001)
	require.NoError(t, err)
	return m
}

// casting plans the plate out of its casting, given as a mesh.
func casting(t *testing.T, stock *mesh.Mesh, change func(*workplan.Plan)) (*worked, *Proof) {
	m, err := Import(stlOf(t, tessellated(t, plate(t, 0))))
	require.NoError(t, err)
	a, err := m.Attach("casting.stl", stlOf(t, stock))
	require.NoError(t, err)
	w := &worked{m: m, lib: library(t), e: NewEngine()}
	w.plan = workplan.Default(w.lib.Machines[0].ID, w.lib.Materials[0].ID)
	w.plan.Setup.Blank = workplan.Blank{Kind: workplan.Body, Item: workplan.Item{File: a.Hash, Name: a.Name}}
	if change != nil {
		change(&w.plan)
	}
	_, err = w.e.Propose(context.Background(), m, &w.plan, w.lib)
	require.NoError(t, err)
	w.compute(t)
	return w, w.prove(t)
}

// A casting with 1.5 mm all around: what is cut is what it has more than the
// part, down to the break-through, and no more.
func TestACastingIsCutToThePart(t *testing.T) {
	stock := plate(t, 1.5)
	w, p := casting(t, tessellated(t, stock), nil)
	assert.Empty(t, p.Findings())
	assert.InDelta(t, 83, w.r.Geometry.Work.Stock.Size().X, 1e-3)
	below := 6 - workplan.BreakThrough
	ring := 83*53.0 - 80*50 - (4-math.Pi)*1.5*1.5
	part, _ := plate(t, 0).Mass()
	all, _ := stock.Mass()
	assert.InEpsilon(t, all-part-below*ring-80*50*6, total(p.Removed), 0.02)
}

func total(v []float64) float64 {
	sum := 0.0
	for _, x := range v {
		sum += x
	}
	return sum
}

// The same casting with a waviness that no plain faces can be found in.
func TestARoughCastingIsStockToo(t *testing.T) {
	m := tessellated(t, plate(t, 1.5))
	for range 4 {
		m = divided(m)
	}
	for i, p := range m.Points {
		m.Points[i] = p.Add(geom.V3{X: 0.2 * math.Sin(p.Y+p.Z), Y: 0.2 * math.Sin(p.X), Z: 0.2 * math.Sin(p.X+2*p.Y)})
	}
	w, p := casting(t, m, nil)
	require.NotNil(t, w.r.Geometry.Work.Blank)
	assert.Empty(t, p.Findings())
}

// divided cuts every triangle in four.
func divided(m *mesh.Mesh) *mesh.Mesh {
	out := &mesh.Mesh{Points: append([]geom.V3{}, m.Points...)}
	mid := map[[2]int32]int32{}
	at := func(a, b int32) int32 {
		k := [2]int32{min(a, b), max(a, b)}
		if _, ok := mid[k]; !ok {
			mid[k] = int32(len(out.Points))
			out.Points = append(out.Points, m.Points[a].Lerp(m.Points[b], 0.5))
		}
		return mid[k]
	}
	for _, t := range m.Tris {
		a, b, c := at(t[0], t[1]), at(t[1], t[2]), at(t[2], t[0])
		out.Tris = append(out.Tris, [3]int32{t[0], a, c}, [3]int32{t[1], b, a}, [3]int32{t[2], c, b}, [3]int32{a, b, c})
	}
	return out
}

// What the stock has already is not cut again; where it is too small is told.
func TestStockTellsWhatItHasAndLacks(t *testing.T) {
	w, _ := casting(t, tessellated(t, plate(t, 0)), nil)
	assert.Empty(t, w.plan.Steps, "stock that is the part leaves nothing to do")
	_, p := casting(t, tessellated(t, plate(t, -0.5)), nil)
	require.NotEmpty(t, p.Findings())
	assert.Contains(t, p.Findings()[0], "does not cover the part: up to 3.08 mm")
	giant := tessellated(t, plate(t, 0))
	for i := range giant.Points {
		giant.Points[i] = giant.Points[i].Mul(1e3)
	}
	_, err := Attach("giant.stl", stlOf(t, giant))
	assert.ErrorContains(t, err, "check its unit")
	_, err = Attach("open.stl", stlOf(t, &mesh.Mesh{Points: []geom.V3{{}, {X: 1}, {Y: 1}}, Tris: [][3]int32{{0, 1, 2}}}))
	assert.Error(t, err)
}

func TestARoundBarIsStock(t *testing.T) {
	w := work(t, lid, func(p *workplan.Plan) {
		p.Setup.Blank = workplan.Blank{Kind: workplan.Bar, Diameter: 125, Length: 28}
	})
	p := w.prove(t)
	assert.Empty(t, p.Findings())
	assert.InEpsilon(t, math.Pi*62.5*62.5*28, w.e.volumeAt(p, 0), 0.01)
	w.plan.Setup.Blank.Diameter = math.NaN()
	_, err := w.e.Geometry(context.Background(), w.m, w.plan.Setup)
	assert.ErrorContains(t, err, "between 1 and 2000")
}

func (e *Engine) volumeAt(p *Proof, t float64) float64 { return p.Grid.Mesh(p.Grid.At(t)).Volume() }

// A clamp on the top face stands in the way: found, and gone with the clamp.
func TestAFixtureInTheWayIsFound(t *testing.T) {
	w := work(t, lid, nil)
	s, err := drawing.Solids([]drawing.Chain{{Layer: "c", Loop: planar.Rect(30, -20, 50, 12)}}, []drawing.Level{{Layer: "c", Top: 30, Depth: 12}})
	require.NoError(t, err)
	a, err := w.m.Attach("clamp.stl", stlOf(t, tessellated(t, s[0])))
	require.NoError(t, err)
	w.plan.Setup.Fixtures = []workplan.Item{{File: a.Hash, Name: a.Name}}
	w.compute(t)
	for _, s := range w.r.Steps {
		assert.InDelta(t, w.r.Geometry.Work.High+5, s.Numbers.Get("clearance"), 1e-9, "rapids go over the clamp")
	}
	p := w.prove(t)
	kinds := map[string]int{}
	for _, c := range p.Collisions {
		kinds[c.Kind]++
	}
	assert.Positive(t, kinds["fixture"])
	assert.False(t, p.Clean())
	assert.Contains(t, p.Findings()[0], "clamp.stl")
	w.plan.Setup.Fixtures = []workplan.Item{{Body: 1}}
	_, err = w.e.Compute(context.Background(), w.m, w.plan, w.lib, nil)
	assert.ErrorContains(t, err, "not the one to cut")
}

// Of any stock that covers the part, as it comes or off centre, the program
// reads back, meets nothing, and leaves the part as of a block.
func TestAnyStockThatCoversThePart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := load(t, lid)
		box := m.Bodies[0].Box()
		at := rapid.Float64Range(0.5, 12)
		lo := box.Min.Sub(geom.V3{X: at.Draw(t, "x-"), Y: at.Draw(t, "y-"), Z: 7})
		hi := box.Max.Add(geom.V3{X: at.Draw(t, "x+"), Y: at.Draw(t, "y+"), Z: rapid.Float64Range(0.2, 6).Draw(t, "z+")})
		loop := planar.Rect(lo.X, lo.Y, hi.X, hi.Y)
		if rapid.Bool().Draw(t, "round") {
			c := box.Center().XY().Add(geom.V2{X: at.Draw(t, "dx"), Y: at.Draw(t, "dy")})
			loop = planar.Circle(c, 62+c.Dist(box.Center().XY()))
		}
		solids, err := drawing.Solids([]drawing.Chain{{Layer: "s", Loop: loop}}, []drawing.Level{{Layer: "s", Top: hi.Z, Depth: hi.Z - lo.Z}})
		require.NoError(t, err)
		mesh, err := solids[0].Tessellate(0.01)
		require.NoError(t, err)
		var file bytes.Buffer
		require.NoError(t, stl.WriteBinary(&file, mesh, "stock"))
		a, err := m.Attach("stock.stl", file.Bytes())
		require.NoError(t, err)
		w := &worked{m: m, lib: library(t), e: NewEngine(), plan: workplan.Default("mill-1", "al6082")}
		w.plan.Machine, w.plan.Material = w.lib.Machines[0].ID, w.lib.Materials[0].ID
		w.plan.Setup.Blank = workplan.Blank{Kind: workplan.Body, Item: workplan.Item{File: a.Hash, Name: a.Name}}
		_, err = w.e.Propose(context.Background(), m, &w.plan, w.lib)
		require.NoError(t, err)
		w.compute(t)
		p, err := prove(context.Background(), w.r, w.lib, Options{Cell: 0.6, Spacing: 4}, nil)
		require.NoError(t, err)
		require.Empty(t, p.Findings())
	})
}

// A hole whose mouth lies under stock that still stands is drilled from above
// that stock: the counterbore of a hole made a feature of its own, and milled
// after the drilling.
func TestDrillsStayAboveWhatStands(t *testing.T) {
	w := work(t, lid, nil)
	g := w.r.Geometry
	wide := -1
	for i, f := range g.Solid.Faces {
		if c, round := f.Surface.(brep.Cylinder); round && c.R == 5.5 && !f.Same {
			wide = i
		}
	}
	require.GreaterOrEqual(t, wide, 0)
	w.plan.Setup.Groups = []feature.Group{{Act: feature.Own, Faces: []int{wide}}}
	after, err := w.e.Geometry(context.Background(), w.m, w.plan.Setup)
	require.NoError(t, err)
	now := make([]int, len(g.Solid.Faces))
	for i := range now {
		now[i] = i
	}
	follow(&w.plan, g.Work.Features, after.Work.Features, now)
	drill := find(&w.plan, workplan.Drilling, "6.6")
	require.NotNil(t, drill)
	var bore *feature.Feature
	for _, id := range drill.Features {
		if f := after.Work.Features.ByID(id); f.Params.Counterbore.Diameter == 0 {
			bore = f
		}
	}
	require.NotNil(t, bore, "the bore stays with the drill")
	w.compute(t)
	for _, c := range w.r.Step(drill.ID).Path.Cycles {
		want := g.Work.Part.Max.Z + 2 // what stands there was faced
		if c.XY.Dist(bore.Params.Center.XY()) < 1e-6 {
			assert.Less(t, bore.Params.Center.Z, want-3)
		}
		assert.InDelta(t, want, c.R, 1e-9)
	}
	assert.Empty(t, w.prove(t).Findings())
}
