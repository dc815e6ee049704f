package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"arete/core/compare"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/workplan"
	"arete/demo"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A draw computes a whole plan: fewer than elsewhere.
func TestMain(m *testing.M) {
	flag.Parse()
	if f := flag.Lookup("rapid.checks"); f != nil && f.Value.String() == f.DefValue {
		_ = f.Value.Set("20")
	}
	os.Exit(m.Run())
}

func library(t require.TestingT) *Library {
	l, err := ReadLibrary(demo.Library)
	require.NoError(t, err)
	return l
}

func load(t require.TestingT, path string) *Model {
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	m, err := Import(data)
	require.NoError(t, err)
	return m
}

// worked is a part planned by rules and computed.
type worked struct {
	m    *Model
	lib  *Library
	plan workplan.Plan
	e    *Engine
	r    *Result
}

func work(t require.TestingT, path string, change func(*workplan.Plan)) *worked {
	w := &worked{m: load(t, path), lib: library(t), e: NewEngine()}
	w.plan = workplan.Default(w.lib.Machines[0].ID, w.lib.Materials[0].ID)
	if change != nil {
		change(&w.plan)
	}
	_, err := w.e.Propose(context.Background(), w.m, &w.plan, w.lib)
	require.NoError(t, err)
	w.compute(t)
	return w
}

func (w *worked) compute(t require.TestingT) {
	var err error
	w.r, err = w.e.Compute(context.Background(), w.m, w.plan, w.lib, nil)
	require.NoError(t, err)
}

func (w *worked) prove(t require.TestingT) *Proof {
	p, err := w.e.Prove(context.Background(), w.r, w.lib, Options{Title: "trial"}, nil)
	require.NoError(t, err)
	return p
}

func find(p *workplan.Plan, op workplan.Operation, name string) *workplan.Step {
	for i := range p.Steps {
		if p.Steps[i].Op == op && strings.Contains(p.Steps[i].Name, name) {
			return &p.Steps[i]
		}
	}
	return nil
}

var lid = filepath.Join("..", "demo", "parts", "gauge-lid.step")

// Every demo and trial part, in each dialect and material, comes out proven.
func TestPartsComeOutProven(t *testing.T) {
	var files []string
	for _, pattern := range []string{"../demo/parts/*.step", "testdata/*.step"} {
		f, err := filepath.Glob(pattern)
		require.NoError(t, err)
		files = append(files, f...)
	}
	require.GreaterOrEqual(t, len(files), 9)
	for i, f := range files {
		t.Run(filepath.Base(f), func(t *testing.T) {
			w := work(t, f, func(p *workplan.Plan) {
				if i%2 == 1 {
					p.Machine, p.Material = "old-mill-3", "c45"
				}
			})
			p := w.prove(t)
			assert.Empty(t, p.Findings())
			assert.LessOrEqual(t, p.Overcut, 0.01)
			assert.LessOrEqual(t, p.Excess, 0.05)
			assert.Empty(t, p.Idle, "no step cuts air")
			for _, s := range w.r.Steps {
				assert.Empty(t, s.Fail)
			}
		})
	}
}

// The dexels of the read-back program against the height of the part under
// each dexel, found by dropping a line through its triangles: a second judge
// that shares nothing with the comparison.
func TestDexelsStandOnThePart(t *testing.T) {
	w := work(t, lid, nil)
	p := w.prove(t)
	g, m := p.Grid, w.r.Geometry.Mesh
	top := make([]float64, len(g.Z))
	near := make([]bool, len(g.Z))
	for i := range top {
		top[i] = -1e9
	}
	for _, tri := range m.Tris {
		a, b, c := m.Points[tri[0]], m.Points[tri[1]], m.Points[tri[2]]
		den := b.Sub(a).XY().Cross(c.Sub(a).XY())
		if den <= 1e-9 {
			continue
		}
		for j := 0; j < g.NY; j++ {
			for i := 0; i < g.NX; i++ {
				q := g.Center(i, j)
				u := b.XY().Sub(q).Cross(c.XY().Sub(q)) / den
				v := c.XY().Sub(q).Cross(a.XY().Sub(q)) / den
				if u >= 0 && v >= 0 && u+v <= 1 {
					k := j*g.NX + i
					top[k] = max(top[k], u*a.Z+v*b.Z+(1-u-v)*c.Z)
				}
			}
		}
	}
	for j := 1; j+1 < g.NY; j++ { // beside walls a chord may stand for the arc
		for i := 1; i+1 < g.NX; i++ {
			for _, d := range [][2]int{{0, 1}, {1, 0}, {0, -1}, {-1, 0}} {
				if abs(top[(j+d[1])*g.NX+i+d[0]]-top[j*g.NX+i]) > 0.01 {
					near[j*g.NX+i] = true
				}
			}
		}
	}
	checked := 0
	for k := range top {
		if top[k] > -1e8 && !near[k] {
			assert.InDelta(t, top[k], float64(g.Z[k]), 0.01)
			checked++
		}
	}
	assert.Greater(t, checked, len(top)/2)
}

