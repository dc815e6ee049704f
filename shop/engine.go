package shop

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"
	"sort"

	"arete/core/cutting"
	"arete/core/geom"
	"arete/core/motion"
	"arete/core/process"
	"arete/core/quantity"
	"arete/core/tooling"
	"arete/core/workplan"
)

// StepResult is what was computed for one step.
type StepResult struct {
	Step     workplan.Step
	Key      string // hash of all that it depends on
	Numbers  workplan.Numbers
	Tool     tooling.Tool
	Path     motion.Path
	Start    geom.V3
	Change   bool    // the tool is changed before it
	T0       float64 // start of its first move, s
	Times    []float64
	Time     float64 // with its tool change, s
	CutLen   float64 // mm at feed
	Load     cutting.Load
	Problems []string
	Fail     string // why there is no path
	Cached   bool
	cleared  []process.Cleared
	idle     bool   // what it clears was clear before, as far as regions tell
	mark     string // hash of what it clears
}

// Result is a computed plan.
type Result struct {
	Geometry *Geometry
	Plan     workplan.Plan
	Shop     workplan.Shop
	Steps    []StepResult // without those switched off
	Total    float64      // s
}

// Engine computes plans and keeps what it has computed, by content.
type Engine struct {
	geometry *memo[*Geometry]
	paths    *memo[stepPath]
	proofs   *memo[*Proof]
	Computed func(id string) // told of each step that was not in the cache
}

// stepPath is the part of a step's result that is kept.
type stepPath struct {
	path     motion.Path
	cleared  []process.Cleared
	problems []string
	idle     bool
	mark     string
}

// NewEngine returns an engine with an empty cache.
func NewEngine() *Engine {
	return &Engine{geometry: newMemo[*Geometry](24), paths: newMemo[stepPath](800), proofs: newMemo[*Proof](12)}
}

// Progress reports work done, of total, on what.
type Progress func(done, total int, what string)

// Geometry places a model, or returns it from the cache.
func (e *Engine) Geometry(ctx context.Context, m *Model, s workplan.Setup) (*Geometry, error) {
	key := geometryKey(m, s)
	if g, ok := e.geometry.get(key); ok {
		return g, nil
	}
	g, err := Place(ctx, m, s)
	if err == nil {
		e.geometry.put(key, g)
	}
	return g, err
}

// Propose makes a first plan by rules; notes say what it cannot make.
func (e *Engine) Propose(ctx context.Context, m *Model, p *workplan.Plan, lib *Library) (notes []string, err error) {
	shop, err := lib.shop(p)
	if err != nil {
		return nil, err
	}
	g, err := e.Geometry(ctx, m, p.Setup)
	if err != nil {
		return nil, err
	}
	return workplan.Propose(p, &shop, &g.Work), nil
}

func (l *Library) shop(p *workplan.Plan) (workplan.Shop, error) {
	mc, err := l.Machine(p.Machine)
	if err != nil {
		return workplan.Shop{}, err
	}
	mat, err := l.Material(p.Material)
	return workplan.Shop{Tools: l.Tools, Machine: mc, Material: mat}, err
}

// Compute works out every step of a plan. A step that cannot be worked out
// carries the reason and no path; the others go on.
func (e *Engine) Compute(ctx context.Context, m *Model, p workplan.Plan, lib *Library, progress Progress) (*Result, error) {
	shop, err := lib.shop(&p)
	if err != nil {
		return nil, err
	}
	g, err := e.Geometry(ctx, m, p.Setup)
	if err != nil {
		return nil, err
	}
	r := &Result{Geometry: g, Plan: p, Shop: shop}
	var before []process.Cleared
	chain := g.Key
	for i := range p.Steps {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if p.Steps[i].Off {
			continue
		}
		if progress != nil {
			progress(i, len(p.Steps), p.Steps[i].Name)
		}
		s, err := e.step(ctx, r, &p.Steps[i], before, chain, progress, i)
		if err != nil {
			return nil, err
		}
		if len(s.cleared) > 0 {
			before = append(before[:len(before):len(before)], s.cleared...)
			chain = hashOf(chain, s.mark)
		}
		r.Steps = append(r.Steps, s)
	}
	r.timeAll()
	return r, nil
}

func (e *Engine) step(ctx context.Context, r *Result, st *workplan.Step, before []process.Cleared, chain string, progress Progress, at int) (StepResult, error) {
	s := StepResult{Step: st.Clone()}
	numbers, tool, err := workplan.Resolve(&r.Plan, st, &r.Shop, &r.Geometry.Work)
	if err != nil {
		s.Fail = err.Error()
		if t := tooling.ByPosition(r.Shop.Tools, st.Tool); t != nil {
			s.Tool = *t
		}
		return s, nil
	}
	s.Numbers, s.Tool = numbers, *tool
	s.Key = stepKey(chain, st, numbers, tool)
	kept, ok := e.paths.get(s.Key)
	s.Cached = ok
	if !ok {
		if e.Computed != nil {
			e.Computed(st.ID)
		}
		inner := func(done, total int) {
			if progress != nil {
				progress(at*1000+done*1000/max(1, total), len(r.Plan.Steps)*1000, st.Name)
			}
		}
		res, err := process.Make(ctx, process.Input{Step: *st, Numbers: numbers, Tool: *tool, Work: &r.Geometry.Work, Shadow: r.Geometry.Shadow, Before: before}, inner)
		if ctx.Err() != nil {
			return s, ctx.Err()
		}
		if err != nil {
			s.Fail = err.Error()
			return s, nil
		}
		kept = stepPath{res.Path, res.Cleared, res.Problems, res.Idle, clearedMark(res.Cleared)}
		e.paths.put(s.Key, kept)
	}
	s.Path, s.cleared, s.Problems, s.idle, s.mark = kept.path, kept.cleared, kept.problems, kept.idle, kept.mark
	s.Load = r.load(&s)
	return s, nil
}

