package web

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/workplan"
	"arete/shop"
)

// proven gathers a page's data and waits for the proof of the current plan.
func (s *Server) proven(c *echo.Context, key string) (*sheetData, error) {
	part, err := s.part(c)
	if err != nil {
		return nil, err
	}
	if _, err := s.desk.Proven(c.Request().Context(), part.ID); err != nil {
		return nil, err
	}
	return s.gather(c, key, "")
}

// code shows the posted text with the path beside it.
func (s *Server) code(c *echo.Context) error {
	d, err := s.proven(c, "release")
	if err != nil {
		return err
	}
	type line struct {
		N    int
		Text string
		T    float64
	}
	times := map[int]float64{}
	for id, list := range lineOf(d.State) {
		r := d.Result.Step(id)
		t := r.T0
		for i, n := range list {
			t += r.Times[i]
			times[n] = t
		}
	}
	var lines []line
	last := 0.0
	for i, text := range strings.Split(strings.TrimRight(d.Proof.Text.Body, "\n"), "\n") {
		if t, ok := times[i+1]; ok {
			last = t
		}
		lines = append(lines, line{i + 1, text, last})
	}
	return s.pages.write(c, http.StatusOK, "code", map[string]any{"D": d, "Lines": lines})
}

// sheet is the setup sheet, ready to print.
func (s *Server) sheet(c *echo.Context) error {
	d, err := s.proven(c, "release")
	if err != nil {
		return err
	}
	return s.pages.write(c, http.StatusOK, "setupsheet", d)
}

// program hands the posted text out: when it is proven clean, or when the
// user says so in spite of the findings.
func (s *Server) program(c *echo.Context) error {
	d, err := s.proven(c, "release")
	if err != nil {
		return err
	}
	if !d.Clean() && c.QueryParam("with_findings") != "yes" {
		return s.show(c, "release", "", "download", "", "The program is not proven clean. Tick «release with findings» if it is to go out all the same.")
	}
	if len(d.Result.Steps) == 0 {
		return workplan.Problem{Field: "download", Say: "the plan has no steps: there is no program"}
	}
	name := programName(d.Part, d.Proof)
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	return c.Blob(http.StatusOK, "text/plain; charset=utf-8", []byte(d.Proof.Text.Body))
}

func programName(p shop.Part, proof *shop.Proof) string {
	return plainName(p) + "." + proof.Dialect.Extension
}

// plainName is the part's number and name in letters, digits and dashes.
func plainName(p shop.Part) string {
	keep := func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r >= '0' && r <= '9':
			return r
		}
		return '-'
	}
	name := strings.Trim(strings.Map(keep, strings.TrimSpace(p.Number+" "+p.Name)), "-")
	if name == "" {
		name = "program"
	}
	return name
}

// ProgramName is the name of the file to download.
func (d *sheetData) ProgramName() string {
	if d.Proof == nil {
		return ""
	}
	return programName(d.Part, d.Proof)
}
