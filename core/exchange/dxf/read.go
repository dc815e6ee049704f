// Package dxf reads the curves of drawing exchange files in their text form:
// lines, arcs, circles, polylines with bulges, splines, ellipses, and inserts
// of blocks with all that is in them. It writes regions back as polylines with
// bulges.
//
// The file is pairs of lines: a group code and a value. Text, dimensions,
// hatches and other entities that are no curve are counted and skipped. Lengths
// come out in mm by the drawing's unit; without one millimetres are assumed.
package dxf

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"arete/core/geom"
	"arete/core/planar"
)

// ErrFormat is the class of files that cannot be read.
var ErrFormat = errors.New("not a readable DXF drawing")

// Limits on what is read.
const (
	maxPairs  = 20_000_000
	maxCurves = 200_000
	maxPlaced = 2_000_000 // entities, blocks counted as often as they are inserted
	maxDepth  = 16        // of blocks in blocks
)

// Curve is a chain of lines and arcs on a layer, mm.
type Curve struct {
	Layer  string
	Chain  planar.Loop
	Closed bool
}

// Drawing is what a file holds.
type Drawing struct {
	Unit   string
	Curves []Curve
	Notes  []string
}

// Is tells whether data looks like a drawing in text form.
func Is(data []byte) bool {
	head := strings.Fields(string(data[:min(len(data), 4096)]))
	for len(head) > 1 && head[0] == "999" { // a comment, of one word at least
		head = head[2:]
	}
	return len(head) > 1 && head[0] == "0" && head[1] == "SECTION"
}

// pair is one group.
type pair struct {
	code  int
	value string
}

// entity is an entity with its groups in order.
type entity struct {
	kind   string
	groups []pair
	verts  []entity // of a polyline
}

// unit is what a length of the drawing is in mm, by the code of $INSUNITS.
var units = map[int]struct {
	name string
	mm   float64
}{1: {"inch", 25.4}, 2: {"foot", 304.8}, 4: {"mm", 1}, 5: {"cm", 10}, 6: {"m", 1000}, 8: {"microinch", 25.4e-6}, 9: {"mil", 0.0254}, 13: {"µm", 1e-3}, 14: {"dm", 100}}

// Read returns the curves of a drawing.
func Read(data []byte) (*Drawing, error) {
	pairs, err := split(data)
	if err != nil {
		return nil, err
	}
	r := &reader{blocks: map[string][]entity{}, skipped: map[string]int{}, scale: 1, d: &Drawing{Unit: "mm"}}
	if err := r.sections(pairs); err != nil {
		return nil, err
	}
	for k, n := range r.skipped {
		r.d.Notes = append(r.d.Notes, fmt.Sprintf("%d × %s left out: no curve", n, k))
	}
	sort.Strings(r.d.Notes)
	if len(r.d.Curves) == 0 {
		return nil, fmt.Errorf("%w: there is no line, arc, polyline, spline or ellipse in it; export the drawing's outlines", ErrFormat)
	}
	return r.d, nil
}

// split parses the pairs.
func split(data []byte) ([]pair, error) {
	var out []pair
	line := 0
	next := func() (string, bool) {
		if len(data) == 0 {
			return "", false
		}
		line++
		var row []byte
		if i := bytes.IndexByte(data, '\n'); i >= 0 {
			row, data = data[:i], data[i+1:]
		} else {
			row, data = data, nil
		}
		return strings.TrimSpace(string(row)), true
	}
	for {
		code, ok := next()
		if !ok {
			break
		}
		if code == "" && len(bytes.TrimSpace(data)) == 0 {
			break
		}
		n, err := strconv.Atoi(code)
		if err != nil {
			return nil, fmt.Errorf("%w: line %d: %.20q stands where a group code should; export the drawing again as text DXF", ErrFormat, line, code)
		}
		value, ok := next()
		if !ok {
			return nil, fmt.Errorf("%w: line %d: the file ends in the middle of a group; export the drawing again", ErrFormat, line)
		}
		if out = append(out, pair{n, value}); len(out) > maxPairs {
			return nil, fmt.Errorf("%w: more than %d groups; export the outlines alone", ErrFormat, maxPairs)
		}
	}
	if len(out) == 0 || out[len(out)-1] != (pair{0, "EOF"}) {
		return nil, fmt.Errorf("%w: the end is missing: the file is cut off after line %d; export the drawing again", ErrFormat, line)
	}
	return out, nil
}

type reader struct {
	d       *Drawing
	blocks  map[string][]entity
	skipped map[string]int
	scale   float64
	placed  int
}

func (r *reader) sections(pairs []pair) error {
	for i := 0; i < len(pairs); i++ {
		if pairs[i] != (pair{0, "SECTION"}) || i+1 >= len(pairs) {
			continue
		}
		end := i
		for end < len(pairs) && pairs[end] != (pair{0, "ENDSEC"}) {
			end++
		}
		body := pairs[i+2 : max(i+2, end)]
		switch pairs[i+1].value {
		case "HEADER":
			r.header(body)
		case "BLOCKS":
			r.readBlocks(entities(body))
		case "ENTITIES":
			if err := r.place(entities(body), scaled(r.scale), "", 0); err != nil {
				return err
			}
		}
		i = end
	}
	return nil
}

