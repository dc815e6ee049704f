package web

import (
	"bytes"
	"embed"
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"arete/core/compare"
	"arete/core/drawing"
	"arete/core/feature"
	"arete/core/quantity"
	"arete/core/workplan"
)

//go:embed templates/*.html
var templates embed.FS

// pages renders templates.
type pages struct{ t *template.Template }

func parsePages() (*pages, error) {
	t, err := template.New("").Funcs(funcs).ParseFS(templates, "templates/*.html")
	if err != nil {
		return nil, err
	}
	return &pages{t}, nil
}

// write renders whole before it sends, so that a fault in a template does not
// leave half a page.
func (p *pages) write(c *echo.Context, code int, name string, data any) error {
	var b bytes.Buffer
	if err := p.t.ExecuteTemplate(&b, name, data); err != nil {
		return fmt.Errorf("template %s: %w", name, err)
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.HTMLBlob(code, b.Bytes())
}

var funcs = template.FuncMap{
	"num":   func(v float64, digits int) string { return quantity.Format(v, digits) },
	"clock": quantity.Clock,
	"lower": strings.ToLower,
	"words": func(v any) string { return strings.ReplaceAll(fmt.Sprint(v), "_", " ") },
	"state": func(s compare.State) template.HTML { return stateMark(string(s)) },
	"mark":  stateMark,
	"source": func(s workplan.Source) string {
		return map[workplan.Source]string{workplan.Computed: "f", workplan.Rule: "r", workplan.FromTool: "t", workplan.Typed: "✎"}[s]
	},
	"add":      func(a, b int) int { return a + b },
	"pct":      func(v float64) int { return int(math.Max(0, math.Min(100, 100*v))) },
	"signed":   func(v float64) string { return fmt.Sprintf("%+.3f", v) },
	"list":     func(v ...any) []any { return v },
	"kindname": func(k feature.Kind) string { return strings.ReplaceAll(string(k), "_", " ") },
	"ints":     func(v []int) string { return strings.Trim(strings.ReplaceAll(fmt.Sprint(v), " ", ","), "[]") },
	"levelid": func(l drawing.Level, key string) string {
		return levelField(drawing.Place{Layer: l.Layer, Chain: l.Chain}, key)
	},
	"layervals": func(layer string, chain int, key string) string {
		out, _ := json.Marshal(map[string]string{"layer": layer, "chain": strconv.Itoa(chain), "key": key})
		return string(out)
	},
}

// stateMark draws a state as a shape with a colour, and says it in words.
func stateMark(s string) template.HTML {
	shapes := map[string]string{
		"finished":    `<rect x="2" y="2" width="10" height="10" fill="currentColor"/>`,
		"left":        `<rect x="2" y="2" width="10" height="10" fill="none" stroke="currentColor" stroke-width="1.6"/><path d="M3 11 11 3" stroke="currentColor" stroke-width="1.6"/>`,
		"uncut":       `<circle cx="7" cy="7" r="5" fill="none" stroke="currentColor" stroke-width="1.6" stroke-dasharray="2 2"/>`,
		"overcut":     `<path d="M3 3 11 11 M11 3 3 11" stroke="currentColor" stroke-width="2.2"/>`,
		"unreachable": `<path d="M7 1.5 13 12 H1 Z" fill="none" stroke="currentColor" stroke-width="1.6"/>`,
		"waiting":     `<circle cx="7" cy="7" r="4" fill="none" stroke="currentColor" stroke-width="1.2"/>`,
		"done":        `<path d="M2 7.5 5.5 11 12 3.5" fill="none" stroke="currentColor" stroke-width="2"/>`,
		"warn":        `<path d="M7 1.5 13 12 H1 Z" fill="none" stroke="currentColor" stroke-width="1.8"/><path d="M7 5v4" stroke="currentColor" stroke-width="1.8"/>`,
		"fail":        `<circle cx="7" cy="7" r="5.5" fill="none" stroke="currentColor" stroke-width="1.6"/><path d="M3.5 3.5 10.5 10.5" stroke="currentColor" stroke-width="1.8"/>`,
		"off":         `<path d="M2 7h10" stroke="currentColor" stroke-width="1.6" stroke-dasharray="2 2"/>`,
	}
	return template.HTML(`<svg class="mark mark-` + s + `" width="14" height="14" viewBox="0 0 14 14" role="img" aria-label="` + s + `">` + shapes[s] + `</svg>`) //nolint:gosec // constant strings only
}

// toolColours are the Okabe–Ito set, given in the order of first use.
var toolColours = []string{"#0072b2", "#e69f00", "#009e73", "#cc79a7", "#56b4e9", "#d55e00", "#b8a800", "#5b5b5b"}

// isSwap tells whether only the sheet is asked for.
func isSwap(c *echo.Context) bool {
	return c.Request().Header.Get("HX-Request") == "true" && c.Request().Header.Get("HX-History-Restore-Request") != "true"
}

// sheetStatus is 422 when a message must be shown with the sheet.
func sheetStatus(message string) int {
	if message != "" {
		return http.StatusUnprocessableEntity
	}
	return http.StatusOK
}
