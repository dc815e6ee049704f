package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/workplan"
)

// option is a choice of a list.
type option struct {
	Value, Label string
	On           bool
}

// itemValue and itemOf write and read an item as the value of a choice.
func itemValue(it workplan.Item) string { return fmt.Sprintf("%d:%s:%s", it.Body, it.File, it.Name) }

func itemOf(value string) (workplan.Item, error) {
	v := strings.SplitN(value, ":", 3)
	n, err := strconv.Atoi(v[0])
	if err != nil || len(v) != 3 {
		return workplan.Item{}, workplan.Problem{Field: "item", Say: "choose a body or a file"}
	}
	return workplan.Item{Body: n, File: v[1], Name: v[2]}, nil
}

// items lists the other bodies of the model and the files kept with the part.
func (d *sheetData) items() []workplan.Item {
	var out []workplan.Item
	for _, b := range d.Bodies() {
		if !b.Cut {
			out = append(out, workplan.Item{Body: b.N, Name: b.Name})
		}
	}
	for _, a := range d.Model.Attached {
		out = append(out, workplan.Item{File: a.Hash, Name: a.Name})
	}
	slices.SortStableFunc(out, func(a, b workplan.Item) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// Blanks lists what the stock can be.
func (d *sheetData) Blanks() []option {
	b := d.Saved.Plan.Setup.Blank
	out := []option{{"", "block around the part", b.Kind == ""}, {workplan.Bar, "round bar, standing", b.Kind == workplan.Bar}}
	for _, it := range d.items() {
		out = append(out, option{itemValue(it), it.Name, b.Kind == workplan.Body && b.Item.Body == it.Body && b.Item.File == it.File})
	}
	return out
}

// Fixtures lists what else holds the work.
func (d *sheetData) Fixtures() []option {
	var out []option
	for _, it := range d.Saved.Plan.Setup.Fixtures {
		out = append(out, option{Value: itemValue(it), Label: it.Name})
	}
	return out
}

// Fixable lists what could hold the work and does not yet.
func (d *sheetData) Fixable() []option {
	s := d.Saved.Plan.Setup
	var out []option
	for _, it := range d.items() {
		same := func(o workplan.Item) bool { return o.Body == it.Body && o.File == it.File }
		if !slices.ContainsFunc(s.Fixtures, same) && !(s.Blank.Kind == workplan.Body && same(s.Blank.Item)) {
			out = append(out, option{Value: itemValue(it), Label: it.Name})
		}
	}
	return out
}

// setBlank chooses what the stock is.
func setBlank(p *workplan.Setup, value string) error {
	switch value {
	case "":
		p.Blank = workplan.Blank{}
	case workplan.Bar:
		p.Blank = workplan.Blank{Kind: workplan.Bar, Diameter: p.Blank.Diameter, Length: p.Blank.Length}
	default:
		it, err := itemOf(value)
		if err != nil {
			return err
		}
		p.Blank = workplan.Blank{Kind: workplan.Body, Item: it}
	}
	return nil
}

// setFixture adds a fixture or takes it away.
func setFixture(p *workplan.Setup, value string, add bool) error {
	it, err := itemOf(value)
	if err != nil {
		return err
	}
	p.Fixtures = slices.DeleteFunc(p.Fixtures, func(o workplan.Item) bool { return o.Body == it.Body && o.File == it.File })
	if add {
		p.Fixtures = append(p.Fixtures, it)
	}
	return nil
}

// attach keeps a file with the part and makes it the stock or a fixture.
func (s *Server) attach(c *echo.Context) error {
	as := c.FormValue("as")
	return s.editedAs(c, "hold", "", as, "", s.attachAs(c, as))
}

func (s *Server) attachAs(c *echo.Context, as string) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	name, data, err := uploaded(c, "file")
	if errors.Is(err, http.ErrMissingFile) {
		return workplan.Problem{Field: as, Say: "choose a file: STEP, STL or DXF"}
	} else if err != nil {
		return err
	}
	it, err := s.desk.Attach(c.Request().Context(), part, name, data)
	if err != nil {
		return err
	}
	_, err = s.desk.Setup(c.Request().Context(), part.ID, "setup "+as, func(p *workplan.Setup) error {
		return setSetup(p, as, itemValue(it))
	})
	return err
}

// fixtures sends the triangles of what holds the work besides the vise.
func (s *Server) fixtures(c *echo.Context) error {
	_, st, err := s.ready(c)
	if err != nil {
		return err
	}
	var p packer
	m := st.Result.Geometry.Holding
	for _, t := range m.Tris {
		for _, v := range t {
			p.f32(m.Points[v].X, m.Points[v].Y, m.Points[v].Z)
		}
	}
	return p.send(c)
}
