// Package workplan holds what is to be done to a part in one setup: stock,
// origin, and the ordered workingsteps (ISO 14649-10). A step stores only what
// somebody typed; every other value is computed when asked for, and each value
// knows its source. Lengths mm, angles degrees (as shown), speeds rpm, mm/min.
package workplan

import (
	"fmt"
	"math"
	"slices"

	"arete/core/drawing"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/prepare"
)

// Operation names what a step does (ISO 14649-11 and the trade).
type Operation string

// The operations.
const (
	Facing         Operation = "facing"
	Clearing       Operation = "clearing"
	RestClearing   Operation = "rest_clearing"
	FloorFinishing Operation = "floor_finishing"
	Profiling      Operation = "profiling"
	SpotDrilling   Operation = "spot_drilling"
	Drilling       Operation = "drilling"
	EdgeBreaking   Operation = "edge_breaking"
)

// Operations lists all in the order of work.
var Operations = []Operation{Facing, Clearing, RestClearing, FloorFinishing, Profiling, SpotDrilling, Drilling, EdgeBreaking}

// Label is the operation in words.
func (o Operation) Label() string {
	return map[Operation]string{Facing: "Facing", Clearing: "Clearing", RestClearing: "Rest clearing", FloorFinishing: "Floor finishing",
		Profiling: "Wall finishing", SpotDrilling: "Spot drilling", Drilling: "Drilling", EdgeBreaking: "Edge breaking"}[o]
}

// Step is one workingstep.
type Step struct {
	ID       string             `json:"id"`
	Op       Operation          `json:"op"`
	Name     string             `json:"name"`
	Tool     int                `json:"tool"` // T number
	Features []string           `json:"features"`
	Off      bool               `json:"off,omitempty"`
	Typed    map[string]float64 `json:"typed,omitempty"`  // settings somebody typed
	Choice   map[string]string  `json:"choice,omitempty"` // settings picked from a list
}

// Margins are what the stock has beyond the part on each side.
type Margins struct {
	XMin float64 `json:"x_min"`
	XMax float64 `json:"x_max"`
	YMin float64 `json:"y_min"`
	YMax float64 `json:"y_max"`
	ZMin float64 `json:"z_min"`
	ZMax float64 `json:"z_max"`
}

// Origin says where X0 Y0 Z0 is: a point of the stock's or the part's box,
// each axis −1 (low), 0 (middle) or +1 (high), plus a distance.
type Origin struct {
	Of    string     `json:"of"` // stock or part
	At    [3]int     `json:"at"`
	Shift [3]float64 `json:"shift"`
}

// Setup is one clamping.
type Setup struct {
	Name       string     `json:"name"`
	Up         [3]float64 `json:"up"` // direction in part coordinates that points to the spindle
	Stock      Margins    `json:"stock"`
	Origin     Origin     `json:"origin"`
	WorkOffset string     `json:"work_offset"`
	Grip       float64    `json:"grip"` // height that the vise holds, from the stock's bottom

	Blank    Blank  `json:"blank,omitzero"`     // stock that is no block
	Fixtures []Item `json:"fixtures,omitempty"` // bodies that hold or locate the work

	Body    int                 `json:"body,omitempty"`    // which body of the model is cut, from 1; 0 for the largest
	Layers  []drawing.Level     `json:"layers,omitempty"`  // of a flat drawing; none for the defaults
	Prepare []prepare.Change    `json:"prepare,omitempty"` // of the body before it is cut
	Amend   []feature.Amendment `json:"amend,omitempty"`   // of what was found to cut
	Groups  []feature.Group     `json:"groups,omitempty"`  // of faces, to other features than were found
	Picks   []Pick              `json:"picks,omitempty"`   // selections kept by name
}

// Item is a body of the model, from 1, or a file kept with the part.
type Item struct {
	Body int    `json:"body,omitempty"`
	File string `json:"file,omitempty"` // its hash
	Name string `json:"name,omitempty"`
}

// Blank says what the stock is: a block with the setup's margins when Kind is
// empty, a round bar standing on its end about the middle of the part, or a
// body where it lies around the part.
type Blank struct {
	Kind     string  `json:"kind,omitempty"` // bar or item
	Diameter float64 `json:"diameter,omitempty"`
	Length   float64 `json:"length,omitempty"`
	Item     Item    `json:"item,omitzero"`
}

// The kinds of stock that are no block.
const (
	Bar  = "bar"
	Body = "item"
)

// Pick is a selection kept by name: indices of faces and edges of the body as
// it is cut.
type Pick struct {
	Name  string `json:"name"`
	Faces []int  `json:"faces,omitempty"`
	Edges []int  `json:"edges,omitempty"`
}

// Plan is the whole workplan of a part.
type Plan struct {
	Machine  string `json:"machine"`
	Material string `json:"material"`
	Dialect  string `json:"dialect,omitempty"` // other than the machine's own
	Push     int    `json:"push"`
	Grip     int    `json:"grip"`
	Setup    Setup  `json:"setup"`
	Steps    []Step `json:"steps"`
	NextID   int    `json:"next_id"`
}

// Default is an empty plan with the stock and origin chosen by rule: 2 mm on
// the sides, 1 mm to face off, 7 mm below to hold.
func Default(machine, material string) Plan {
	return Plan{Machine: machine, Material: material, Push: 50, Grip: 50, NextID: 1, Setup: Setup{
		Name: "Setup 1", Up: [3]float64{0, 0, 1}, WorkOffset: "G54", Grip: 5,
		Stock:  Margins{2, 2, 2, 2, 7, 1},
		Origin: Origin{Of: "stock", At: [3]int{-1, -1, 1}},
	}}
}

