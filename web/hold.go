package web

import (
	"fmt"
	"html/template"
	"strings"
)

// labelled is a number with its key and label.
type labelled struct {
	Key, Label string
	Value      float64
}

// Margins lists the stock's margins.
func (d *sheetData) Margins() []labelled {
	m := d.Saved.Plan.Setup.Stock
	return []labelled{{"x_min", "Left X−", m.XMin}, {"x_max", "Right X+", m.XMax}, {"y_min", "Front Y−", m.YMin}, {"y_max", "Back Y+", m.YMax},
		{"z_max", "Top Z+", m.ZMax}, {"z_min", "Bottom Z−", m.ZMin}}
}

// Shifts lists how far the origin lies from its point.
func (d *sheetData) Shifts() []labelled {
	s := d.Saved.Plan.Setup.Origin.Shift
	return []labelled{{"shift_x", "Shift X", s[0]}, {"shift_y", "Shift Y", s[1]}, {"shift_z", "Shift Z", s[2]}}
}

// UpIs tells whether an axis of the model points to the spindle.
func (d *sheetData) UpIs(axis string) bool { return d.Saved.Plan.Setup.Up == directions[axis] }

// OriginPicture is the box seen from above with its nine points to choose.
func (d *sheetData) OriginPicture() template.HTML {
	o := d.Saved.Plan.Setup.Origin
	size := d.Result.Geometry.Work.Stock.Size()
	w, h := 190.0, 190.0*size.Y/size.X
	if h > 110 {
		w, h = w*110/h, 110
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="origin" viewBox="0 0 %.0f %.0f" style="width:%.0fpx" role="group" aria-label="Origin, seen from above">`, w+44, h+40, w+44)
	fmt.Fprintf(&b, `<rect x="14" y="14" width="%.1f" height="%.1f" class="stockbox"/>`, w, h)
	for y := 1; y >= -1; y-- {
		for x := -1; x <= 1; x++ {
			on := ""
			if o.At[0] == x && o.At[1] == y {
				on = " on"
			}
			cx, cy := 14+w*float64(x+1)/2, 14+h*float64(1-y)/2
			fmt.Fprintf(&b, `<g class="point%s" tabindex="0" role="button" id="at%d%d" aria-label="X %s, Y %s" hx-post="/parts/%d/setup" hx-vals='{"key":"at","value":"%d,%d,%d"}' hx-trigger="click, keyup[key=='Enter']" hx-target="#sheet"><circle cx="%.1f" cy="%.1f" r="10" class="catch"/><circle cx="%.1f" cy="%.1f" r="4.5"/></g>`,
				on, x+1, y+1, [3]string{"left", "middle", "right"}[x+1], [3]string{"front", "middle", "back"}[y+1], d.Part.ID, x, y, o.At[2], cx, cy, cx, cy)
		}
	}
	fmt.Fprintf(&b, `<text x="%.1f" y="%.1f">X</text><text x="10" y="%.1f">Y</text></svg>`, w+28, h+18, h+36)
	return template.HTML(b.String()) //nolint:gosec // numbers and constants
}
