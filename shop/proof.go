package shop

import (
	"context"
	"fmt"
	"math"
	"time"

	"arete/core/blank"
	"arete/core/compare"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/nc"
	"arete/core/nc/read"
	"arete/core/nc/write"
	"arete/core/quantity"
	"arete/core/removal"
	"arete/core/tooling"
	"arete/core/workplan"
)

// Proof is the posted text, read back, simulated and compared.
type Proof struct {
	Text       write.Text
	Dialect    nc.Dialect
	ReadBack   string // the first difference, empty when equal
	Problems   []read.Problem
	Faces      []compare.Face
	Features   map[string]FeatureState
	Collisions []removal.Collision
	Removed    []float64 // by step
	Overcut    float64
	Excess     float64 // outside what is named unreachable
	Short      float64 // how far the part reaches out of its stock
	Counts     map[compare.State]int
	Grid       *removal.Grid // with its log, for the strip
	Load       []float64     // mm³/s in slots of time
	Slot       float64
	Idle       []string // steps that remove nothing
	Times      struct{ Post, Simulate time.Duration }
}

// FeatureState is a line of the ledger.
type FeatureState struct {
	State           compare.State
	Overcut, Excess float64
	Say             string // what stays or why
}

// Clean tells whether the program may be released without findings.
func (p *Proof) Clean() bool {
	return p.ReadBack == "" && len(p.Problems) == 0 && len(p.Collisions) == 0 && p.Counts[compare.Overcut] == 0 &&
		p.Counts[compare.Left] == 0 && p.Counts[compare.Uncut] == 0
}

// Findings lists in words what stands against a release.
func (p *Proof) Findings() []string {
	var out []string
	if p.ReadBack != "" {
		out = append(out, "the text does not read back as planned: "+p.ReadBack)
	}
	for i, q := range p.Problems {
		if i == 5 {
			out = append(out, fmt.Sprintf("and %d more in the text", len(p.Problems)-5))
			break
		}
		out = append(out, q.String())
	}
	for i, c := range p.Collisions {
		if i == 5 {
			out = append(out, fmt.Sprintf("and %d more contacts", len(p.Collisions)-5))
			break
		}
		out = append(out, fmt.Sprintf("%s, at %s: %s", c.Step, quantity.Clock(c.Time), c.Say))
	}
	if p.Short > compare.DefaultLimits.Overcut {
		out = append(out, fmt.Sprintf("the stock does not cover the part: up to %.2f mm of it lie outside; take larger stock or move it", p.Short))
	}
	if n := p.Counts[compare.Overcut]; n > 0 {
		out = append(out, fmt.Sprintf("%d faces are cut too deep, by up to %.3f mm", n, p.Overcut))
	}
	if n := p.Counts[compare.Left] + p.Counts[compare.Uncut]; n > 0 {
		out = append(out, fmt.Sprintf("%d faces have material left, up to %.2f mm", n, p.Excess))
	}
	return out
}

// Options steer a proof.
type Options struct {
	Cell    float64 // of the dexels, mm; 0 chooses by size
	Spacing float64 // of the samples of the comparison, mm; 0 chooses 0.6
	Title   string
	Number  int
}

// Prove posts a computed plan for its machine, reads the text back, and
// simulates and compares what was read.
func (e *Engine) Prove(ctx context.Context, r *Result, lib *Library, opt Options, progress Progress) (*Proof, error) {
	key := proofKey(r, opt)
	if p, ok := e.proofs.get(key); ok {
		return p, nil
	}
	p, err := prove(ctx, r, lib, opt, progress)
	if err == nil {
		e.proofs.put(key, p)
	}
	return p, err
}

func proofKey(r *Result, opt Options) string {
	parts := []any{r.Geometry.Key, r.Plan.Machine, r.Plan.Dialect, r.Plan.Setup.WorkOffset, r.Plan.Setup.Grip, opt}
	for _, s := range r.Steps {
		parts = append(parts, s.Key, s.Step.ID, s.Step.Name, s.Tool, s.Numbers.Get("n"), s.Fail)
	}
	return hashOf(parts...)
}

func prove(ctx context.Context, r *Result, lib *Library, opt Options, progress Progress) (*Proof, error) {
	p := &Proof{Counts: map[compare.State]int{}, Features: map[string]FeatureState{}}
	begin := time.Now()
	if err := p.post(r, lib, opt); err != nil {
		return nil, err
	}
	back := read.Read(p.Text.Body)
	p.Problems = back.Problems
	p.ReadBack = read.Equal(back, planned(r), math.Pow(10, -float64(p.Dialect.Decimals)))
	p.Times.Post = time.Since(begin)
	begin = time.Now()
	if err := p.cut(ctx, r, p.replay(r, back), opt, progress); err != nil {
		return nil, err
	}
	p.Times.Simulate = time.Since(begin)
	return p, nil
}

