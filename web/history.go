package web

import (
	"context"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/shop"
)

// history undoes or redoes and shows where the user is.
func (s *Server) history(c *echo.Context, move func(context.Context, int64) (shop.Saved, error)) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	saved, err := move(c.Request().Context(), part.ID)
	if err != nil {
		return err
	}
	key, step := "cut", ""
	if at := c.FormValue("at"); at != "" { // such as /parts/1/cut/S3
		if f := strings.Split(strings.Trim(at, "/"), "/"); len(f) >= 3 {
			key = f[2]
			if len(f) > 3 && saved.Plan.Find(f[3]) >= 0 {
				step = f[3]
			}
		}
	}
	known := false
	for _, st := range stations {
		known = known || st.Key == key
	}
	if !known {
		key = "cut"
	}
	return s.show(c, key, step, "", "", "")
}

// replan proposes new steps by rules.
func (s *Server) replan(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	_, notes, err := s.desk.Replan(c.Request().Context(), part.ID)
	if err != nil {
		return s.edited(c, "cut", "", "", err)
	}
	d, err := s.gather(c, "cut", "")
	if err != nil {
		return err
	}
	d.Notes = notes
	return s.pages.write(c, http.StatusOK, "sheet", d)
}

// stop ends the computation of a part.
func (s *Server) stop(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	s.desk.Stop(part.ID)
	return c.NoContent(http.StatusNoContent)
}