// clearedMark hashes what a step clears. Later steps depend on that alone: an
// edit that clears the same leaves them as they are.
func clearedMark(list []process.Cleared) string {
	h := sha256.New()
	put := func(v ...float64) {
		var b [8]byte
		for _, x := range v {
			binary.LittleEndian.PutUint64(b[:], math.Float64bits(x))
			h.Write(b[:])
		}
	}
	for _, c := range list {
		put(c.Z, float64(len(c.Region)))
		for _, l := range c.Region {
			put(float64(len(l)))
			for _, s := range l {
				put(s.A.X, s.A.Y, s.B.X, s.B.Y, s.C.X, s.C.Y, float64(s.Turn))
			}
		}
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}

// stepKey names all that a step's path depends on. Spindle speed is not among
// it; the name is not either.
func stepKey(chain string, st *workplan.Step, n workplan.Numbers, t *tooling.Tool) string {
	keys := make([]string, 0, len(n))
	for k := range n {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	parts := []any{chain, st.Op, st.Features, t.Kind, t.DC, t.RE, t.SIG, t.Tip, len(st.Typed)}
	for _, k := range keys {
		if k != "n" && k != "vc" && k != "fz" {
			parts = append(parts, k, n[k].V)
		}
	}
	for _, c := range workplan.Choices {
		parts = append(parts, st.Chosen(c.Key))
	}
	parts = append(parts, st.Choice["part"])
	if _, typed := st.Typed["bottom"]; typed {
		parts = append(parts, "typed bottom")
	}
	if _, typed := st.Typed["top"]; typed {
		parts = append(parts, "typed top")
	}
	return hashOf(parts...)
}

func (r *Result) load(s *StepResult) cutting.Load {
	n, vf := s.Numbers.Get("n"), s.Numbers.Get("vf")
	if s.Step.Op == workplan.Drilling || s.Step.Op == workplan.SpotDrilling {
		return cutting.Drilling(s.Tool, r.Shop.Material, r.Shop.Machine, n, vf)
	}
	ap, ae := s.Numbers.Get("ap"), s.Numbers.Get("ae")
	switch s.Step.Op {
	case workplan.Profiling:
		ae = 0.3
	case workplan.FloorFinishing:
		ap = 0.2
	case workplan.EdgeBreaking:
		ap, ae = 0.5, 0.5
	}
	return cutting.Milling(s.Tool, r.Shop.Material, r.Shop.Machine, ap, ae, n, vf)
}

// HomeLift is how far above the stock the spindle is taken to stand when at
// home, mm: the program does not say where that is.
const HomeLift = 100

// timeAll lays the steps on the axis of time.
func (r *Result) timeAll() {
	t, tool := 0.0, 0
	at := geom.V3{Z: r.Geometry.Work.Stock.Max.Z + HomeLift}
	mc := r.Shop.Machine
	for i := range r.Steps {
		s := &r.Steps[i]
		begin := t
		if len(s.Path.Moves) > 0 {
			s.Change = s.Tool.Position != tool
			if s.Change {
				t += mc.ToolChange + mc.Spindle
				first := s.Path.Moves[0].To
				at = geom.V3{X: first.X, Y: first.Y, Z: r.Geometry.Work.Stock.Max.Z + HomeLift}
			}
			tool = s.Tool.Position
		}
		s.Start, s.T0 = at, t
		s.Times = motion.Times(s.Path.Moves, at, mc)
		for k, m := range s.Path.Moves {
			t += s.Times[k]
			if m.Kind != motion.Rapid {
				s.CutLen += m.Len(at)
			}
			at = m.To
		}
		s.Time = t - begin
	}
	r.Total = t
}

// Step returns the result of a step, nil when it is switched off or missing.
func (r *Result) Step(id string) *StepResult {
	for i := range r.Steps {
		if r.Steps[i].Step.ID == id {
			return &r.Steps[i]
		}
	}
	return nil
}

// Lowest returns how deep the tip goes, mm in setup coordinates.
func (s *StepResult) Lowest() float64 {
	z := s.Start.Z
	for _, m := range s.Path.Moves {
		z = math.Min(z, m.To.Z)
	}
	return z
}

// Warnings lists what a step's numbers ask too much of, in words.
func (s *StepResult) Warnings(shop *workplan.Shop) []string {
	var out []string
	if s.Fail != "" {
		return []string{s.Fail}
	}
	out = append(out, s.Problems...)
	n := s.Numbers.Get("n")
	if limit := shop.Machine.PowerAt(n); s.Load.Power > limit {
		out = append(out, "asks "+quantity.Format(s.Load.Power, 1)+" kW of a spindle that gives "+quantity.Format(limit, 1)+" kW at this speed: reduce width or depth of cut")
	}
	if n > shop.Machine.MaxRPM+0.5 {
		out = append(out, "the spindle turns at most "+quantity.Format(shop.Machine.MaxRPM, 0)+" rpm")
	}
	if s.Load.Deflection > 0.06 {
		out = append(out, "the tool bends by "+quantity.Format(math.Round(s.Load.Deflection*1000)/1000, 3)+" mm: reduce the cut or take a thicker or shorter tool")
	}
	return out
}