func (r *reader) header(body []pair) {
	for i, p := range body {
		if p.code == 9 && p.value == "$INSUNITS" && i+1 < len(body) {
			n, _ := strconv.Atoi(body[i+1].value)
			if u, known := units[n]; known {
				r.d.Unit, r.scale = u.name, u.mm
			} else if n != 0 {
				r.d.Notes = append(r.d.Notes, fmt.Sprintf("the drawing's unit has code %d, unknown here: millimetres are assumed", n))
			}
		}
	}
}

// entities groups pairs; the vertices of a polyline go to it.
func entities(body []pair) []entity {
	var out []entity
	open := -1 // polyline whose vertices follow
	for _, p := range body {
		if p.code != 0 {
			if len(out) > 0 {
				e := &out[len(out)-1]
				if open >= 0 && len(out[open].verts) > 0 {
					v := out[open].verts
					e = &v[len(v)-1]
				}
				e.groups = append(e.groups, p)
			}
			continue
		}
		switch {
		case p.value == "VERTEX" && open >= 0:
			out[open].verts = append(out[open].verts, entity{kind: p.value})
			continue
		case p.value == "SEQEND":
			open = -1
			continue
		}
		out = append(out, entity{kind: p.value})
		open = -1
		if p.value == "POLYLINE" {
			open = len(out) - 1
		}
	}
	return out
}

func (r *reader) readBlocks(all []entity) {
	name := ""
	for _, e := range all {
		switch e.kind {
		case "BLOCK":
			name = e.text(2)
			base := geom.V2{X: e.num(10, 0), Y: e.num(20, 0)}
			r.blocks[name] = append(r.blocks[name], entity{kind: "BASE", groups: []pair{{10, fmt.Sprint(base.X)}, {20, fmt.Sprint(base.Y)}}})
		case "ENDBLK":
			name = ""
		default:
			if name != "" {
				r.blocks[name] = append(r.blocks[name], e)
			}
		}
	}
}

// place adds the curves of entities; those on layer "0" of a block take the
// layer of the insert.
func (r *reader) place(all []entity, at motion, layer string, depth int) error {
	if depth > maxDepth {
		return fmt.Errorf("%w: blocks in blocks without end; explode them before the export", ErrFormat)
	}
	for _, e := range all {
		if r.placed++; r.placed > maxPlaced {
			return fmt.Errorf("%w: more than %d entities with all inserts; export the outlines of the part alone", ErrFormat, maxPlaced)
		}
		on := e.text(8)
		if on == "" || on == "0" && layer != "" {
			on = layer
		}
		if on == "" {
			on = "0"
		}
		if e.kind == "INSERT" {
			if err := r.insert(e, at, on, depth); err != nil {
				return err
			}
			continue
		}
		chain, closed, known := e.chain(at)
		switch {
		case !known && e.kind != "BASE":
			r.skipped[strings.ToLower(e.kind)]++
		case len(chain) > 0:
			for _, s := range chain {
				if !(math.Abs(s.A.X)+math.Abs(s.A.Y)+math.Abs(s.B.X)+math.Abs(s.B.Y) < 1e6) {
					return fmt.Errorf("%w: a %s on layer %s lies beyond 1 km or nowhere; check the drawing's unit", ErrFormat, strings.ToLower(e.kind), on)
				}
			}
			r.d.Curves = append(r.d.Curves, Curve{on, chain, closed})
			if len(r.d.Curves) > maxCurves {
				return fmt.Errorf("%w: more than %d curves; export the outlines of the part alone", ErrFormat, maxCurves)
			}
		}
	}
	return nil
}

func (r *reader) insert(e entity, at motion, layer string, depth int) error {
	block := r.blocks[e.text(2)]
	if len(block) == 0 {
		r.skipped["insert of a missing block"]++
		return nil
	}
	cols, rows := max(1, int(e.num(70, 1))), max(1, int(e.num(71, 1)))
	if cols*rows > maxCurves {
		return fmt.Errorf("%w: an insert repeated %d times; export the outlines of the part alone", ErrFormat, cols*rows)
	}
	sin, cos := math.Sincos(e.num(50, 0) * math.Pi / 180)
	sx, sy := e.num(41, 1), e.num(42, 1)
	base := geom.V2{X: block[0].num(10, 0), Y: block[0].num(20, 0)}
	mirror := e.mirror()
	for i := range cols * rows {
		step := geom.V2{X: float64(i%cols) * e.num(44, 0), Y: float64(i/cols) * e.num(45, 0)}
		m := motion{a: cos * sx, b: -sin * sy, c: sin * sx, d: cos * sy}
		p := geom.V2{X: e.num(10, 0), Y: e.num(20, 0)}.Add(step.Rotate(cos, sin))
		m.move = p.Sub(m.turn(base))
		if err := r.place(block[1:], at.after(mirror.after(m)), layer, depth+1); err != nil {
			return err
		}
	}
	return nil
}

// text returns the value of the first group with the code.
func (e entity) text(code int) string {
	for _, g := range e.groups {
		if g.code == code {
			return g.value
		}
	}
	return ""
}

// num is text as a number.
func (e entity) num(code int, without float64) float64 {
	v, err := strconv.ParseFloat(e.text(code), 64)
	if err != nil {
		return without
	}
	return v
}
