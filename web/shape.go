package web

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strconv"

	"github.com/labstack/echo/v5"

	"arete/core/drawing"
	"arete/core/quantity"
	"arete/core/workplan"
	"arete/shop"
)

// bodyRow is a body of the model to choose from.
type bodyRow struct {
	N    int // from 1
	Name string
	Size string
	Cut  bool
}

// Bodies lists the model's bodies.
func (d *sheetData) Bodies() []bodyRow {
	all, err := d.Model.All(d.Saved.Plan.Setup)
	if err != nil {
		return nil
	}
	var out []bodyRow
	for i, b := range all {
		name, size := b.Name, b.Box().Size()
		if name == "" {
			name = fmt.Sprintf("Body %d", i+1)
		}
		out = append(out, bodyRow{i + 1, name, fmt.Sprintf("%.1f × %.1f × %.1f", size.X, size.Y, size.Z), i == d.Cut})
	}
	return out
}

// Levels lists the layers of a flat drawing.
func (d *sheetData) Levels() []drawing.Level { return d.Model.Levels(d.Saved.Plan.Setup) }

// saveBody chooses the body to cut.
func (s *Server) saveBody(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	_, err = s.desk.Reshape(c.Request().Context(), part.ID, "cut another body", func(p *workplan.Setup, m *shop.Model) error {
		n, err := strconv.Atoi(c.FormValue("value"))
		if err != nil || n < 1 {
			return workplan.Problem{Field: "body", Say: "choose a body of the model"}
		}
		p.Body = n
		own := func(it workplan.Item) bool { return it.Body == n }
		if p.Fixtures = slices.DeleteFunc(p.Fixtures, own); own(p.Blank.Item) {
			p.Blank = workplan.Blank{}
		}
		_, _, err = m.Body(*p)
		return err
	})
	return s.edited(c, "part", "", "body", err)
}

// saveLayer sets top or depth of a drawing's layer or chain, leaves it out, or
// gives a chain a level of its own.
func (s *Server) saveLayer(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	layer, key := c.FormValue("layer"), c.FormValue("key")
	chain, _ := strconv.Atoi(c.FormValue("chain"))
	at := drawing.Place{Layer: layer, Chain: chain}
	if key == "own" {
		at, err = s.chainOf(c)
	}
	if err == nil {
		_, err = s.desk.Reshape(c.Request().Context(), part.ID, "level of layer "+at.Layer, func(p *workplan.Setup, m *shop.Model) error {
			levels, err := setLevel(slices.Clone(m.Levels(*p)), at, key, c.FormValue("value"))
			if err != nil {
				return err
			}
			p.Layers = levels
			if _, _, err := m.Body(*p); err != nil {
				return workplan.Problem{Field: "layer", Say: err.Error()}
			}
			return nil
		})
	}
	return s.edited(c, "part", "", levelField(at, key), err)
}

func levelField(at drawing.Place, key string) string {
	if at.Chain > 0 {
		return fmt.Sprintf("layer-%s-%d-%s", at.Layer, at.Chain, key)
	}
	return "layer-" + at.Layer + "-" + key
}

// setLevel changes the level of a place.
func setLevel(levels []drawing.Level, at drawing.Place, key, value string) ([]drawing.Level, error) {
	find := func(chain int) int {
		return slices.IndexFunc(levels, func(l drawing.Level) bool { return l.Layer == at.Layer && l.Chain == chain })
	}
	i := find(at.Chain)
	switch {
	case key == "own" && i >= 0:
		return nil, workplan.Problem{Field: "layer", Say: "this chain has a level of its own already"}
	case key == "own":
		if i = find(0); i < 0 {
			return nil, workplan.Problem{Field: "layer", Say: "the drawing has no such layer"}
		}
		l := levels[i]
		l.Chain = at.Chain
		return slices.Insert(levels, i+1, l), nil
	case i < 0:
		return nil, workplan.Problem{Field: "layer", Say: "the drawing has no such layer"}
	case key == "drop" && at.Chain > 0:
		return slices.Delete(levels, i, i+1), nil
	case key == "off":
		levels[i].Off = value != "made"
		return levels, nil
	}
	v, err := quantity.Parse(value, 1, nil)
	if key == "top" {
		levels[i].Top = v
	} else {
		levels[i].Depth = v
	}
	return levels, err
}

// chainOf finds the chain that the selected face was made of.
func (s *Server) chainOf(c *echo.Context) (drawing.Place, error) {
	r, m, err := s.computed(c)
	if err != nil {
		return drawing.Place{}, err
	}
	g := r.Geometry
	faces, _, err := selected(c, g)
	if err != nil {
		return drawing.Place{}, err
	}
	for _, i := range faces {
		for _, l := range g.Solid.Faces[i].Loops {
			for _, u := range l.Coedges {
				mid, _ := u.Edge.Mid()
				if at, ok := drawing.At(m.Chains, g.Frame.ToWorld(mid).XY()); ok {
					return at, nil
				}
			}
		}
	}
	return drawing.Place{}, workplan.Problem{Field: "layer", Say: "select a wall or a floor of the chain in the view first"}
}

// export sends a file taken out of the part.
func (s *Server) export(c *echo.Context) error {
	part, st, err := s.ready(c)
	if err != nil {
		return err
	}
	file := c.Param("file")
	write := shop.Exports[file]
	if write == nil {
		return shop.ErrNotFound
	}
	at := math.Inf(1)
	if v, err := strconv.ParseFloat(c.QueryParam("t"), 64); err == nil {
		at = v
	}
	proof := st.Proof
	if file == "stock.stl" && proof == nil {
		if st, err = s.desk.Proven(c.Request().Context(), part.ID); err != nil {
			return err
		}
		proof = st.Proof
	}
	var b bytes.Buffer
	if err := write(&b, part.Name, st.Result, proof, at); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", plainName(part)+"-"+file))
	return c.Blob(200, "application/octet-stream", b.Bytes())
}
