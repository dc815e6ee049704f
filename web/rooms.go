package web

import (
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/quantity"
	"arete/core/tooling"
	"arete/core/workplan"
	"arete/shop"
)

type benchCard struct {
	shop.Part
	Steps int
	Time  float64
	State string
	Say   string
}

func (s *Server) bench(c *echo.Context) error { return s.showBench(c, http.StatusOK, "") }

func (s *Server) showBench(c *echo.Context, code int, message string) error {
	ctx := c.Request().Context()
	parts, err := s.desk.Parts(ctx)
	if err != nil {
		return err
	}
	var cards []benchCard
	waiting := false
	for _, p := range parts {
		card := benchCard{Part: p, State: "waiting", Say: "being worked out"}
		st, _, err := s.desk.State(ctx, p.ID)
		if err != nil {
			return err
		}
		if st.Result != nil {
			card.Steps, card.Time = len(st.Result.Steps), st.Result.Total
		}
		switch {
		case st.Err != nil:
			card.State, card.Say = "fail", st.Err.Error()
		case st.Proof != nil && st.Proof.Clean():
			card.State, card.Say = "finished", "proven, ready to release"
		case st.Proof != nil:
			card.State, card.Say = "left", fmt.Sprintf("%d things to look at", len(st.Proof.Findings()))
		}
		waiting = waiting || card.State == "waiting"
		cards = append(cards, card)
	}
	return s.pages.write(c, code, "bench", map[string]any{"Cards": cards, "Message": message, "Waiting": waiting})
}

// uploaded returns name and content of a file sent with a form.
func uploaded(c *echo.Context, field string) (name string, data []byte, err error) {
	file, err := c.FormFile(field)
	if err != nil {
		return "", nil, err
	}
	f, err := file.Open()
	if err != nil {
		return "", nil, err
	}
	defer f.Close()
	data, err = io.ReadAll(f)
	return filepath.Base(file.Filename), data, err
}

