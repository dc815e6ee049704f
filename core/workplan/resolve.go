package workplan

import (
	"fmt"
	"math"

	"arete/core/blank"
	"arete/core/cutting"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/machine"
	"arete/core/material"
	"arete/core/tooling"
)

// Shop is what the plan draws on.
type Shop struct {
	Tools    []tooling.Tool
	Machine  machine.Machine
	Material material.Material
}

// Work is the part and stock of one setup, in setup coordinates.
type Work struct {
	Features *feature.Set
	Part     geom.Box
	Stock    geom.Box
	Blank    *blank.Blank // stock that is no block
	High     float64      // the highest point of stock and fixtures
}

// Margin is the widest strip of stock beside the part.
func (w *Work) Margin() float64 {
	s, p := w.Stock, w.Part
	return max(p.Min.X-s.Min.X, s.Max.X-p.Max.X, p.Min.Y-s.Min.Y, s.Max.Y-p.Max.Y)
}

// Numbers are all values of a step, by setting key.
type Numbers map[string]Value

// Get returns the number alone.
func (n Numbers) Get(key string) float64 { return n[key].V }

// Resolve computes every number of a step; typed ones win. An error says why
// the step cannot be worked out.
func Resolve(p *Plan, s *Step, shop *Shop, w *Work) (Numbers, *tooling.Tool, error) {
	t := tooling.ByPosition(shop.Tools, s.Tool)
	if t == nil {
		return nil, nil, Problem{"tool", fmt.Sprintf("T%d is not in the magazine: choose a tool", s.Tool)}
	}
	if err := t.Validate(); err != nil {
		return nil, nil, err
	}
	for _, id := range s.Features {
		if w.Features.ByID(id) == nil {
			return nil, nil, Problem{"features", fmt.Sprintf("the part has no feature %s: pick another", id)}
		}
	}
	if len(s.Features) == 0 && s.Op != Facing {
		return nil, nil, Problem{"features", "pick at least one feature"}
	}
	r := &resolver{p: p, s: s, shop: shop, w: w, t: *t, out: Numbers{}}
	r.levels()
	r.shape()
	if err := r.speeds(); err != nil {
		return nil, nil, err
	}
	r.limitDepth()
	return r.out, t, nil
}

type resolver struct {
	p    *Plan
	s    *Step
	shop *Shop
	w    *Work
	t    tooling.Tool
	out  Numbers
}

// set stores a value unless one was typed.
func (r *resolver) set(key string, v float64, src Source, why string) {
	if !r.s.Op.Has(key) {
		return
	}
	if typed, ok := r.s.Typed[key]; ok {
		r.out[key] = Value{typed, Typed, "typed"}
		return
	}
	r.out[key] = Value{v, src, why}
}

// BreakThrough is how far a through-cut goes past the part, mm.
const BreakThrough = 0.3

// levels sets top, bottom and clearance.
func (r *resolver) levels() {
	top, bottom := math.Inf(-1), math.Inf(1)
	topWhy, bottomWhy := "stock top", "floor"
	through := false
	for _, id := range r.s.Features {
		f := r.w.Features.ByID(id)
		top, bottom = math.Max(top, f.Params.TopZ), math.Min(bottom, f.Params.FloorZ)
		through = through || f.Params.Through
	}
	if r.s.Op == Facing || len(r.s.Features) == 0 {
		top, bottom = r.w.Stock.Max.Z, r.w.Part.Max.Z
		bottomWhy = "top of the part"
	} else if top >= r.w.Part.Max.Z-1e-6 && (r.s.Op == Clearing || r.s.Op == RestClearing) {
		topWhy = "top of the part"
	} else {
		topWhy = "top of the feature"
	}
	if r.s.Choice["part"] == "counterbore" {
		f := r.w.Features.ByID(r.s.Features[0])
		bottom, bottomWhy, through = f.Params.TopZ-f.Params.Mouth().Depth, "floor of the counterbore", false
	}
	switch r.s.Op {
	case SpotDrilling:
		bottomWhy = "a spot as deep as its width"
	case Drilling:
		bottomWhy = "shoulder of the drill at the hole's depth"
		if through {
			bottomWhy = fmt.Sprintf("part bottom, break-through %.1f mm and the drill's point", BreakThrough)
			bottom -= BreakThrough
		}
	case Clearing, RestClearing, Profiling:
		if through {
			bottom -= BreakThrough
			bottomWhy = fmt.Sprintf("part bottom and break-through %.1f mm", BreakThrough)
			if low := r.w.Stock.Min.Z; bottom < low {
				bottom, bottomWhy = low, "bottom of the stock: nothing below it to break through into"
			}
		}
	}
	r.set("top", top, Rule, topWhy)
	r.set("bottom", bottom, Rule, bottomWhy)
	why := "stock top + 5 mm"
	if r.w.High > r.w.Stock.Max.Z {
		why = "top of the fixtures + 5 mm"
	}
	r.set("clearance", math.Max(r.w.High, r.w.Stock.Max.Z)+5, Rule, why)
	r.set("rplane", 2, Rule, "2 mm above the hole")
}