// Problem is one value that cannot be, in words.
type Problem struct{ Field, Say string }

// Error is the sentence to show.
func (p Problem) Error() string { return p.Say }

// Validate returns the first impossible value of the setup.
func (s Setup) Validate() error {
	up := geom.V3{X: s.Up[0], Y: s.Up[1], Z: s.Up[2]}
	if l := up.Len(); math.IsNaN(l) || l < 1e-9 {
		return Problem{"up", "choose a direction that points to the spindle"}
	}
	for _, m := range []struct {
		name string
		v    float64
	}{{"x_min", s.Stock.XMin}, {"x_max", s.Stock.XMax}, {"y_min", s.Stock.YMin}, {"y_max", s.Stock.YMax}, {"z_min", s.Stock.ZMin}, {"z_max", s.Stock.ZMax}} {
		if math.IsNaN(m.v) || m.v < 0 || m.v > 1000 {
			return Problem{m.name, "a stock margin lies between 0 and 1000 mm: the part must fit into its stock"}
		}
	}
	if s.Origin.Of != "stock" && s.Origin.Of != "part" {
		return Problem{"origin", "the origin is a point of the stock or of the part"}
	}
	if s.Body < 0 {
		return Problem{"body", "choose a body of the model"}
	}
	for _, l := range s.Layers {
		if !(math.Abs(l.Top) <= 1000) || !(l.Depth >= 0 && l.Depth <= 1000) {
			return Problem{"layer", "a layer's top and depth lie within 1000 mm, the depth counted down from the top"}
		}
	}
	if b := s.Blank; b.Kind == Bar && !(b.Diameter >= 1 && b.Diameter <= 2000 && b.Length >= 1 && b.Length <= 2000) {
		return Problem{"diameter", "a round bar has a diameter and a length between 1 and 2000 mm"}
	}
	if s.Grip < 0 || s.Grip > 500 {
		return Problem{"grip", "the vise holds between 0 and 500 mm"}
	}
	var n int
	if _, err := fmt.Sscanf(s.WorkOffset, "G%d", &n); err != nil || n < 54 || n > 59 {
		return Problem{"work_offset", "the work offset is one of G54 to G59"}
	}
	return nil
}

// Frame returns the setup's coordinate system in part coordinates, for a part
// and its stock whose boxes in a system are measured by boxesIn.
func (s Setup) Frame(boxesIn func(geom.Frame) (part, stock geom.Box)) geom.Frame {
	up := geom.V3{X: s.Up[0], Y: s.Up[1], Z: s.Up[2]}.Unit()
	hint := geom.V3{X: 1}
	if math.Abs(up.X) > 0.9 {
		hint = geom.V3{Y: 1}
	}
	f := geom.NewFrame(geom.V3{}, up, hint)
	box, stock := boxesIn(f)
	if s.Origin.Of == "stock" {
		box = stock
	}
	pick := func(lo, hi float64, k int, shift float64) float64 { return lo + (hi-lo)*float64(k+1)/2 + shift }
	o := geom.V3{
		X: pick(box.Min.X, box.Max.X, s.Origin.At[0], s.Origin.Shift[0]),
		Y: pick(box.Min.Y, box.Max.Y, s.Origin.At[1], s.Origin.Shift[1]),
		Z: pick(box.Min.Z, box.Max.Z, s.Origin.At[2], s.Origin.Shift[2]),
	}
	f.O = f.ToWorld(o)
	return f
}

// Around returns the stock's box around the part's.
func (m Margins) Around(part geom.Box) geom.Box {
	return geom.Box{
		Min: part.Min.Sub(geom.V3{X: m.XMin, Y: m.YMin, Z: m.ZMin}),
		Max: part.Max.Add(geom.V3{X: m.XMax, Y: m.YMax, Z: m.ZMax}),
	}
}

// Find returns the index of a step, −1 if there is none.
func (p *Plan) Find(id string) int {
	for i := range p.Steps {
		if p.Steps[i].ID == id {
			return i
		}
	}
	return -1
}

// NewID returns a fresh step identifier.
func (p *Plan) NewID() string {
	id := fmt.Sprintf("S%d", p.NextID)
	p.NextID++
	return id
}

// Clone returns an independent copy.
func (p Plan) Clone() Plan {
	q := p
	q.Setup.Layers = slices.Clone(p.Setup.Layers)
	q.Setup.Prepare = slices.Clone(p.Setup.Prepare)
	q.Setup.Amend = slices.Clone(p.Setup.Amend)
	q.Setup.Fixtures = slices.Clone(p.Setup.Fixtures)
	q.Setup.Groups = slices.Clone(p.Setup.Groups)
	q.Setup.Picks = slices.Clone(p.Setup.Picks)
	q.Steps = make([]Step, len(p.Steps))
	for i, s := range p.Steps {
		q.Steps[i] = s.Clone()
	}
	return q
}

// Clone returns an independent copy.
func (s Step) Clone() Step {
	c := s
	c.Features = append([]string(nil), s.Features...)
	c.Typed, c.Choice = map[string]float64{}, map[string]string{}
	for k, v := range s.Typed {
		c.Typed[k] = v
	}
	for k, v := range s.Choice {
		c.Choice[k] = v
	}
	return c
}
