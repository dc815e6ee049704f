package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/feature"
	"arete/core/quantity"
	"arete/core/tooling"
	"arete/core/workplan"
	"arete/shop"
)

// edited shows the sheet after a change, or the change's error in place.
func (s *Server) edited(c *echo.Context, key, step, field string, err error) error {
	return s.editedAs(c, key, step, field, c.FormValue("value"), err)
}

// editedAs is edited for a form whose field is not called value.
func (s *Server) editedAs(c *echo.Context, key, step, field, typed string, err error) error {
	if err == nil {
		return s.show(c, key, step, "", "", "")
	}
	code, say := status(err)
	if code != http.StatusUnprocessableEntity {
		return err
	}
	var p workplan.Problem
	if field == "" && errors.As(err, &p) {
		field = p.Field
	}
	return s.show(c, key, step, field, typed, say)
}

// editStep carries out one change of a step.
func (s *Server) editStep(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	id, act := c.Param("step"), c.Param("act")
	do, ok := stepActs[act]
	if !ok {
		return shop.ErrNotFound
	}
	next := id
	label := act + " " + c.FormValue("key")
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	_, err = s.desk.Edit(c.Request().Context(), part.ID, strings.TrimSpace(label), func(p *workplan.Plan) error {
		i := p.Find(id)
		if i < 0 {
			return shop.ErrNotFound
		}
		var err error
		next, err = do(c, p, i, lib)
		return err
	})
	field := c.FormValue("key")
	if c.FormValue("stay") == "route" || next == "" {
		next = ""
	}
	return s.edited(c, "cut", next, field, err)
}

// stepActs are the changes of a step; each returns the step to show next.
var stepActs = map[string]func(c *echo.Context, p *workplan.Plan, i int, lib *shop.Library) (string, error){
	"set": func(c *echo.Context, p *workplan.Plan, i int, lib *shop.Library) (string, error) {
		st := &p.Steps[i]
		env := map[string]float64{}
		if t := tooling.ByPosition(lib.Tools, st.Tool); t != nil {
			env["D"], env["L"], env["R"] = t.DC, t.APMX, t.DC/2
		}
		v, err := quantity.Parse(c.FormValue("value"), 1, env)
		if err == nil {
			err = st.Type(c.FormValue("key"), v)
		}
		return st.ID, err
	},
	"reset": func(c *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		delete(p.Steps[i].Typed, c.FormValue("key"))
		return p.Steps[i].ID, nil
	},
	"pick": func(c *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		return p.Steps[i].ID, p.Steps[i].Pick(c.FormValue("key"), c.FormValue("value"))
	},
	"tool": func(c *echo.Context, p *workplan.Plan, i int, lib *shop.Library) (string, error) {
		n, err := strconv.Atoi(c.FormValue("value"))
		if err != nil || tooling.ByPosition(lib.Tools, n) == nil {
			return p.Steps[i].ID, workplan.Problem{Field: "tool", Say: fmt.Sprintf("T%s is not in the magazine: choose another tool", c.FormValue("value"))}
		}
		p.Steps[i].Tool = n
		return p.Steps[i].ID, nil
	},
	"name": func(c *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		name := strings.TrimSpace(c.FormValue("value"))
		if name == "" || len(name) > 80 {
			return p.Steps[i].ID, workplan.Problem{Field: "name", Say: "a name has 1 to 80 characters"}
		}
		p.Steps[i].Name = name
		return p.Steps[i].ID, nil
	},
	"feature": func(c *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		st, id := &p.Steps[i], c.FormValue("value")
		if k := slices.Index(st.Features, id); k >= 0 {
			st.Features = slices.Delete(st.Features, k, k+1)
		} else {
			st.Features = append(st.Features, id)
		}
		return st.ID, nil
	},
	"off": func(_ *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		p.Steps[i].Off = !p.Steps[i].Off
		return p.Steps[i].ID, nil
	},
	"duplicate": func(_ *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		d := p.Steps[i].Clone()
		d.ID = p.NewID()
		d.Name += " (copy)"
		p.Steps = slices.Insert(p.Steps, i+1, d)
		return d.ID, nil
	},
	"delete": func(_ *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		p.Steps = slices.Delete(p.Steps, i, i+1)
		return "", nil
	},
	"move": func(c *echo.Context, p *workplan.Plan, i int, _ *shop.Library) (string, error) {
		by, err := strconv.Atoi(c.FormValue("value"))
		j := i + by
		if err != nil || j < 0 || j >= len(p.Steps) {
			return p.Steps[i].ID, workplan.Problem{Field: "move", Say: "the step is at that end of the route already"}
		}
		st := p.Steps[i]
		p.Steps = slices.Insert(slices.Delete(p.Steps, i, i+1), j, st)
		return st.ID, nil
	},
}

