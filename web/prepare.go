package web

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/feature"
	"arete/core/prepare"
	"arete/core/quantity"
	"arete/core/workplan"
	"arete/shop"
)

const changed = "the part has changed since this was selected: select again"

// numbers reads a list of indices below a limit.
func numbers(s string, below int) ([]int, error) {
	var out []int
	for _, v := range strings.Split(s, ",") {
		if v == "" {
			continue
		}
		n, err := strconv.Atoi(v)
		if err != nil || n < 0 || n >= below {
			return nil, workplan.Problem{Field: "prepare", Say: changed}
		}
		out = append(out, n)
	}
	return out, nil
}

// selected reads the faces and edges that a form sends; edges are counted as
// they are drawn. They must be those of the shape that the page shows.
func selected(c *echo.Context, g *shop.Geometry) (faces, edges []int, err error) {
	s := g.Solid
	if shown := c.FormValue("shape"); shown != "" && shown != g.Shape {
		return nil, nil, workplan.Problem{Field: "prepare", Say: changed}
	}
	if faces, err = numbers(c.FormValue("faces"), len(s.Faces)); err != nil {
		return nil, nil, err
	}
	drawn := drawnEdges(s)
	picked, err := numbers(c.FormValue("edges"), len(drawn))
	for _, i := range picked {
		edges = append(edges, slices.Index(s.Edges, drawn[i]))
	}
	return faces, edges, err
}

// prepare changes the body before it is cut, or takes the last change back.
func (s *Server) prepare(c *echo.Context) error {
	part, st, err := s.ready(c)
	if err != nil {
		return err
	}
	g := st.Result.Geometry
	add, err := changeOf(c, g)
	if err == nil {
		label := "last change taken back"
		if add != nil {
			label = strings.ToLower(add.Label())
		}
		_, err = s.desk.Prepare(c.Request().Context(), part.ID, label, g.Shape, func(list []prepare.Change) []prepare.Change {
			if add == nil {
				return list[:max(0, len(list)-1)]
			}
			return append(list, *add)
		})
	}
	return s.editedAs(c, "part", "", "prepare", c.FormValue("size"), err)
}

// changeOf reads a change from a form, nil to take the last one back.
func changeOf(c *echo.Context, g *shop.Geometry) (*prepare.Change, error) {
	faces, edges, err := selected(c, g)
	if err != nil {
		return nil, err
	}
	ch := prepare.Change{Act: prepare.Act(c.FormValue("act"))}
	switch ch.Act {
	case "back":
		return nil, nil
	case prepare.Remove, prepare.Paint:
		if ch.Faces = faces; len(faces) == 0 {
			return nil, workplan.Problem{Field: "prepare", Say: "select the faces first: click them in the view"}
		}
	case prepare.Chamfer, prepare.Round:
		if ch.Edges = edges; len(edges) == 0 {
			return nil, workplan.Problem{Field: "prepare", Say: "select the edges first: Ctrl+click close to them in the view"}
		}
		if ch.Size, err = quantity.Parse(c.FormValue("size"), 1, nil); err != nil {
			return nil, err
		}
	default:
		return nil, workplan.Problem{Field: "prepare", Say: "there is no such change"}
	}
	if ch.Act == prepare.Paint {
		var rgb uint32
		if _, err := fmt.Sscanf(c.FormValue("colour"), "#%06x", &rgb); err != nil {
			return nil, workplan.Problem{Field: "prepare", Say: "choose a colour"}
		}
		ch.Colour = 0xff000000 | rgb
	}
	return &ch, nil
}

// group makes a feature of faces, joins features, or takes the last of that
// back.
func (s *Server) group(c *echo.Context) error {
	part, st, err := s.ready(c)
	if err != nil {
		return err
	}
	g := st.Result.Geometry
	faces, _, err := selected(c, g)
	act := feature.Act(c.FormValue("act"))
	if err == nil && act != "back" && len(faces) == 0 {
		err = workplan.Problem{Field: "prepare", Say: "select the faces first: click them in the view"}
	}
	if err == nil {
		label := map[feature.Act]string{feature.Own: "a feature of its own", feature.Join: "features joined", "back": "features as found"}[act]
		_, err = s.desk.Regroup(c.Request().Context(), part.ID, label, g.Shape, func(list []feature.Group) []feature.Group {
			if act == "back" {
				return list[:max(0, len(list)-1)]
			}
			return append(list, feature.Group{Act: act, Faces: faces})
		})
	}
	return s.editedAs(c, "part", "", "prepare", "", err)
}

// picks keeps a selection by a name, or forgets one.
func (s *Server) picks(c *echo.Context) error {
	part, st, err := s.ready(c)
	if err != nil {
		return err
	}
	g := st.Result.Geometry
	name, drop := strings.TrimSpace(c.FormValue("name")), c.FormValue("drop")
	faces, _, err := selected(c, g)
	var edges []int
	if err == nil {
		edges, err = numbers(c.FormValue("edges"), len(drawnEdges(g.Solid)))
	}
	if err == nil {
		_, err = s.desk.Edit(c.Request().Context(), part.ID, "selections kept", func(p *workplan.Plan) error {
			if drop != "" {
				p.Setup.Picks = slices.DeleteFunc(p.Setup.Picks, func(k workplan.Pick) bool { return k.Name == drop })
				return nil
			}
			if name == "" || len([]rune(name)) > 40 || len(faces)+len(edges) == 0 {
				return workplan.Problem{Field: "picks", Say: "select faces or edges and give them a name of up to 40 letters"}
			}
			k := workplan.Pick{Name: name, Faces: faces, Edges: edges}
			if i := slices.IndexFunc(p.Setup.Picks, func(q workplan.Pick) bool { return q.Name == name }); i >= 0 {
				p.Setup.Picks[i] = k
				return nil
			}
			p.Setup.Picks = append(p.Setup.Picks, k)
			return nil
		})
	}
	return s.editedAs(c, "part", "", "picks", name, err)
}