func abs(v float64) float64 { return max(v, -v) }

// A fault put into the plan must be found and named.
func TestFaultsAreFound(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(*workplan.Plan)
		state compare.State
		say   string
	}{
		"top too deep":    {func(p *workplan.Plan) { _ = find(p, workplan.Facing, "Face").Type("bottom", -1.2) }, compare.Overcut, "cut too deep, by up to 0.200"},
		"wall left thick": {func(p *workplan.Plan) { _ = find(p, workplan.Profiling, "pocket").Type("side", 0.12) }, compare.Left, "up to 0.12"},
		"no drilling":     {func(p *workplan.Plan) { find(p, workplan.Drilling, "Drill").Off = true }, compare.Uncut, "material left"},
		"wrong drill":     {func(p *workplan.Plan) { find(p, workplan.Drilling, "Drill").Tool = 19 }, compare.Overcut, "0.100"},
	} {
		t.Run(name, func(t *testing.T) {
			w := work(t, lid, nil)
			c.spoil(&w.plan)
			w.compute(t)
			p := w.prove(t)
			assert.False(t, p.Clean())
			assert.Positive(t, p.Counts[c.state], "%v", p.Counts)
			assert.Contains(t, strings.Join(p.Findings(), "; "), c.say)
		})
	}
}

func TestHolderContactIsFound(t *testing.T) {
	w := work(t, lid, nil)
	for i := range w.lib.Tools {
		if w.lib.Tools[i].Position == 3 {
			w.lib.Tools[i].APMX, w.lib.Tools[i].Stickout = 8, 9
		}
	}
	w.compute(t)
	p := w.prove(t)
	require.NotEmpty(t, p.Collisions)
	assert.Equal(t, "holder", p.Collisions[0].Kind)
}

func TestDuplicateStepIsMarkedAsIdle(t *testing.T) {
	w := work(t, lid, nil)
	d := find(&w.plan, workplan.Clearing, "pocket").Clone()
	d.ID = w.plan.NewID()
	w.plan.Steps = append(w.plan.Steps, d)
	w.compute(t)
	assert.NotEmpty(t, w.r.Step(d.ID).Problems, "nothing is left to cut, and it says so")
	walls := find(&w.plan, workplan.Profiling, "pocket").Clone()
	walls.ID = w.plan.NewID()
	w.plan.Steps = append(w.plan.Steps, walls)
	w.compute(t)
	assert.Contains(t, w.prove(t).Idle, walls.ID)
}

func TestAnEditRecomputesWhatFollowsAndNothingElse(t *testing.T) {
	w := work(t, lid, nil)
	var computed []string
	w.e.Computed = func(id string) { computed = append(computed, id) }
	w.compute(t)
	assert.Empty(t, computed, "nothing changed")
	finish := find(&w.plan, workplan.Profiling, "pocket")
	require.NoError(t, finish.Type("vf", 500))
	w.compute(t)
	assert.Equal(t, []string{finish.ID}, computed, "a feed changes one path")
	computed = nil
	finish.Name = "renamed"
	require.NoError(t, finish.Type("n", 5000))
	w.plan.Push = 50
	w.compute(t)
	assert.NotContains(t, computed, w.plan.Steps[0].ID)
	require.NoError(t, w.plan.Steps[0].Type("ae", 20))
	computed = nil
	w.compute(t)
	assert.Equal(t, []string{w.plan.Steps[0].ID}, computed, "facing clears the same, whatever its width")
}

func TestBadStepsSayWhyAndTheOthersGoOn(t *testing.T) {
	w := work(t, lid, nil)
	for i := range w.lib.Tools {
		if w.lib.Tools[i].Position == 8 {
			w.lib.Tools[i].DC = 0
		}
	}
	require.NoError(t, find(&w.plan, workplan.Clearing, "outside").Type("bottom", -40))
	require.NoError(t, find(&w.plan, workplan.FloorFinishing, "floor").Type("bottom", -13.2))
	find(&w.plan, workplan.Drilling, "Drill").Tool = 99
	find(&w.plan, workplan.SpotDrilling, "Spot").Features = nil
	w.compute(t)
	fails := map[string]string{}
	ok := 0
	for _, s := range w.r.Steps {
		if s.Fail != "" {
			fails[s.Step.Name] = s.Fail
		} else {
			ok++
		}
	}
	assert.Contains(t, fails["Clear outside"], "below the stock: the tool would cut the table")
	assert.Contains(t, fails["Finish floor of pocket 56 × 43, 12 deep"], "0.200 mm below the floor")
	assert.Contains(t, fails["Drill ⌀6.6, 4×"], "T99 is not in the magazine")
	assert.Contains(t, fails["Spot 4 holes"], "pick at least one feature")
	assert.Contains(t, fails["Mill hole ⌀4.2 × 10"], "diameter between 0 and 500")
	assert.Greater(t, ok, 3)
}