// addStep adds a step for a feature, or for the feature of a picked face.
func (s *Server) addStep(c *echo.Context) error {
	part, st, err := s.ready(c)
	if err != nil {
		return err
	}
	set := st.Result.Geometry.Work.Features
	var f *feature.Feature
	if id := c.FormValue("feature"); id != "" {
		f = set.ByID(id)
	} else if n, err := strconv.Atoi(c.FormValue("face")); err == nil && n >= 0 && n < len(set.Owner) && set.Owner[n] >= 0 {
		f = set.Features[set.Owner[n]]
	}
	if f == nil {
		return s.edited(c, "cut", "", "add", workplan.Problem{Field: "add", Say: "pick a face of the part, or a line of the ledger, to add a step for it"})
	}
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	next := ""
	_, err = s.desk.Edit(c.Request().Context(), part.ID, "add a step", func(p *workplan.Plan) error {
		step, err := stepFor(f, lib)
		if err != nil {
			return err
		}
		step.ID = p.NewID()
		next = step.ID
		p.Steps = append(p.Steps, step)
		return nil
	})
	return s.edited(c, "cut", next, "add", err)
}

// stepFor is the plainest step that makes a feature.
func stepFor(f *feature.Feature, lib *shop.Library) (workplan.Step, error) {
	if f.Approach.Z < 0.99 && !(f.Kind == feature.RoundHole && f.Params.Through) {
		return workplan.Step{}, workplan.Problem{Field: "add", Say: f.Title() + ": " + f.Why}
	}
	st := workplan.Step{Op: workplan.Clearing, Name: "Clear " + f.Title(), Features: []string{f.ID}}
	want := tooling.EndMill
	switch f.Kind {
	case feature.RoundHole:
		st.Op, st.Name, want = workplan.Drilling, "Drill "+f.Title(), tooling.Drill
	case feature.PlanarFace:
		st.Op, st.Name = workplan.FloorFinishing, "Finish "+f.Title()
	case feature.Chamfer:
		st.Op, st.Name, want = workplan.EdgeBreaking, "Break "+f.Title(), tooling.ChamferMill
	}
	best := -1
	for i, t := range lib.Tools {
		if t.Kind != want {
			continue
		}
		closer := best < 0
		if !closer && want == tooling.Drill {
			closer = abs(t.DC-f.Params.Diameter) < abs(lib.Tools[best].DC-f.Params.Diameter)
		} else if !closer {
			closer = abs(t.DC-8) < abs(lib.Tools[best].DC-8)
		}
		if closer {
			best = i
		}
	}
	if best < 0 {
		return st, workplan.Problem{Field: "add", Say: "the magazine has no " + strings.ReplaceAll(string(want), "_", " ") + ": add one in the tool room"}
	}
	st.Tool = lib.Tools[best].Position
	return st, nil
}

func abs(v float64) float64 { return max(v, -v) }

