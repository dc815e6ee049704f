package web

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"arete/core/feature"
	"arete/core/quantity"
	"arete/core/tooling"
	"arete/core/workplan"
	"arete/shop"
)

// stepPage is what a step's page shows.
type stepPage struct {
	Step       workplan.Step
	Index      int
	Prev, Next string
	Result     *shop.StepResult
	Tool       *tooling.Tool
	Colour     string
	Tools      []tooling.Tool
	Blocks     map[string][]field
	More       map[string][]field
	Choices    []choice
	Features   []pick
	Warnings   []string
	Loads      []loadBar
}

// field is one number.
type field struct {
	workplan.Setting
	Value   workplan.Value
	Text    string
	Message string
}

type choice struct {
	Key, Label, Chosen string
	Options            []string
}

type pick struct {
	Feature *feature.Feature
	Title   string
	On      bool
}

type loadBar struct {
	Label, Text string
	Share       float64
}

func newStepPage(d *sheetData, id string) *stepPage {
	i := d.Saved.Plan.Find(id)
	if i < 0 {
		return nil
	}
	p := &stepPage{Step: d.Saved.Plan.Steps[i], Index: i + 1, Result: d.Result.Step(id), Tools: d.Library.Tools,
		Colour: d.Route[i].Colour, Warnings: d.Route[i].Warnings, Blocks: map[string][]field{}, More: map[string][]field{}}
	if i > 0 {
		p.Prev = d.Saved.Plan.Steps[i-1].ID
	}
	if i+1 < len(d.Saved.Plan.Steps) {
		p.Next = d.Saved.Plan.Steps[i+1].ID
	}
	p.Tool = tooling.ByPosition(d.Library.Tools, p.Step.Tool)
	p.numbers(d)
	for _, c := range workplan.Choices {
		if containsOp(c.Ops, p.Step.Op) {
			p.Choices = append(p.Choices, choice{c.Key, c.Label, p.Step.Chosen(c.Key), c.Options})
		}
	}
	for _, f := range d.Result.Geometry.Work.Features.Features {
		on := false
		for _, id := range p.Step.Features {
			on = on || id == f.ID
		}
		if on || fits(p.Step.Op, f) {
			p.Features = append(p.Features, pick{f, f.Title(), on})
		}
	}
	p.loads(d)
	return p
}

func containsOp(ops []workplan.Operation, o workplan.Operation) bool {
	for _, x := range ops {
		if x == o {
			return true
		}
	}
	return false
}

// fits tells whether an operation can make a feature.
func fits(o workplan.Operation, f *feature.Feature) bool {
	switch o {
	case workplan.Drilling, workplan.SpotDrilling:
		return f.Kind == feature.RoundHole
	case workplan.EdgeBreaking:
		return f.Kind == feature.Chamfer || f.Kind == feature.RoundHole && f.Params.Countersink.Diameter > 0
	case workplan.Facing:
		return f.Kind == feature.PlanarFace && f.Approach.Z > 0.99
	}
	return !f.Region.Empty() || f.Kind == feature.RoundHole
}

func (p *stepPage) numbers(d *sheetData) {
	values := workplan.Numbers{}
	if p.Result != nil && p.Result.Numbers != nil {
		values = p.Result.Numbers
	}
	for _, s := range workplan.Settings {
		if !p.Step.Op.Has(s.Key) {
			continue
		}
		f := field{Setting: s, Value: values[s.Key]}
		if v, ok := p.Step.Typed[s.Key]; ok {
			f.Value = workplan.Value{V: v, Source: workplan.Typed, Why: "typed"}
		}
		f.Text = quantity.Format(f.Value.V, s.Digits)
		if f.Value.Source == "" {
			f.Text = ""
		}
		if s.More {
			p.More[s.Block] = append(p.More[s.Block], f)
		} else {
			p.Blocks[s.Block] = append(p.Blocks[s.Block], f)
		}
	}
}

// loads compares what the cut asks with what tool and machine give.
func (p *stepPage) loads(d *sheetData) {
	if p.Result == nil || p.Result.Fail != "" {
		return
	}
	l, mc := p.Result.Load, d.Result.Shop.Machine
	n := p.Result.Numbers.Get("n")
	power := mc.PowerAt(n)
	p.Loads = []loadBar{
		{"Power", fmt.Sprintf("%.2f of %.1f kW", l.Power, power), l.Power / math.Max(power, 1e-9)},
		{"Torque", fmt.Sprintf("%.1f of %.0f Nm", l.Torque, mc.Torque), l.Torque / mc.Torque},
		{"Bending", fmt.Sprintf("%.3f of 0.06 mm", l.Deflection), l.Deflection / 0.06},
	}
}

