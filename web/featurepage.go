package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/feature"
	"arete/core/quantity"
	"arete/core/workplan"
	"arete/shop"
)

// fact is a named number of a feature.
type fact struct{ Label, Value string }

// featureDetail is what the ledger shows of the feature chosen.
type featureDetail struct {
	PartID  int64
	Feature *feature.Feature
	Title   string
	Say     string
	Steps   []labelledStep
	Facts   []fact
	Kinds   []feature.Kind
	Message string
}

type labelledStep struct{ ID, Name string }

// feature shows what is known of a feature and takes amendments.
func (s *Server) feature(c *echo.Context) error { return s.showFeature(c, http.StatusOK, "") }

func (s *Server) showFeature(c *echo.Context, code int, message string) error {
	d, err := s.gather(c, "part", "")
	if err != nil {
		return err
	}
	for _, r := range d.Ledger {
		if r.Feature.ID != c.Param("feature") {
			continue
		}
		f := r.Feature
		out := featureDetail{PartID: d.Part.ID, Feature: f, Title: r.Title, Say: r.Say, Facts: facts(f), Message: message}
		if f.CanBe(feature.Slot) {
			out.Kinds = feature.Milled
		}
		for _, id := range r.Steps {
			for _, st := range d.Saved.Plan.Steps {
				if st.ID == id {
					out.Steps = append(out.Steps, labelledStep{id, st.Name})
				}
			}
		}
		return s.pages.write(c, code, "feature", out)
	}
	return shop.ErrNotFound
}

// amend renames a feature, calls it another kind, or leaves it as it is.
func (s *Server) amend(c *echo.Context) error {
	part, st, err := s.ready(c)
	if err != nil {
		return err
	}
	f := st.Result.Geometry.Work.Features.ByID(c.Param("feature"))
	if f == nil || len(f.Faces) == 0 {
		return shop.ErrNotFound
	}
	key, value := c.FormValue("key"), strings.TrimSpace(c.FormValue("value"))
	_, err = s.desk.Edit(c.Request().Context(), part.ID, key+" of "+f.ID, func(p *workplan.Plan) error {
		return setAmendment(p, st.Result.Geometry.Work.Features, f, key, value)
	})
	if err != nil {
		code, say := status(err)
		if code != http.StatusUnprocessableEntity {
			return err
		}
		return s.showFeature(c, code, say)
	}
	if _, err := s.desk.Ready(c.Request().Context(), part.ID); err != nil {
		return err
	}
	return s.showFeature(c, http.StatusOK, "")
}

// setAmendment changes the amendment of the feature f. One that is left goes
// out of the steps; a step without another goes too.
func setAmendment(p *workplan.Plan, set *feature.Set, f *feature.Feature, key, value string) error {
	i := slices.IndexFunc(p.Setup.Amend, func(a feature.Amendment) bool {
		return a.Face < len(set.Owner) && set.Owner[a.Face] >= 0 && set.Features[set.Owner[a.Face]] == f
	})
	if i < 0 {
		face := slices.IndexFunc(set.Owner, func(k int) bool { return k >= 0 && set.Features[k] == f })
		if face < 0 {
			return workplan.Problem{Field: key, Say: "this feature shares all its faces with another: amend that one"}
		}
		i = len(p.Setup.Amend)
		p.Setup.Amend = append(p.Setup.Amend, feature.Amendment{Face: face})
	}
	a := &p.Setup.Amend[i]
	switch key {
	case "name":
		if len([]rune(value)) > 60 {
			return workplan.Problem{Field: key, Say: "a name has at most 60 letters"}
		}
		a.Name = value
	case "kind":
		if !f.CanBe(feature.Kind(value)) {
			return workplan.Problem{Field: key, Say: "this feature cannot be called that"}
		}
		a.Kind = feature.Kind(value)
	case "leave":
		a.Leave = value == "yes"
		if a.Leave {
			takeOut(p, f.ID)
		}
	default:
		return workplan.Problem{Field: key, Say: "there is no such setting"}
	}
	return nil
}

func takeOut(p *workplan.Plan, id string) {
	p.Steps = slices.DeleteFunc(p.Steps, func(s workplan.Step) bool {
		return len(s.Features) == 1 && s.Features[0] == id
	})
	for i := range p.Steps {
		p.Steps[i].Features = slices.DeleteFunc(p.Steps[i].Features, func(f string) bool { return f == id })
	}
}

// facts lists the numbers of a feature as a drawing would.
func facts(f *feature.Feature) []fact {
	p := f.Params
	var out []fact
	add := func(label string, v float64, unit string) {
		if v != 0 {
			out = append(out, fact{label, quantity.Format(v, 3) + unit})
		}
	}
	add("⌀", p.Diameter, " mm")
	add("Length", p.Length, " mm")
	add("Width", p.Width, " mm")
	if p.Depth == 0 {
		p.Depth = p.TopZ - p.FloorZ
	}
	if p.Through {
		out = append(out, fact{"Depth", quantity.Format(p.Depth, 3) + " mm, through"})
	} else {
		add("Depth", p.Depth, " mm")
	}
	if f.Approach.Z > 1-1e-9 {
		out = append(out, fact{"From, to", "Z" + quantity.Format(p.TopZ, 3) + ", Z" + quantity.Format(p.FloorZ, 3)})
	}
	if f.Kind == feature.RoundHole {
		out = append(out, fact{"Axis at", fmt.Sprintf("X%s Y%s", quantity.Format(p.Center.X, 3), quantity.Format(p.Center.Y, 3))}, fact{"Bottom", p.Bottom})
	}
	add("Point", p.PointAngle, "°")
	if p.Counterbore.Diameter > 0 {
		out = append(out, fact{"Counterbore", fmt.Sprintf("⌀%s × %s mm", quantity.Format(p.Counterbore.Diameter, 3), quantity.Format(p.Counterbore.Depth, 3))})
	}
	if p.Countersink.Diameter > 0 {
		out = append(out, fact{"Countersink", fmt.Sprintf("⌀%s mm, %s°", quantity.Format(p.Countersink.Diameter, 3), quantity.Format(p.Countersink.Angle, 1))})
	}
	if p.Thread != "" {
		out = append(out, fact{"Likely thread", p.Thread})
	}
	add("Tightest inside corner", p.MinInsideRadius, " mm")
	add("Round at the floor", p.FloorRadius, " mm")
	add("Draft", p.Draft, "°")
	add("Round", p.Radius, " mm")
	if p.Islands > 0 {
		out = append(out, fact{"Islands", fmt.Sprint(p.Islands)})
	}
	var from []string
	for _, d := range f.Directions {
		from = append(from, feature.Toward(d))
	}
	out = append(out, fact{"Cut from", strings.Join(from, " or ")})
	if len(f.Neighbours) > 0 {
		out = append(out, fact{"Meets", strings.Join(f.Neighbours, ", ")})
	}
	return out
}