func (p *Proof) post(r *Result, lib *Library, opt Options) error {
	id := r.Plan.Dialect
	if id == "" {
		id = r.Shop.Machine.Dialect
	}
	var err error
	if p.Dialect, err = lib.Dialect(id); err != nil {
		return err
	}
	size := r.Geometry.Work.Stock.Size()
	stock := fmt.Sprintf("stock %.1f x %.1f x %.1f %s", size.X, size.Y, size.Z, r.Shop.Material.Name)
	if b := r.Plan.Setup.Blank; b.Kind == workplan.Bar {
		stock = fmt.Sprintf("stock round bar D%.1f x %.1f %s", b.Diameter, b.Length, r.Shop.Material.Name)
	} else if b.Kind == workplan.Body {
		stock += ", " + b.Item.Name
	}
	prog := nc.Program{Number: max(1, opt.Number), Title: opt.Title, WorkOffset: r.Plan.Setup.WorkOffset, Notes: []string{
		fmt.Sprintf("%s, %s", r.Plan.Setup.Name, r.Shop.Machine.Name),
		stock,
		fmt.Sprintf("%s zero: %s", r.Plan.Setup.WorkOffset, OriginWords(r.Plan.Setup.Origin)),
		"time " + quantity.Clock(r.Total),
	}}
	for i, s := range r.Steps {
		if len(s.Path.Moves) > 0 {
			prog.Steps = append(prog.Steps, nc.Step{ID: s.Step.ID, Title: fmt.Sprintf("%d %s", i+1, s.Step.Name), Tool: s.Tool, RPM: s.Numbers.Get("n"), Path: s.Path})
		}
	}
	p.Text, err = write.Program(prog, p.Dialect)
	return err
}

// OriginWords says where the origin is.
func OriginWords(o workplan.Origin) string {
	x := [3]string{"left", "middle", "right"}[o.At[0]+1]
	y := [3]string{"front", "middle", "back"}[o.At[1]+1]
	z := [3]string{"bottom", "mid height", "top"}[o.At[2]+1]
	s := fmt.Sprintf("%s of the %s, %s %s corner", z, o.Of, y, x)
	if o.At[0] == 0 && o.At[1] == 0 {
		s = fmt.Sprintf("%s of the %s, centre", z, o.Of)
	} else if o.At[0] == 0 || o.At[1] == 0 {
		s = fmt.Sprintf("%s of the %s, X %s, Y %s", z, o.Of, x, y)
	}
	if o.Shift != [3]float64{} {
		s += fmt.Sprintf(", shifted X%s Y%s Z%s", quantity.Format(o.Shift[0], 3), quantity.Format(o.Shift[1], 3), quantity.Format(o.Shift[2], 3))
	}
	return s
}

func planned(r *Result) []read.Planned {
	var out []read.Planned
	for _, s := range r.Steps {
		if len(s.Path.Moves) > 0 {
			out = append(out, read.Planned{Tool: s.Tool.Position, RPM: math.Round(s.Numbers.Get("n")), Moves: s.Path.Moves})
		}
	}
	return out
}

// replay groups the moves read back by step, with the times of the plan's
// machine. Moves to the home and over the work are part of what is simulated.
func (p *Proof) replay(r *Result, back read.Program) []removal.Step {
	var out []removal.Step
	high := r.Geometry.Work.Stock.Max.Z + HomeLift
	var steps []*StepResult
	for i := range r.Steps {
		if len(r.Steps[i].Path.Moves) > 0 {
			steps = append(steps, &r.Steps[i])
		}
	}
	at := geom.V3{Z: high}
	last := -1
	for _, m := range back.Moves {
		k := p.Text.Lines[min(m.Line, len(p.Text.Lines))-1].Step
		if m.Home || k < 0 || k >= len(steps) {
			at = geom.V3{X: m.To.X, Y: m.To.Y, Z: high}
			continue
		}
		if k != last {
			s := steps[k]
			tool := s.Tool
			if t := tooling.ByPosition(r.Shop.Tools, m.Tool); t != nil {
				tool = *t // what the text loads, not what was meant
			}
			out = append(out, removal.Step{ID: s.Step.ID, Tool: tool, Start: at, T0: s.T0})
			last = k
		}
		s := &out[len(out)-1]
		s.Moves = append(s.Moves, m.Move)
		at = m.To
	}
	for i := range out {
		out[i].Times = motion.Times(out[i].Moves, out[i].Start, r.Shop.Machine)
	}
	return out
}

