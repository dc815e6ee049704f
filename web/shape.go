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

// saveLayer sets top or depth of a drawing's layer, or leaves it out.
func (s *Server) saveLayer(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	layer, key, value := c.FormValue("layer"), c.FormValue("key"), c.FormValue("value")
	_, err = s.desk.Reshape(c.Request().Context(), part.ID, "level of layer "+layer, func(p *workplan.Setup, m *shop.Model) error {
		levels := slices.Clone(m.Levels(*p))
		i := slices.IndexFunc(levels, func(l drawing.Level) bool { return l.Layer == layer })
		if i < 0 {
			return workplan.Problem{Field: "layer", Say: "the drawing has no such layer"}
		}
		if key == "off" {
			levels[i].Off = value != "made"
		} else {
			v, err := quantity.Parse(value, 1, nil)
			if err != nil {
				return err
			}
			if key == "top" {
				levels[i].Top = v
			} else {
				levels[i].Depth = v
			}
		}
		p.Layers = levels
		if _, _, err := m.Body(*p); err != nil {
			return workplan.Problem{Field: "layer", Say: err.Error()}
		}
		return nil
	})
	return s.edited(c, "part", "", "layer-"+layer+"-"+key, err)
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