// ToolDrawing draws an assembly to scale.
func ToolDrawing(t *tooling.Tool, colour string) template.HTML {
	if t == nil {
		return ""
	}
	total := t.Stickout
	widest := math.Max(t.DC, t.Shank)
	for _, h := range t.Holder {
		total += h.Length
		widest = math.Max(widest, math.Max(h.D1, h.D2))
	}
	const width, height = 300.0, 92.0
	k := math.Min((width-20)/total, (height-20)/widest)
	mid := height / 2
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="tool" viewBox="0 0 %.0f %.0f" role="img" aria-label="%s, drawn to scale">`, width, height, template.HTMLEscapeString(t.Name))
	quad := func(x0, d0, x1, d1 float64, fill string) {
		fmt.Fprintf(&b, `<polygon points="%.1f,%.1f %.1f,%.1f %.1f,%.1f %.1f,%.1f" fill="%s" class="outline"/>`,
			10+x0*k, mid-d0*k/2, 10+x1*k, mid-d1*k/2, 10+x1*k, mid+d1*k/2, 10+x0*k, mid+d0*k/2, fill)
	}
	point := math.Min(t.PointLength(), t.APMX)
	switch {
	case t.Pointed():
		quad(0, t.Tip, point, t.DC, colour)
		quad(point, t.DC, math.Max(point, t.APMX), t.DC, colour)
	case t.Kind == tooling.BallNose:
		r := t.DC / 2 * k
		fmt.Fprintf(&b, `<path d="M%.1f %.1f a%.1f %.1f 0 0 0 0 %.1f Z" fill="%s" class="outline"/>`, 10+r, mid-r, r, r, 2*r, colour)
		quad(t.DC/2, t.DC, t.APMX, t.DC, colour)
	default:
		quad(0, t.DC, t.APMX, t.DC, colour)
	}
	if t.Stickout > t.APMX {
		quad(t.APMX, t.Shank, t.Stickout, t.Shank, "var(--steel)")
	}
	at := t.Stickout
	for _, h := range t.Holder {
		quad(at, h.D1, at+h.Length, h.D2, "var(--holder)")
		at += h.Length
	}
	b.WriteString(`</svg>`)
	return template.HTML(b.String()) //nolint:gosec // numbers, constants and an escaped name
}

// Drawing draws the step's tool.
func (p *stepPage) Drawing() template.HTML { return ToolDrawing(p.Tool, p.Colour) }

// DepthDrawing draws the levels of a step against stock and part.
func (d *sheetData) DepthDrawing() template.HTML {
	p := d.Step
	if p.Result == nil || p.Result.Numbers == nil {
		return ""
	}
	w := d.Result.Geometry.Work
	lo, hi := w.Stock.Min.Z, p.Result.Numbers.Get("clearance")
	const height, width = 150.0, 330.0
	y := func(z float64) float64 { return 8 + (hi-z)/(hi-lo)*(height-16) }
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="depth" viewBox="0 0 %.0f %.0f" data-lo="%g" data-hi="%g" role="img" aria-label="levels of this step">`, width, height, lo, hi)
	fmt.Fprintf(&b, `<rect x="20" y="%.1f" width="170" height="%.1f" class="stockbox"/>`, y(w.Stock.Max.Z), y(lo)-y(w.Stock.Max.Z))
	fmt.Fprintf(&b, `<rect x="34" y="%.1f" width="142" height="%.1f" class="partbox"/>`, y(w.Part.Max.Z), y(w.Part.Min.Z)-y(w.Part.Max.Z))
	fmt.Fprintf(&b, `<text x="105" y="%.1f" class="inside">part</text>`, (y(w.Part.Max.Z)+y(w.Part.Min.Z))/2+4)
	lines := []struct{ key, name string }{{"clearance", "clearance"}, {"top", "top"}, {"bottom", "bottom"}}
	last := math.Inf(-1)
	for _, l := range lines {
		v, ok := p.Result.Numbers[l.key]
		if !ok {
			continue
		}
		at := y(v.V)
		label := math.Max(at+4, last+13)
		last = label
		fmt.Fprintf(&b, `<g class="level" data-key="%s"><line x1="8" x2="200" y1="%.1f" y2="%.1f"/><text x="206" y="%.1f">%s Z%s</text></g>`,
			l.key, at, at, label, l.name, quantity.Format(v.V, 2))
	}
	b.WriteString(`</svg>`)
	return template.HTML(b.String()) //nolint:gosec // numbers and constants
}
