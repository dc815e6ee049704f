package web

import (
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"arete/core/compare"
	"arete/core/feature"
	"arete/core/tooling"
	"arete/core/workplan"
	"arete/shop"
)

// stations are the six places of the work, in order.
var stations = []struct{ Key, Label string }{
	{"part", "Part"}, {"hold", "Hold"}, {"tools", "Tools"}, {"cut", "Cut"}, {"prove", "Prove"}, {"release", "Release"},
}

// sheetData is what the pages of a part are made from.
type sheetData struct {
	Part     shop.Part
	Saved    shop.Saved
	State    *shop.State
	Result   *shop.Result
	Proof    *shop.Proof // of the current plan, nil until it is there
	Library  *shop.Library
	Station  string
	Step     *stepPage
	Route    []routeRow
	Message  string // what could not be done
	Field    string // where
	Typed    string // what was typed there
	Notes    []string
	Stations any
	Model    *shop.Model
	Describe shop.PartJSON
	Cut      int // which body is cut, from 0
	Ledger   []ledgerRow
}

// ledgerRow is a feature with its state.
type ledgerRow struct {
	Feature *feature.Feature
	Title   string
	State   string
	Say     string
	Steps   []string
}

// station answers a page of a part, or only its sheet for a swap.
func (s *Server) station(key string) echo.HandlerFunc {
	return func(c *echo.Context) error { return s.show(c, key, c.Param("step"), "", "", "") }
}

// show renders a station; a message with its field is shown in place.
func (s *Server) show(c *echo.Context, key, step, field, typed, message string) error {
	d, err := s.gather(c, key, step)
	if err != nil {
		return err
	}
	d.Field, d.Typed, d.Message = field, typed, message
	name := "page"
	if isSwap(c) {
		name = "sheet"
		if c.Request().Method == http.MethodPost { // the address says what is shown
			at := fmt.Sprintf("/parts/%d/%s", d.Part.ID, key)
			if d.Step != nil {
				at += "/" + step
			}
			c.Response().Header().Set("HX-Replace-Url", at)
		}
	}
	return s.pages.write(c, sheetStatus(message), name, d)
}

func (s *Server) gather(c *echo.Context, key, step string) (*sheetData, error) {
	ctx := c.Request().Context()
	part, err := s.part(c)
	if err != nil {
		return nil, err
	}
	st, err := s.desk.Ready(ctx, part.ID)
	if err != nil {
		return nil, err
	}
	saved, err := s.desk.Plan(ctx, part.ID)
	if err != nil {
		return nil, err
	}
	lib, err := s.desk.Library(ctx)
	if err != nil {
		return nil, err
	}
	m, err := s.desk.Model(ctx, part)
	if err != nil {
		return nil, err
	}
	d := &sheetData{Part: part, Saved: saved, State: st, Result: st.Result, Library: lib, Station: key, Stations: stations, Model: m}
	if st.Proof != nil && st.Proven >= saved.Version {
		d.Proof = st.Proof
	}
	d.Describe = shop.DescribePart(st.Result.Geometry.Solid)
	if _, n, err := m.Body(st.Result.Plan.Setup); err == nil {
		d.Cut = n
	}
	d.Ledger = ledgerRows(d)
	d.Route = route(d)
	if step != "" {
		if d.Step = newStepPage(d, step); d.Step == nil {
			return nil, shop.ErrNotFound
		}
	}
	return d, nil
}

func ledgerRows(d *sheetData) []ledgerRow {
	var out []ledgerRow
	for _, f := range d.Result.Geometry.Work.Features.Features {
		row := ledgerRow{Feature: f, Title: f.Title(), State: "waiting", Say: "not proven yet"}
		for _, st := range d.Saved.Plan.Steps {
			for _, id := range st.Features {
				if id == f.ID && !st.Off {
					row.Steps = append(row.Steps, st.ID)
				}
			}
		}
		if d.Proof != nil {
			fs := d.Proof.Features[f.ID]
			row.State, row.Say = string(fs.State), fs.Say
			if len(row.Steps) == 0 && (fs.State == compare.Left || fs.State == compare.Uncut) {
				row.Say += "; no step makes it"
			}
		}
		out = append(out, row)
	}
	return out
}

// Counts returns how many features are in a state.
func (d *sheetData) Counts() map[string]int {
	out := map[string]int{}
	for _, r := range d.Ledger {
		out[r.State]++
	}
	return out
}

// Weight is the part's weight in kilograms.
func (d *sheetData) Weight() float64 {
	m, err := d.Library.Material(d.Saved.Plan.Material)
	if err != nil {
		return 0
	}
	return d.Describe.Volume * m.Density / 1e6
}

// Clean tells whether the program may be released without findings.
func (d *sheetData) Clean() bool { return d.Proof != nil && d.Proof.Clean() && len(d.Fails()) == 0 }

