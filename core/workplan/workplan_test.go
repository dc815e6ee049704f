package workplan

import (
	"context"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"testing"

	"arete/core/exchange/step"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/machine"
	"arete/core/material"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// shop reads the demo library.
func shop(t require.TestingT) *Shop {
	data, err := os.ReadFile("../../demo/library.json")
	require.NoError(t, err)
	var l struct {
		Tools     []tooling.Tool
		Machines  []machine.Machine
		Materials []material.Material
	}
	require.NoError(t, json.Unmarshal(data, &l))
	return &Shop{Tools: l.Tools, Machine: l.Machines[0], Material: l.Materials[0]}
}

func work(t require.TestingT, path string) *Work {
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	m, err := step.Read(f)
	require.NoError(t, err)
	set, _, err := feature.Recognise(context.Background(), m.Bodies[0].Solid)
	require.NoError(t, err)
	box := m.Bodies[0].Solid.Box()
	return &Work{Features: set, Part: box, Stock: Default("", "").Setup.Stock.Around(box)}
}

const lid = "../../demo/parts/gauge-lid.step"

// Any plan by rules, for any part: facing first, every step after those of
// its feature that prepare it, edges last, and no tool fetched twice in a row.
func TestTheOrderOfWork(t *testing.T) {
	files, err := filepath.Glob("../../shop/testdata/*.step")
	require.NoError(t, err)
	more, err := filepath.Glob("../../demo/parts/*.step")
	require.NoError(t, err)
	rank := map[Operation]int{Clearing: 1, RestClearing: 2, FloorFinishing: 3, Profiling: 4}
	for _, f := range append(files, more...) {
		w, p := work(t, f), Default("", "")
		Propose(&p, shop(t), w)
		require.NotEmpty(t, p.Steps, f)
		assert.Equal(t, Facing, p.Steps[0].Op)
		last := map[string]int{}
		drilled := map[string]bool{}
		edges := false
		for i, s := range p.Steps {
			if i > 0 {
				assert.NotEqual(t, Facing, s.Op)
			}
			assert.False(t, edges && s.Op != EdgeBreaking, "%s: %s comes after the edges", f, s.Name)
			edges = edges || s.Op == EdgeBreaking
			for _, id := range s.Features {
				assert.NotNil(t, w.Features.ByID(id))
				if r := rank[s.Op]; r > 0 && s.Choice["part"] == "" {
					assert.GreaterOrEqual(t, r, last[id], "%s: %s out of order", f, s.Name)
					last[id] = r
				}
				if s.Op == Drilling {
					drilled[id] = true
				}
				assert.False(t, s.Op == SpotDrilling && drilled[id], "spot before the drill")
			}
		}
	}
}

func TestEveryNumberHasASourceAndTypedWins(t *testing.T) {
	w, sh, p := work(t, lid), shop(t), Default("", "")
	Propose(&p, sh, w)
	for i := range p.Steps {
		s := &p.Steps[i]
		n, tool, err := Resolve(&p, s, sh, w)
		require.NoError(t, err)
		assert.Equal(t, s.Tool, tool.Position)
		for _, d := range Settings {
			if !s.Op.Has(d.Key) {
				continue
			}
			v, ok := n[d.Key]
			require.True(t, ok, "%s has no %s", s.Name, d.Key)
			assert.NotEmpty(t, v.Source)
			assert.NotEmpty(t, v.Why)
			was := v.V
			require.NoError(t, s.Type(d.Key, d.Min+(d.Max-d.Min)*0.01))
			typed, _, err := Resolve(&p, s, sh, w)
			require.NoError(t, err)
			assert.Equal(t, Typed, typed[d.Key].Source)
			digit := 0.0
			if d.Unit == "mm" { // as it is posted
				digit = math.Pow10(-d.Digits)
			}
			assert.InDelta(t, d.Min+(d.Max-d.Min)*0.01, typed.Get(d.Key), digit/2+1e-12)
			delete(s.Typed, d.Key)
			back, _, err := Resolve(&p, s, sh, w)
			require.NoError(t, err)
			assert.InDelta(t, was, back.Get(d.Key), 1e-12, "handed back")
		}
	}
}

func TestPushDrivesSpeedsAndPowerLimitsDepth(t *testing.T) {
	w, sh, p := work(t, lid), shop(t), Default("", "")
	Propose(&p, sh, w)
	var clear *Step
	for i := range p.Steps {
		if p.Steps[i].Op == Clearing {
			clear = &p.Steps[i]
			break
		}
	}
	vc := func(push, grip int) float64 {
		p.Push, p.Grip = push, grip
		n, _, err := Resolve(&p, clear, sh, w)
		require.NoError(t, err)
		return n.Get("vc")
	}
	assert.Less(t, vc(0, 50), vc(50, 50))
	assert.Less(t, vc(50, 50), vc(100, 50))
	assert.Less(t, vc(50, 0), vc(50, 50), "a weak hold lowers the push")
	strong, _, err := Resolve(&p, clear, sh, w)
	require.NoError(t, err)
	sh.Machine.Power = 0.5
	weak, _, err := Resolve(&p, clear, sh, w)
	require.NoError(t, err)
	assert.Less(t, weak.Get("ap"), strong.Get("ap"))
	assert.Contains(t, weak["ap"].Why, "power")
	sh.Machine.MaxRPM = 3000
	slow, _, err := Resolve(&p, clear, sh, w)
	require.NoError(t, err)
	assert.Equal(t, 3000.0, slow.Get("n"))
	assert.Contains(t, slow["n"].Why, "limit")
}

func TestTypingOneNameTakesTheOtherBack(t *testing.T) {
	s := Step{Op: Clearing}
	require.NoError(t, s.Type("vc", 200))
	require.NoError(t, s.Type("n", 5000))
	assert.NotContains(t, s.Typed, "vc")
	require.NoError(t, s.Type("vf", 500))
	require.NoError(t, s.Type("fz", 0.1))
	assert.NotContains(t, s.Typed, "vf")
	assert.Error(t, s.Type("peck", 3), "clearing does not peck")
	assert.Error(t, s.Type("ae", -1))
	assert.Error(t, s.Pick("mode", "sideways"))
	assert.NoError(t, s.Pick("mode", "conventional"))
	assert.Equal(t, "conventional", s.Chosen("mode"))
}

// The origin is the point chosen: in the setup's coordinates it is zero.
func TestTheOriginIsWhereItWasPut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := Default("", "").Setup
		pick := rapid.IntRange(-1, 1)
		s.Origin.At = [3]int{pick.Draw(t, "x"), pick.Draw(t, "y"), pick.Draw(t, "z")}
		s.Origin.Of = rapid.SampledFrom([]string{"stock", "part"}).Draw(t, "of")
		f := rapid.Float64Range(-1, 1)
		s.Up = [3]float64{f.Draw(t, "ux"), f.Draw(t, "uy"), f.Draw(t, "uz")}
		if s.Validate() != nil || (geom.V3{X: s.Up[0], Y: s.Up[1], Z: s.Up[2]}).Len() < 0.1 {
			return
		}
		corners := geom.Box{Min: geom.V3{X: 5, Y: -7, Z: 2}, Max: geom.V3{X: 25, Y: 3, Z: 12}}.Corners()
		boxIn := func(fr geom.Frame) geom.Box {
			b := geom.EmptyBox()
			for _, c := range corners {
				b = b.Add(fr.ToLocal(c))
			}
			return b
		}
		frame := s.Frame(func(f geom.Frame) (part, stock geom.Box) { return boxIn(f), s.Stock.Around(boxIn(f)) })
		box := boxIn(frame)
		if s.Origin.Of == "stock" {
			box = s.Stock.Around(box)
		}
		at := func(lo, hi float64, k int) float64 { return lo + (hi-lo)*float64(k+1)/2 }
		require.InDelta(t, 0, at(box.Min.X, box.Max.X, s.Origin.At[0]), 1e-9)
		require.InDelta(t, 0, at(box.Min.Y, box.Max.Y, s.Origin.At[1]), 1e-9)
		require.InDelta(t, 0, at(box.Min.Z, box.Max.Z, s.Origin.At[2]), 1e-9)
		up := geom.V3{X: s.Up[0], Y: s.Up[1], Z: s.Up[2]}.Unit()
		require.InDelta(t, 0, frame.Z.Dist(up), 1e-9)
	})
}

func TestSetupsThatCannotBeSaySo(t *testing.T) {
	for field, spoil := range map[string]func(*Setup){
		"up":          func(s *Setup) { s.Up = [3]float64{} },
		"x_min":       func(s *Setup) { s.Stock.XMin = -1 },
		"origin":      func(s *Setup) { s.Origin.Of = "moon" },
		"grip":        func(s *Setup) { s.Grip = 900 },
		"work_offset": func(s *Setup) { s.WorkOffset = "G12" },
	} {
		s := Default("", "").Setup
		require.NoError(t, s.Validate())
		spoil(&s)
		var p Problem
		require.ErrorAs(t, s.Validate(), &p)
		assert.Equal(t, field, p.Field)
	}
}

func TestClonesShareNothing(t *testing.T) {
	p := Default("m", "a")
	p.Steps = []Step{{ID: "S1", Op: Clearing, Features: []string{"F1"}, Typed: map[string]float64{"ae": 1}}}
	q := p.Clone()
	q.Steps[0].Typed["ae"], q.Steps[0].Features[0] = 9, "F9"
	assert.Equal(t, 1.0, p.Steps[0].Typed["ae"])
	assert.Equal(t, "F1", p.Steps[0].Features[0])
}
