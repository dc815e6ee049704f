package web

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"arete/core/tooling"
	"arete/shop"
)

// longPoll is how long a question for news may wait for an answer.
const longPoll = 20 * time.Second

type blockJSON struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Tool   int     `json:"tool"`
	Title  string  `json:"title"`
	Colour string  `json:"colour"`
	Begin  float64 `json:"begin"`
	T0     float64 `json:"t0"`
	End    float64 `json:"end"`
	Mark   string  `json:"mark"`
	Shape  any     `json:"shape"`
	KC     float64 `json:"-"`
}

type eventJSON struct {
	T    float64 `json:"t"`
	Kind string  `json:"kind"`
	Step string  `json:"step"`
	Say  string  `json:"say"`
}

// stateJSON is what the strip and the view need to know.
type stateJSON struct {
	Token   string      `json:"token"`
	Version int         `json:"version"`
	Proven  int         `json:"proven"`
	Error   string      `json:"error"`
	Total   float64     `json:"total"`
	Blocks  []blockJSON `json:"blocks"`
	Events  []eventJSON `json:"events"`
	Power   []float64   `json:"power"`
	Slot    float64     `json:"slot"`
	Limit   float64     `json:"limit"`
	Stock   [6]float64  `json:"stock"`
	Part    [6]float64  `json:"part"`
	Grip    float64     `json:"grip"`
	Place   string      `json:"place"` // changes when the part lies differently
	Shape   string      `json:"shape"` // changes when its faces are others
	Things  int         `json:"things"`
	Worked  bool        `json:"worked"` // every step has a path
	Clean   bool        `json:"clean"`  // and the proof has no findings
}

func token(st *shop.State) string {
	e := 0
	if st.Err != nil {
		e = 1
	}
	return fmt.Sprintf("%d.%d.%d", st.Version, st.Proven, e)
}

// state answers at once, or with ?seen=TOKEN when there is something newer.
func (s *Server) state(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(c.Request().Context(), longPoll)
	defer cancel()
	seen := c.QueryParam("seen")
	st, err := s.desk.Wait(ctx, part.ID, func(st *shop.State) bool { return token(st) != seen && (st.Result != nil || st.Err != nil) })
	if err != nil {
		return err
	}
	out := stateJSON{Token: token(st), Version: st.Version, Proven: st.Proven}
	if st.Err != nil {
		_, out.Error = status(st.Err)
	}
	if st.Result != nil {
		out.fill(st)
	}
	return c.JSON(http.StatusOK, out)
}

// progress tells how far the computation of a part is.
func (s *Server) progress(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	_, job, err := s.desk.State(c.Request().Context(), part.ID)
	if err != nil {
		return err
	}
	share := 0.0
	if job.Total > 0 {
		share = float64(job.Done) / float64(job.Total)
	}
	return c.JSON(http.StatusOK, map[string]any{"running": job.Running, "what": job.What, "share": share})
}

func (o *stateJSON) fill(st *shop.State) {
	r := st.Result
	o.Total = r.Total
	b, p := r.Geometry.Work.Stock, r.Geometry.Work.Part
	o.Stock = [6]float64{b.Min.X, b.Min.Y, b.Min.Z, b.Max.X, b.Max.Y, b.Max.Z}
	o.Part = [6]float64{p.Min.X, p.Min.Y, p.Min.Z, p.Max.X, p.Max.Y, p.Max.Z}
	o.Grip, o.Place, o.Shape = r.Plan.Setup.Grip, r.Geometry.Key, r.Geometry.Shape
	colour := colours(r.Plan)
	o.Worked = len(r.Steps) > 0
	for _, s := range r.Steps {
		o.Worked = o.Worked && s.Fail == ""
		end := s.T0
		for _, t := range s.Times {
			end += t
		}
		mark := "done"
		if w := s.Warnings(&r.Shop); len(w) > 0 {
			mark = "warn"
			o.Things += len(w)
			o.Events = append(o.Events, eventJSON{s.T0, "warning", s.Step.ID, w[0]})
		}
		o.Blocks = append(o.Blocks, blockJSON{ID: s.Step.ID, Name: s.Step.Name, Tool: s.Tool.Position, Title: s.Tool.Name,
			Colour: colour[s.Tool.Position], Begin: end - s.Time, T0: s.T0, End: end, Mark: mark, Shape: toolShape(s.Tool), KC: specificForce(st, &s)})
		kind := "step"
		if s.Change {
			kind = "change"
		}
		o.Events = append(o.Events, eventJSON{s.T0, kind, s.Step.ID, s.Step.Name})
	}
	if st.Proof != nil && st.Proven == st.Version {
		for _, c := range st.Proof.Collisions {
			o.Events = append(o.Events, eventJSON{c.Time, "contact", c.Step, c.Say})
		}
		o.Things += len(st.Proof.Findings())
		o.Clean = o.Worked && st.Proof.Clean()
		o.Slot = st.Proof.Slot
		o.power(st)
	}
	o.Limit = r.Shop.Machine.Power
}

// specificForce is kc at the step's mean chip, N/mm².
func specificForce(st *shop.State, s *shop.StepResult) float64 {
	m := st.Result.Shop.Material
	return m.Kc11 * math.Pow(math.Max(s.Load.HM, 0.002), -m.MC)
}

// power turns the volume removed in each slot of time into spindle power.
func (o *stateJSON) power(st *shop.State) {
	k := 0
	eta := st.Result.Shop.Machine.Efficiency
	o.Power = make([]float64, len(st.Proof.Load))
	for i, q := range st.Proof.Load {
		t := (float64(i) + 0.5) * o.Slot
		for k+1 < len(o.Blocks) && o.Blocks[k+1].Begin <= t {
			k++
		}
		if k < len(o.Blocks) {
			o.Power[i] = math.Round(q*o.Blocks[k].KC/(1e6*eta)*1000) / 1000
		}
	}
}

// toolShape is the outline of an assembly for the view: distance from the
// axis and height above the tip.
func toolShape(t tooling.Tool) map[string]any {
	var cut [][2]float64
	cut = append(cut, [2]float64{0, 0})
	for k := 0; k <= 8; k++ {
		r := t.R() * float64(k) / 8
		if t.Flat() && k > 0 && k < 8 {
			continue
		}
		cut = append(cut, [2]float64{r, t.Profile(r)})
	}
	cut = append(cut, [2]float64{t.R(), t.APMX})
	body := [][2]float64{{t.Shank / 2, t.APMX}, {t.Shank / 2, t.Stickout}}
	var holder [][2]float64
	at := t.Stickout
	for _, h := range t.Holder {
		holder = append(holder, [2]float64{h.D1 / 2, at}, [2]float64{h.D2 / 2, at + h.Length})
		at += h.Length
	}
	return map[string]any{"cut": cut, "shank": body, "holder": holder}
}