// importPart takes an uploaded model.
func (s *Server) importPart(c *echo.Context) error {
	name, data, err := uploaded(c, "model")
	if errors.Is(err, http.ErrMissingFile) {
		return s.showBench(c, http.StatusUnprocessableEntity, "Choose a file first: a STEP file, an STL mesh or a DXF drawing.")
	} else if err != nil {
		return err
	}
	id, err := s.desk.Import(c.Request().Context(), shop.Part{File: name, Name: strings.TrimSuffix(name, filepath.Ext(name))}, data)
	if err != nil {
		if code, say := status(err); code == http.StatusUnprocessableEntity {
			return s.showBench(c, code, name+": "+strings.TrimPrefix(say, shop.ErrInput.Error()+": "))
		}
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/parts/%d/part", id))
}

func (s *Server) deletePart(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	if err := s.desk.Delete(c.Request().Context(), part.ID); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/")
}

type toolData struct {
	Library *shop.Library
	Tools   []tooling.Tool
	Tool    *tooling.Tool
	Find    string
	Message string
	Saved   bool
}

// Drawing draws the chosen tool.
func (d toolData) Drawing() template.HTML { return ToolDrawing(d.Tool, "var(--act)") }

// Mini draws a tool of the list.
func (d toolData) Mini(t tooling.Tool) template.HTML { return ToolDrawing(&t, "var(--act)") }

func (s *Server) toolRoom(c *echo.Context) error { return s.showTools(c, 0, nil, "") }

func (s *Server) toolPage(c *echo.Context) error {
	n, err := strconv.Atoi(c.Param("tool"))
	if err != nil {
		return shop.ErrNotFound
	}
	return s.showTools(c, n, nil, "")
}

func (s *Server) showTools(c *echo.Context, position int, edited *tooling.Tool, message string) error {
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	d := toolData{Library: lib, Find: c.QueryParam("find"), Message: message, Saved: c.QueryParam("saved") != ""}
	for _, t := range lib.Tools {
		text := strings.ToLower(fmt.Sprintf("T%d %s %s %g", t.Position, t.Name, t.Kind, t.DC))
		if strings.Contains(text, strings.ToLower(d.Find)) {
			d.Tools = append(d.Tools, t)
		}
	}
	slices.SortFunc(d.Tools, func(a, b tooling.Tool) int { return a.Position - b.Position })
	d.Tool = edited
	if d.Tool == nil && position > 0 {
		if d.Tool = tooling.ByPosition(lib.Tools, position); d.Tool == nil {
			return shop.ErrNotFound
		}
	}
	return s.pages.write(c, sheetStatus(message), "tools", d)
}

// addTool copies the first end mill to a free position.
func (s *Server) addTool(c *echo.Context) error {
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	t := tooling.Tool{Name: "New end mill 10", Kind: tooling.EndMill, Substrate: tooling.Carbide, DC: 10, APMX: 22, ZEFF: 3, Shank: 10, Stickout: 32,
		Holder: []tooling.Segment{{D1: 24, D2: 28, Length: 30}}}
	for t.Position = 1; tooling.ByPosition(lib.Tools, t.Position) != nil; t.Position++ {
		t.ID = max(t.ID, t.Position)
	}
	t.ID = len(lib.Tools) + 1
	lib.Tools = append(lib.Tools, t)
	if err := s.desk.SaveLibrary(c.Request().Context(), lib); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/tools/%d", t.Position))
}

func (s *Server) saveTool(c *echo.Context) error {
	ctx := c.Request().Context()
	n, _ := strconv.Atoi(c.Param("tool"))
	lib, err := s.desk.Library(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(lib.Tools, func(t tooling.Tool) bool { return t.Position == n })
	if i < 0 {
		return shop.ErrNotFound
	}
	t := lib.Tools[i]
	err = readTool(c, &t)
	if err == nil {
		err = t.Validate()
	}
	if err == nil {
		lib.Tools[i] = t
		err = s.desk.SaveLibrary(ctx, lib)
	}
	if err != nil {
		_, say := status(err)
		return s.showTools(c, n, &t, say)
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/tools/%d?saved=1", t.Position))
}

// readTool reads the form of a tool; numbers take units.
func readTool(c *echo.Context, t *tooling.Tool) error {
	t.Name = strings.TrimSpace(c.FormValue("name"))
	t.Kind = tooling.Kind(c.FormValue("kind"))
	t.Substrate = tooling.Substrate(c.FormValue("substrate"))
	var errs error
	read := func(key string, into *float64) {
		v, err := quantity.Parse(c.FormValue(key), 1, map[string]float64{"D": t.DC})
		if err != nil {
			errs = errors.Join(errs, workplan.Problem{Field: key, Say: strings.ReplaceAll(key, "_", " ") + ": " + err.Error()})
			return
		}
		*into = v
	}
	read("diameter", &t.DC)
	read("corner_radius", &t.RE)
	read("point_angle", &t.SIG)
	read("tip_diameter", &t.Tip)
	read("cutting_length", &t.APMX)
	read("shank", &t.Shank)
	read("stickout", &t.Stickout)
	if t.Kind == tooling.BallNose {
		t.RE = t.DC / 2
	}
	teeth, pos := float64(t.ZEFF), float64(t.Position)
	read("teeth", &teeth)
	read("position", &pos)
	t.ZEFF, t.Position = int(teeth), int(pos)
	return errs
}

func (s *Server) deleteTool(c *echo.Context) error {
	n, _ := strconv.Atoi(c.Param("tool"))
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	lib.Tools = slices.DeleteFunc(lib.Tools, func(t tooling.Tool) bool { return t.Position == n })
	if err := s.desk.SaveLibrary(c.Request().Context(), lib); err != nil {
		_, say := status(err)
		return s.showTools(c, n, nil, say)
	}
	return c.Redirect(http.StatusSeeOther, "/tools")
}

func (s *Server) machines(c *echo.Context) error {
	lib, err := s.desk.Library(c.Request().Context())
	if err != nil {
		return err
	}
	return s.pages.write(c, http.StatusOK, "machines", lib)
}