// saveSetup changes stock, origin, direction, work offset or grip.
func (s *Server) saveSetup(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	key, value := c.FormValue("key"), c.FormValue("value")
	_, err = s.desk.Setup(c.Request().Context(), part.ID, "setup "+key, func(p *workplan.Setup) error { return setSetup(p, key, value) })
	return s.edited(c, "hold", "", key, err)
}

func setSetup(p *workplan.Setup, key, value string) error {
	numbers := map[string]*float64{"x_min": &p.Stock.XMin, "x_max": &p.Stock.XMax, "y_min": &p.Stock.YMin, "y_max": &p.Stock.YMax,
		"z_min": &p.Stock.ZMin, "z_max": &p.Stock.ZMax, "grip": &p.Grip, "diameter": &p.Blank.Diameter, "length": &p.Blank.Length, "shift_x": &p.Origin.Shift[0], "shift_y": &p.Origin.Shift[1], "shift_z": &p.Origin.Shift[2]}
	if n, ok := numbers[key]; ok {
		v, err := quantity.Parse(value, 1, nil)
		if err == nil {
			*n = v
		}
		return err
	}
	switch key {
	case "here": // a point in the coordinates that hold now
		v := strings.Split(value, ",")
		for i := range p.Origin.Shift {
			if len(v) != 3 {
				return workplan.Problem{Field: "here", Say: "pick a point of the part"}
			}
			d, err := quantity.Parse(v[i], 1, nil)
			if err != nil {
				return err
			}
			p.Origin.Shift[i] += d
		}
		return nil
	case "up":
		up, ok := directions[value]
		if !ok {
			return workplan.Problem{Field: "up", Say: "choose one of the six directions"}
		}
		p.Up = up
	case "of":
		p.Origin.Of = value
	case "at":
		var x, y, z int
		if _, err := fmt.Sscanf(value, "%d,%d,%d", &x, &y, &z); err != nil || max(x, y, z) > 1 || min(x, y, z) < -1 {
			return workplan.Problem{Field: "at", Say: "choose one of the points of the box"}
		}
		p.Origin.At = [3]int{x, y, z}
	case "blank":
		return setBlank(p, value)
	case "fix", "unfix":
		return setFixture(p, value, key == "fix")
	case "work_offset":
		p.WorkOffset = strings.ToUpper(strings.TrimSpace(value))
	default:
		return workplan.Problem{Field: key, Say: "there is no such setting"}
	}
	return nil
}

var directions = map[string][3]float64{"X": {1, 0, 0}, "-X": {-1, 0, 0}, "Y": {0, 1, 0}, "-Y": {0, -1, 0}, "Z": {0, 0, 1}, "-Z": {0, 0, -1}}

// saveDrive changes machine, material, dialect, push or grip.
func (s *Server) saveDrive(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	key, value := c.FormValue("key"), c.FormValue("value")
	_, err = s.desk.Edit(c.Request().Context(), part.ID, key, func(p *workplan.Plan) error {
		switch key {
		case "machine":
			_, err := lib.Machine(value)
			p.Machine, p.Dialect = value, ""
			return err
		case "material":
			_, err := lib.Material(value)
			p.Material = value
			return err
		case "dialect":
			_, err := lib.Dialect(value)
			p.Dialect = value
			return err
		case "push", "grip":
			n, err := strconv.Atoi(value)
			if err != nil || n < 0 || n > 100 {
				return workplan.Problem{Field: key, Say: key + " lies between 0 and 100"}
			}
			if key == "push" {
				p.Push = n
			} else {
				p.Grip = n
			}
			return nil
		}
		return workplan.Problem{Field: key, Say: "there is no such setting"}
	})
	station := "tools"
	if key == "dialect" {
		station = "release"
	}
	return s.edited(c, station, "", key, err)
}

func (s *Server) undo(c *echo.Context) error { return s.history(c, s.desk.Undo) }
func (s *Server) redo(c *echo.Context) error { return s.history(c, s.desk.Redo) }