// shape sets widths, allowances and other lengths of the pattern.
func (r *resolver) shape() {
	d := r.t.DC
	switch r.s.Op {
	case Facing:
		r.set("ae", 0.7*d, Rule, "0.7 × D for facing")
		r.set("floor", 0, Rule, "to size")
	case Clearing, RestClearing:
		r.set("ae", 0.4*d, Rule, "0.4 × D for clearing")
		r.set("side", math.Min(0.3, 0.03*d+0.05), Rule, "left for the finishing pass")
		if r.bored() {
			r.set("floor", 0, Rule, "the bore's floor is not finished again")
		} else {
			r.set("floor", math.Min(0.2, 0.02*d+0.05), Rule, "left for floor finishing")
		}
	case FloorFinishing:
		r.set("ae", 0.6*d, Rule, "0.6 × D for floors")
		r.set("side", math.Min(0.3, 0.03*d+0.05), Rule, "walls are finished afterwards")
		r.set("floor", 0, Rule, "to size")
	case Profiling:
		r.set("side", 0, Rule, "to size")
		r.set("floor", 0, Rule, "down to the floor")
	case EdgeBreaking:
		r.set("contact", r.t.Tip/2+0.6, Rule, "the flank cuts, not the tip")
	case Drilling:
		r.set("peck", r.peck(), Rule, "pecks of 1 × D below 3 × D")
	}
	r.set("ramp", 3, Rule, "3° into the full")
	r.set("lead", 0.3*d, Rule, "0.3 × D")
	r.set("extend", d/2+1, Rule, "radius + 1 mm")
	r.set("spring", 0, Rule, "none")
}

// bored tells whether the step mills a round hole or opens a floor right
// through, where no floor finishing follows.
func (r *resolver) bored() bool {
	f := r.w.Features.ByID(r.s.Features[0])
	return f.Kind == feature.RoundHole || f.Params.Through
}

// peck returns the depth of one peck: 0 for holes up to 3 × D deep.
func (r *resolver) peck() float64 {
	depth := 0.0
	for _, id := range r.s.Features {
		depth = math.Max(depth, r.w.Features.ByID(id).Params.Depth)
	}
	switch r.s.Chosen("cycle") {
	case "drill":
		return 0
	case "by depth":
		if depth <= 3*r.t.DC {
			return 0
		}
	}
	return r.t.DC
}

// use returns the row of the material's speed table.
func (r *resolver) use() string {
	switch r.s.Op {
	case Facing:
		return "facing"
	case Drilling:
		return "drilling"
	case SpotDrilling:
		return "spotting"
	case EdgeBreaking:
		return "chamfering"
	}
	return "milling"
}

// drive turns a dial of 0–100 into a factor, 1 at 50.
func drive(dial int) float64 {
	d := float64(max(0, min(100, dial)))
	if d < 50 {
		return 0.6 + 0.4*d/50
	}
	return 1 + 0.25*(d-50)/50
}

