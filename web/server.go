// Package web shows the desk in a browser: server-rendered pages whose parts
// are swapped, and compact binary data for the view and the strip.
package web

import (
	"context"
	"embed"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"arete/core/quantity"
	"arete/core/tooling"
	"arete/core/workplan"
	"arete/shop"
)

//go:embed static
var static embed.FS

// maxUpload is the largest request, bytes.
const maxUpload = 128 << 20

// Server answers the pages.
type Server struct {
	desk  *shop.Desk
	pages *pages
}

// Handler returns the application for a desk.
func Handler(d *shop.Desk) (http.Handler, error) {
	p, err := parsePages()
	if err != nil {
		return nil, err
	}
	s := &Server{d, p}
	e := echo.New()
	e.Logger = slog.New(slog.DiscardHandler)
	e.HTTPErrorHandler = s.fail
	e.Use(middleware.Recover(), middleware.BodyLimit(maxUpload))
	files, err := fs.Sub(static, "static")
	if err != nil {
		return nil, err
	}
	e.GET("/static/*", echo.WrapHandler(http.StripPrefix("/static/", cached(http.FileServerFS(files)))))
	s.routes(e)
	guard := http.NewCrossOriginProtection()
	return guard.Handler(e), nil
}

// cached lets the browser keep static files until the program is restarted.
func cached(h http.Handler) http.Handler {
	tag := `"` + strconv.FormatInt(time.Now().UnixNano(), 36) + `"`
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Cache-Control", "no-cache")
		w.Header().Set("ETag", tag)
		h.ServeHTTP(w, r)
	})
}

func (s *Server) routes(e *echo.Echo) {
	e.GET("/", s.bench)
	e.POST("/parts", s.importPart)
	e.GET("/tools", s.toolRoom)
	e.GET("/tools/:tool", s.toolPage)
	e.POST("/tools", s.addTool)
	e.POST("/tools/:tool", s.saveTool)
	e.POST("/tools/:tool/delete", s.deleteTool)
	e.GET("/machines", s.machines)
	g := e.Group("/parts/:part")
	g.POST("/delete", s.deletePart)
	g.GET("", func(c *echo.Context) error { return c.Redirect(http.StatusSeeOther, "/parts/"+c.Param("part")+"/part") })
	for _, st := range stations {
		g.GET("/"+st.Key, s.station(st.Key))
	}
	g.GET("/cut/:step", s.station("cut"))
	g.GET("/ledger", s.ledger)
	g.GET("/state", s.state)
	g.GET("/progress", s.progress)
	g.GET("/picture.png", s.picture)
	g.GET("/model.bin", s.model)
	g.GET("/stock.bin", s.stock)
	g.GET("/path.bin", s.path)
	g.GET("/compare.bin", s.compare)
	g.GET("/faces", s.faces)
	g.GET("/edges", s.edges)
	g.GET("/bodies.bin", s.bodies)
	g.GET("/fixtures.bin", s.fixtures)
	g.GET("/open.bin", s.openChains)
	g.GET("/code", s.code)
	g.GET("/sheet", s.sheet)
	g.GET("/program", s.program)
	g.GET("/export/:file", s.export)
	g.GET("/features/:feature", s.feature)
	g.POST("/features/:feature", s.amend)
	g.POST("/setup", s.saveSetup)
	g.POST("/files", s.attach)
	g.POST("/body", s.saveBody)
	g.POST("/layer", s.saveLayer)
	g.POST("/prepare", s.prepare)
	g.POST("/picks", s.picks)
	g.POST("/group", s.group)
	g.POST("/drive", s.saveDrive)
	g.POST("/undo", s.undo)
	g.POST("/redo", s.redo)
	g.POST("/replan", s.replan)
	g.POST("/stop", s.stop)
	g.POST("/steps", s.addStep)
	g.POST("/steps/:step/:act", s.editStep)
}

// part returns the part that the request names.
func (s *Server) part(c *echo.Context) (shop.Part, error) {
	id, err := strconv.ParseInt(c.Param("part"), 10, 64)
	if err != nil {
		return shop.Part{}, shop.ErrNotFound
	}
	return s.desk.Part(c.Request().Context(), id)
}

// status maps the class of an error to a status and a sentence.
func status(err error) (int, string) {
	var p workplan.Problem
	var tp tooling.Problem
	code := echo.StatusCode(err)
	switch {
	case code == http.StatusNotFound:
		return code, "There is no such page. Go back to the bench."
	case code == http.StatusRequestEntityTooLarge:
		return code, "The file is larger than 128 MB. Export the part alone."
	case code >= 400 && code < 500:
		return code, http.StatusText(code) + ". Reload the page and try again."
	case errors.Is(err, shop.ErrNotFound):
		return http.StatusNotFound, "There is no such part or step; it may have been deleted. Go back to the bench."
	case errors.As(err, &p), errors.As(err, &tp), errors.Is(err, shop.ErrInput), errors.Is(err, quantity.ErrExpression), errors.Is(err, shop.ErrUnknown):
		return http.StatusUnprocessableEntity, err.Error()
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return http.StatusServiceUnavailable, "The computation was stopped. Change something or reload to start it again."
	}
	return http.StatusInternalServerError, "Something went wrong in the program: " + err.Error() + ". Nothing saved is lost; reload the page."
}

// fail shows an error: a page of its own, or a message in place for a swap.
func (s *Server) fail(c *echo.Context, err error) {
	if r, ok := c.Response().(*echo.Response); ok && r.Committed {
		return
	}
	code, say := status(err)
	if c.Request().Header.Get("HX-Request") == "true" {
		_ = s.pages.write(c, code, "message", say)
		return
	}
	_ = s.pages.write(c, code, "error", map[string]any{"Say": say, "Code": code})
}
