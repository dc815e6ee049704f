package workplan

import (
	"fmt"
	"math"
	"slices"

	"arete/core/quantity"
)

// Source tells where a value comes from.
type Source string

// The sources.
const (
	Computed Source = "computed" // by formula from material, tool and machine
	Rule     Source = "rule"     // by a rule of thumb
	FromTool Source = "tool"     // a property of the tool
	Typed    Source = "typed"    // somebody typed it
)

// Value is a number with its source and the reason for it.
type Value struct {
	V      float64
	Source Source
	Why    string
}

// Setting describes one number of a step.
type Setting struct {
	Key, Label, Unit string
	Block            string // how, depth, speed
	More             bool   // rarely needed
	Min, Max         float64
	Ops              []Operation
	Digits           int
}

var milling = []Operation{Facing, Clearing, RestClearing, FloorFinishing, Profiling, EdgeBreaking}
var area = []Operation{Clearing, RestClearing, FloorFinishing}
var all = Operations

// Settings lists every number a step can have.
var Settings = []Setting{
	{"ae", "Width of cut", "mm", "how", false, 0.01, 200, []Operation{Facing, Clearing, RestClearing, FloorFinishing}, 3},
	{"side", "Side allowance", "mm", "how", false, 0, 20, []Operation{Clearing, RestClearing, FloorFinishing, Profiling}, 3},
	{"floor", "Floor allowance", "mm", "how", false, 0, 20, []Operation{Facing, Clearing, RestClearing, FloorFinishing, Profiling}, 3},
	{"ramp", "Ramp angle", "°", "how", true, 0.1, 45, area, 1},
	{"lead", "Approach radius", "mm", "how", false, 0, 50, []Operation{Profiling}, 3},
	{"extend", "Past open ends", "mm", "how", true, 0, 50, []Operation{Profiling}, 3},
	{"spring", "Spring passes", "", "how", true, 0, 5, []Operation{Profiling}, 0},
	{"contact", "Contact above the tip", "mm", "how", false, 0, 20, []Operation{EdgeBreaking}, 3},
	{"peck", "Peck depth", "mm", "how", false, 0, 200, []Operation{Drilling}, 3},
	{"ap", "Depth of cut", "mm", "depth", false, 0.01, 100, []Operation{Facing, Clearing, RestClearing, Profiling}, 3},
	{"top", "Top", "mm", "depth", false, -1000, 1000, all, 3},
	{"bottom", "Bottom", "mm", "depth", false, -1000, 1000, all, 3},
	{"clearance", "Clearance plane", "mm", "depth", true, -1000, 2000, all, 3},
	{"rplane", "R plane above the hole", "mm", "depth", true, 0.1, 50, []Operation{SpotDrilling, Drilling}, 3},
	{"vc", "Cutting speed", "m/min", "speed", false, 1, 3000, all, 0},
	{"n", "Spindle speed", "rpm", "speed", false, 1, 60000, all, 0},
	{"fz", "Feed a tooth", "mm", "speed", false, 0.0005, 5, all, 4},
	{"vf", "Feed", "mm/min", "speed", false, 1, 30000, all, 0},
	{"plunge", "Plunge feed", "mm/min", "speed", true, 1, 10000, milling, 0},
}

// SettingByKey returns the description of a setting, nil if there is none.
func SettingByKey(key string) *Setting {
	for i := range Settings {
		if Settings[i].Key == key {
			return &Settings[i]
		}
	}
	return nil
}

// Has tells whether the operation has the setting.
func (o Operation) Has(key string) bool {
	s := SettingByKey(key)
	return s != nil && slices.Contains(s.Ops, o)
}

// Type stores a typed value after checking its bounds; lengths with as many
// digits as are shown and posted.
func (s *Step) Type(key string, v float64) error {
	d := SettingByKey(key)
	if d == nil || !s.Op.Has(key) {
		return Problem{key, fmt.Sprintf("%s has no setting %q", s.Op.Label(), key)}
	}
	if math.IsNaN(v) || v < d.Min || v > d.Max {
		return Problem{key, fmt.Sprintf("%s lies between %s and %s %s", d.Label, quantity.Format(d.Min, 4), quantity.Format(d.Max, 1), d.Unit)}
	}
	if s.Typed == nil {
		s.Typed = map[string]float64{}
	}
	if d.Unit == "mm" {
		scale := math.Pow(10, float64(d.Digits))
		v = math.Round(v*scale) / scale
	}
	s.Typed[key] = v
	// Two names for one thing: the one typed last wins.
	switch key {
	case "n":
		delete(s.Typed, "vc")
	case "vc":
		delete(s.Typed, "n")
	case "vf":
		delete(s.Typed, "fz")
	case "fz":
		delete(s.Typed, "vf")
	}
	return nil
}

// Choices lists the settings picked from a list: key, label, options.
var Choices = []struct {
	Key, Label string
	Options    []string
	Ops        []Operation
}{
	{"mode", "Direction", []string{"climb", "conventional"}, []Operation{Clearing, RestClearing, FloorFinishing, Profiling}},
	{"pattern", "Pattern", []string{"back-and-forth", "one-way"}, []Operation{Facing}},
	{"cycle", "Cycle", []string{"by depth", "drill", "peck", "chip breaking"}, []Operation{Drilling}},
}

// Pick stores a choice; the first option is the default.
func (s *Step) Pick(key, option string) error {
	for _, c := range Choices {
		if c.Key == key && slices.Contains(c.Ops, s.Op) {
			if !slices.Contains(c.Options, option) {
				return Problem{key, fmt.Sprintf("%s is one of %v", c.Label, c.Options)}
			}
			if s.Choice == nil {
				s.Choice = map[string]string{}
			}
			s.Choice[key] = option
			return nil
		}
	}
	return Problem{key, fmt.Sprintf("%s has no setting %q", s.Op.Label(), key)}
}

// Chosen returns the option picked, or the default.
func (s *Step) Chosen(key string) string {
	if v, ok := s.Choice[key]; ok {
		return v
	}
	for _, c := range Choices {
		if c.Key == key {
			return c.Options[0]
		}
	}
	return ""
}