// speeds sets vc, n, fz, vf and the plunge feed.
func (r *resolver) speeds() error {
	row, err := r.shop.Material.Find(r.use(), string(r.t.Substrate))
	if err != nil {
		return err
	}
	push := drive(r.p.Push)
	if r.p.Grip < 50 {
		push *= 0.7 + 0.3*float64(r.p.Grip)/50
	}
	d := cutting.EffectiveDiameter(r.t, math.Max(r.out.Get("contact"), 0.5))
	if r.s.Op == SpotDrilling {
		d = r.t.DC / 2
	}
	m := r.shop.Machine
	if n, ok := r.s.Typed["n"]; ok {
		r.out["n"] = Value{n, Typed, "typed"}
		r.out["vc"] = Value{cutting.Speed(n, d), Computed, "from the spindle speed typed"}
	} else {
		r.set("vc", row.VC*push, Computed, fmt.Sprintf("%s, %s, %s: %.0f m/min, push %d", r.shop.Material.Name, row.Use, row.Substrate, row.VC, r.p.Push))
		n := cutting.RPM(r.out.Get("vc"), d)
		why := "1000·vc/(π·D)"
		if n > m.MaxRPM {
			n, why = m.MaxRPM, fmt.Sprintf("the machine's limit, %.0f rpm", m.MaxRPM)
		}
		r.set("n", math.Max(math.Round(n), m.MinRPM), Computed, why)
	}
	n := math.Min(r.out.Get("n"), m.MaxRPM)
	teeth := float64(r.t.ZEFF)
	if vf, ok := r.s.Typed["vf"]; ok {
		r.out["vf"] = Value{vf, Typed, "typed"}
		r.out["fz"] = Value{vf / (n * teeth), Computed, "from the feed typed"}
	} else {
		fz := math.Max(row.FzMin, math.Min(row.FzMax, row.FzPerD*r.t.DC)) * push
		why := fmt.Sprintf("%.3f × D", row.FzPerD)
		if r.use() == "drilling" || r.use() == "spotting" {
			fz /= teeth // the table gives a feed per revolution
		}
		if ae := r.out.Get("ae"); ae > 0 && r.s.Op != Facing {
			k := math.Min(1.5, cutting.ThinningFactor(ae, r.t.DC))
			if fz *= k; k > 1.01 {
				why += fmt.Sprintf(", ×%.2f for the thin chip at ae", k)
			}
		}
		r.set("fz", fz, Computed, why)
		vf := math.Max(1, math.Round(n*teeth*r.out.Get("fz")))
		why = "n·z·fz"
		if vf > m.MaxFeed {
			vf, why = m.MaxFeed, fmt.Sprintf("the machine's limit, %.0f mm/min", m.MaxFeed)
		}
		r.set("vf", vf, Computed, why)
	}
	r.set("plunge", math.Max(1, math.Round(0.3*r.out.Get("vf"))), Rule, "0.3 × feed")
	return nil
}

// limitDepth sets the depth of cut: at most 1 × D and the cutting length, less
// where power or deflection would be too much.
func (r *resolver) limitDepth() {
	if !r.s.Op.Has("ap") {
		return
	}
	ap, why := math.Min(r.t.DC, 0.9*r.t.APMX), "1 × D"
	if 0.9*r.t.APMX < r.t.DC {
		why = "0.9 × cutting length"
	}
	ae := r.out.Get("ae")
	switch r.s.Op {
	case Facing:
		ap, why = math.Min(2, 0.9*r.t.APMX), "2 mm a pass"
	case Profiling:
		ap, why = 0.95*r.t.APMX, "0.95 × cutting length"
		ae = 0.3
	default:
		ae = r.t.DC // the first pass of an area cuts its full width
	}
	const bend = 0.04
	for i := 0; i < 40 && ap > 0.2; i++ {
		l := cutting.Milling(r.t, r.shop.Material, r.shop.Machine, ap, ae, r.out.Get("n"), r.out.Get("vf"))
		switch {
		case l.Power > 0.8*r.shop.Machine.PowerAt(r.out.Get("n")):
			ap, why = ap*0.9, "limited by the spindle's power"
			continue
		case l.Deflection > bend:
			ap, why = ap*0.9, "limited by the tool's bending"
			continue
		}
		break
	}
	r.set("ap", math.Max(0.1, math.Floor(ap*20)/20), Computed, why)
}