// Numbers that would take minutes to compute are refused at once, by name.
func TestNumbersWithoutEndAreRefused(t *testing.T) {
	w := work(t, lid, nil)
	pocket := find(&w.plan, workplan.Clearing, "pocket")
	for _, c := range []struct {
		key, say string
		v        float64
		tool     int
	}{
		{"ae", "only rubs with a tool of ⌀", 0.01, 12},
		{"ap", "would take more than 500 passes", 0.011, pocket.Tool},
	} {
		step := *pocket
		require.NoError(t, pocket.Type(c.key, c.v))
		pocket.Tool = c.tool
		w.compute(t)
		for _, s := range w.r.Steps {
			if s.Step.ID == pocket.ID {
				assert.Contains(t, s.Fail, c.say)
			}
		}
		*pocket = step
		delete(pocket.Typed, c.key)
	}
}

// Whatever is typed, the program reads back as planned and nothing panics.
func TestAnyEditReadsBack(t *testing.T) {
	base := work(t, lid, nil)
	rapid.Check(t, func(t *rapid.T) {
		w := *base
		w.plan = base.plan.Clone()
		s := &w.plan.Steps[rapid.IntRange(0, len(w.plan.Steps)-1).Draw(t, "step")]
		for i := 0; i < 2; i++ {
			d := rapid.SampledFrom(workplan.Settings).Draw(t, "setting")
			v := rapid.OneOf(rapid.Float64Range(d.Min, min(d.Max, d.Min+30)), rapid.Float64Range(-30, 6)).Draw(t, "value")
			_ = s.Type(d.Key, v)
		}
		s.Tool = rapid.IntRange(1, 25).Draw(t, "tool")
		w.compute(t)
		p, err := prove(context.Background(), w.r, w.lib, Options{Cell: 3, Spacing: 10}, nil)
		require.NoError(t, err)
		require.Empty(t, p.ReadBack)
		require.Empty(t, p.Problems)
	})
}

func TestTheSameInputGivesTheSameBytes(t *testing.T) {
	var last []byte
	for i := 0; i < 2; i++ {
		w := work(t, lid, nil)
		p := w.prove(t)
		out, err := json.Marshal(MakeReport("lid.step", w.m, w.r, p, "a.nc", nil))
		require.NoError(t, err)
		out = append(out, p.Text.Body...)
		if last != nil {
			assert.True(t, bytes.Equal(last, out))
		}
		last = out
	}
}

func TestTheOriginMovesTheProgramAndNothingElse(t *testing.T) {
	a := work(t, lid, nil)
	b := work(t, lid, func(p *workplan.Plan) {
		p.Setup.Origin = workplan.Origin{Of: "part", At: [3]int{0, 0, -1}, Shift: [3]float64{1, 2, 3}}
	})
	assert.Empty(t, b.prove(t).Findings())
	size := a.r.Geometry.Work.Part.Size()
	want := geom.V3{X: -size.X/2 - 1, Y: -size.Y/2 - 2, Z: -3}
	assert.InDelta(t, 0, b.r.Geometry.Work.Part.Min.Dist(want), 1e-9)
	ma := a.r.Step(find(&a.plan, workplan.Profiling, "outside").ID).Path.Moves
	mb := b.r.Step(find(&b.plan, workplan.Profiling, "outside").ID).Path.Moves
	assert.InDelta(t, pathLen(ma), pathLen(mb), 1e-3)
}

func pathLen(moves []motion.Move) float64 {
	l := 0.0
	for i := 1; i < len(moves); i++ {
		l += moves[i].Len(moves[i-1].To)
	}
	return l
}

func TestProveTextFindsATamperedProgram(t *testing.T) {
	w := work(t, lid, nil)
	p := w.prove(t)
	same, err := ProveText(context.Background(), w.r, p.Text.Body)
	require.NoError(t, err)
	assert.True(t, same.Clean())
	bad, err := ProveText(context.Background(), w.r, strings.Replace(p.Text.Body, "Z-13. ", "Z-13.4 ", 1))
	require.NoError(t, err)
	assert.InDelta(t, 0.4, bad.Overcut, 1e-6)
}