// cut simulates the steps on dexels and compares the part with what they sweep.
func (p *Proof) cut(ctx context.Context, r *Result, steps []removal.Step, opt Options, progress Progress) error {
	g := r.Geometry
	stock := g.Work.Stock
	size := stock.Size()
	cell := opt.Cell
	if cell <= 0 {
		cell = math.Max(0.15, math.Sqrt(size.X*size.Y/90000))
	}
	p.Grid = removal.NewGrid(stock, cell)
	if b := g.Work.Blank; b != nil {
		p.Grid.Shape(blank.Heights(b.Mesh, p.Grid.Min, p.Grid.DX, p.Grid.DY, p.Grid.NX, p.Grid.NY))
	}
	p.Short = g.Short
	p.Grid.Record()
	report, err := removal.Simulate(ctx, p.Grid, steps, removal.Around{Jaws: Jaws(stock, r.Plan.Setup.Grip), Fixtures: g.Fixtures}, func(done, total int) {
		if progress != nil {
			progress(done, 2*total, "cutting the stock")
		}
	})
	if err != nil {
		return err
	}
	p.Collisions, p.Load, p.Slot = report.Collisions, report.Load, report.Slot
	p.Removed = make([]float64, len(r.Steps))
	for i, s := range steps {
		for k := range r.Steps {
			if r.Steps[k].Step.ID == s.ID {
				p.Removed[k] += report.Removed[i]
			}
		}
	}
	for k, v := range p.Removed {
		if s := r.Steps[k]; len(s.Path.Moves) > 0 && v < 0.05 && s.idle {
			p.Idle = append(p.Idle, s.Step.ID)
		}
	}
	if progress != nil {
		progress(1, 2, "comparing with the part")
	}
	var shape func(geom.V3, float64) float64
	if b := g.Work.Blank; b != nil {
		shape = b.Outside
	}
	field := compare.NewField(stock, shape)
	for i, s := range steps {
		field.Add(i, s.Tool, s.Start, s.Moves)
	}
	spacing := opt.Spacing
	if spacing <= 0 {
		spacing = math.Max(0.5, math.Sqrt(size.X*size.Y)/160)
	}
	ex := newExcuses(r)
	p.Faces, err = compare.Faces(ctx, g.Solid, g.Mesh, field, spacing, compare.DefaultLimits, ex.excused)
	if err != nil {
		return err
	}
	p.ledger(r, ex)
	return nil
}

// Jaws are the two jaws of a vise that holds the stock along Y.
func Jaws(stock geom.Box, grip float64) []removal.Jaw {
	if grip <= 0 {
		return nil
	}
	const thick = 20
	top := stock.Min.Z + grip
	front := geom.Box{Min: geom.V3{X: stock.Min.X - 5, Y: stock.Min.Y - thick, Z: stock.Min.Z - 20}, Max: geom.V3{X: stock.Max.X + 5, Y: stock.Min.Y, Z: top}}
	back := geom.Box{Min: geom.V3{X: stock.Min.X - 5, Y: stock.Max.Y, Z: stock.Min.Z - 20}, Max: geom.V3{X: stock.Max.X + 5, Y: stock.Max.Y + thick, Z: top}}
	return []removal.Jaw{{Box: front}, {Box: back}}
}

// ledger sums the faces up by feature and over the part.
func (p *Proof) ledger(r *Result, ex *excuses) {
	set := r.Geometry.Work.Features
	for i := range p.Faces {
		f := &p.Faces[i]
		p.Counts[f.State]++
		if f.State != compare.Unreachable {
			p.Overcut = math.Max(p.Overcut, f.Overcut)
			p.Excess = math.Max(p.Excess, f.Excess)
		}
	}
	for _, f := range set.Features {
		p.Features[f.ID] = p.featureState(f, ex)
	}
}

// severity orders states from harmless to bad.
var severity = map[compare.State]int{compare.Finished: 0, compare.Unreachable: 1, compare.Left: 2, compare.Uncut: 3, compare.Overcut: 4}

func (p *Proof) featureState(f *feature.Feature, ex *excuses) FeatureState {
	s := FeatureState{State: compare.Finished}
	all := true
	excused := false
	for _, i := range f.Faces {
		c := p.Faces[i]
		s.Overcut, s.Excess = math.Max(s.Overcut, c.Overcut), math.Max(s.Excess, c.Excess)
		if severity[c.State] > severity[s.State] {
			s.State = c.State
		}
		all = all && c.State == compare.Unreachable
		excused = excused || c.Excused
	}
	switch {
	case s.State == compare.Unreachable && !all:
		s.State = compare.Finished
		s.Say = ex.say(f)
	case s.State == compare.Unreachable:
		s.Say = f.Why
	case s.State == compare.Overcut:
		s.Say = fmt.Sprintf("%.3f mm too deep", s.Overcut)
	case s.State == compare.Left || s.State == compare.Uncut:
		s.Say = fmt.Sprintf("up to %.2f mm left", s.Excess)
		if s.Excess >= compare.Range-1e-6 {
			s.Say = fmt.Sprintf("more than %.0f mm left", float64(compare.Range))
		}
	case excused:
		s.Say = ex.say(f)
	}
	return s
}