// Fails lists the steps that have no path.
func (d *sheetData) Fails() []string {
	var out []string
	for _, s := range d.Result.Steps {
		if s.Fail != "" {
			out = append(out, s.Step.Name+": "+s.Fail)
		}
	}
	return out
}

// Findings lists what stands against a release.
func (d *sheetData) Findings() []string {
	out := d.Fails()
	if d.Proof != nil {
		out = append(out, d.Proof.Findings()...)
	}
	return out
}

// Things is the number of findings and warnings.
func (d *sheetData) Things() int {
	n := len(d.Findings())
	for _, r := range d.Route {
		n += len(r.Warnings)
	}
	return n
}

// StationState tells for the row of stations whether one is done.
func (d *sheetData) StationState(key string) string {
	switch key {
	case "part", "hold", "tools":
		return "done"
	case "cut":
		if len(d.Fails()) > 0 || len(d.Saved.Plan.Steps) == 0 {
			return "open"
		}
		return "done"
	}
	if d.Clean() {
		return "done"
	}
	return "open"
}

// routeRow is a line of the route.
type routeRow struct {
	Index    int
	Step     workplan.Step
	Tool     tooling.Tool
	Colour   string
	Band     bool // begins a tool band
	Change   float64
	Time     float64
	Mark     string
	Warnings []string
}

// colours gives each tool of the plan its colour.
func colours(p workplan.Plan) map[int]string {
	out := map[int]string{}
	for _, s := range p.Steps {
		if _, ok := out[s.Tool]; !ok {
			out[s.Tool] = toolColours[len(out)%len(toolColours)]
		}
	}
	return out
}

func route(d *sheetData) []routeRow {
	var out []routeRow
	colour := colours(d.Saved.Plan)
	tool := -1
	for i, st := range d.Saved.Plan.Steps {
		r := routeRow{Index: i + 1, Step: st, Colour: colour[st.Tool], Mark: "done", Band: st.Tool != tool}
		tool = st.Tool
		if t := tooling.ByPosition(d.Library.Tools, st.Tool); t != nil {
			r.Tool = *t
		} else {
			r.Tool = tooling.Tool{Position: st.Tool, Name: "not in the magazine"}
		}
		res := d.Result.Step(st.ID)
		switch {
		case st.Off:
			r.Mark = "off"
		case res == nil:
			r.Mark = "waiting"
		default:
			r.Time, r.Warnings = res.Time, res.Warnings(&d.Result.Shop)
			if res.Change {
				r.Change = d.Result.Shop.Machine.ToolChange + d.Result.Shop.Machine.Spindle
			}
			if d.Proof != nil {
				for _, id := range d.Proof.Idle {
					if id == st.ID {
						r.Warnings = append(r.Warnings, "removes nothing: it cuts air, or repeats an earlier step")
					}
				}
				for _, k := range d.Proof.Collisions {
					if k.Step == st.ID {
						r.Warnings = append(r.Warnings, k.Say)
						break
					}
				}
			}
			if len(r.Warnings) > 0 {
				r.Mark = "warn"
			}
			if res.Fail != "" {
				r.Mark = "fail"
			}
		}
		out = append(out, r)
	}
	return out
}

// ledger renders the ledger alone.
func (s *Server) ledger(c *echo.Context) error {
	d, err := s.gather(c, "cut", "")
	if err != nil {
		return err
	}
	return s.pages.write(c, http.StatusOK, "ledger", d)
}

// ToolsUsed lists the tools of the plan with what they do.
func (d *sheetData) ToolsUsed() []toolUse {
	var out []toolUse
	index := map[int]int{}
	for _, r := range d.Route {
		if r.Step.Off {
			continue
		}
		i, ok := index[r.Tool.Position]
		if !ok {
			i = len(out)
			index[r.Tool.Position] = i
			out = append(out, toolUse{Tool: r.Tool, Colour: r.Colour})
		}
		out[i].Steps++
		out[i].Time += r.Time
	}
	return out
}

type toolUse struct {
	Tool   tooling.Tool
	Colour string
	Steps  int
	Time   float64
}

// Stock says what the stock is.
func (d *sheetData) Stock() string { return shop.StockWords(d.Result) }

// Origin says where the origin is.
func (d *sheetData) Origin() string { return shop.OriginWords(d.Saved.Plan.Setup.Origin) }

// InPlace tells whether the message stands beside its field; otherwise it
// stands at the head of the sheet.
func (d *sheetData) InPlace() bool {
	if d.Step != nil {
		return d.Step.Step.Op.Has(d.Field)
	}
	for _, f := range append(d.Margins(), d.Shifts()...) {
		if d.Station == "hold" && f.Key == d.Field {
			return true
		}
	}
	return d.Station == "hold" && d.Field == "grip"
}
