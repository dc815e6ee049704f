// Package write turns a program into the text of one dialect (ISO 6983-1).
//
// Coordinates are counted in units of the control's resolution, so that what
// is printed is exactly what later blocks build on; words that do not change
// are left out. Blocks that would not move anything are dropped.
package write

import (
	"fmt"
	"math"
	"strings"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/nc"
)

// Text is a program in words, and for each line where it comes from.
type Text struct {
	Body  string
	Lines []nc.Line
}

// Program writes the whole program: a safe start, each tool loaded before it
// is used with its length offset, a safe end.
func Program(p nc.Program, d nc.Dialect) (Text, error) {
	if err := d.Validate(); err != nil {
		return Text{}, err
	}
	w := &writer{d: d, unit: math.Pow(10, float64(d.Decimals)), step: -1, move: -1}
	w.header(p)
	tool := 0
	for i, s := range p.Steps {
		w.step, w.move = -1, -1
		if s.Tool.Position != tool {
			w.change(p, s, tool != 0)
			tool = s.Tool.Position
		} else {
			w.comment(s.Title)
		}
		w.step = i
		w.begin(s)
		w.path(s)
	}
	w.step, w.move = -1, -1
	w.end()
	return Text{strings.Join(w.lines, "\n") + "\n", w.from}, nil
}

type writer struct {
	d          nc.Dialect
	unit       float64
	lines      []string
	from       []nc.Line
	step, move int
	n          int

	at     [3]int64 // position in units of resolution
	known  [3]bool
	kind   int // modal motion word, −1 none
	feed   int64
	cycle  bool
	fresh  bool // nothing of the step is out yet: repeat all words
	rpm    int64
	offset bool
}

func (w *writer) line(words ...string) {
	s := strings.Join(words, " ")
	if w.d.Numbers {
		w.n += 10
		s = fmt.Sprintf("N%d %s", w.n, s)
	}
	w.raw(s)
}

func (w *writer) raw(s string) {
	w.lines = append(w.lines, s)
	w.from = append(w.from, nc.Line{Step: w.step, Move: w.move})
}

// comment writes text in brackets, in capitals, without what a control could
// take for the end of the comment.
func (w *writer) comment(s string) {
	s = strings.ToUpper(s)
	s = strings.Map(func(r rune) rune {
		switch {
		case r == '⌀':
			return 'D'
		case r == '×':
			return 'X'
		case r == '(' || r == ')' || r < 32:
			return -1
		case r > 126:
			return '?'
		}
		return r
	}, s)
	w.raw("(" + s + ")")
}

func (w *writer) header(p nc.Program) {
	if w.d.Percent {
		w.raw("%")
	}
	if w.d.ProgramWord != "" {
		w.raw(fmt.Sprintf("%s%04d", w.d.ProgramWord, p.Number))
	}
	w.comment(p.Title)
	for _, n := range p.Notes {
		w.comment(n)
	}
	seen := map[int]bool{}
	for _, s := range p.Steps {
		if t := s.Tool; !seen[t.Position] {
			seen[t.Position] = true
			w.comment(fmt.Sprintf("T%d %s, stickout %.1f", t.Position, t.Name, t.Stickout))
		}
	}
	w.line("G21 G17 G90 G94")
	w.line("G40 G49 G80")
	w.home()
}

// home lifts the spindle; the control's position is unknown afterwards.
func (w *writer) home() {
	for _, block := range strings.Split(w.d.HomeWord, "|") {
		w.line(block)
	}
	w.known = [3]bool{}
	w.kind = -1
}

func (w *writer) change(p nc.Program, s nc.Step, again bool) {
	if again {
		w.line("M9")
		w.line("M5")
		w.line("G49")
		w.home()
	}
	w.comment(s.Title)
	w.line(fmt.Sprintf(w.d.ToolChange, s.Tool.Position))
	w.line("G90 G94 " + p.WorkOffset)
	w.offset, w.rpm = false, 0
}

// begin starts the spindle and, after a tool change, brings the tool over the
// first point before its length offset lowers it.
func (w *writer) begin(s nc.Step) {
	w.fresh = true
	w.feed = -1
	if rpm := int64(math.Round(s.RPM)); rpm != w.rpm {
		w.rpm = rpm
		w.line(fmt.Sprintf("S%d M3", rpm))
	}
	if w.offset || len(s.Path.Moves) == 0 {
		return
	}
	first := s.Path.Moves[0].To
	to := w.units(first)
	w.move = 0
	w.line("G0", w.word('X', to[0]), w.word('Y', to[1]))
	w.line(fmt.Sprintf("G43 H%d", s.Tool.Position), w.word('Z', to[2]))
	w.line("M8")
	w.at, w.known, w.offset, w.kind = to, [3]bool{true, true, true}, true, 0
}

func (w *writer) end() {
	w.line("M9")
	w.line("M5")
	w.line("G49")
	w.home()
	w.line("M30")
	if w.d.Percent {
		w.raw("%")
	}
}

func (w *writer) units(p geom.V3) [3]int64 {
	return [3]int64{w.round(p.X), w.round(p.Y), w.round(p.Z)}
}

func (w *writer) round(v float64) int64 { return int64(math.Round(v * w.unit)) }

// word prints a letter and a number from units, without needless zeros but
// always with its decimal point.
func (w *writer) word(letter byte, v int64) string {
	sign := ""
	if v < 0 {
		sign, v = "-", -v
	}
	u := int64(w.unit)
	frac := strings.TrimRight(fmt.Sprintf("%0*d", w.d.Decimals, v%u), "0")
	return fmt.Sprintf("%c%s%d.%s", letter, sign, v/u, frac)
}

func (w *writer) path(s nc.Step) {
	cycles := s.Path.Cycles
	for i := 0; i < len(s.Path.Moves); i++ {
		for len(cycles) > 0 && cycles[0].From < i {
			cycles = cycles[1:]
		}
		if w.d.Cycles && len(cycles) > 0 && cycles[0].From == i {
			w.move = cycles[0].To - 1
			w.hole(cycles[0])
			i = cycles[0].To - 1
			cycles = cycles[1:]
			if !(len(cycles) > 0 && nextIsCycle(s.Path, i+1, cycles[0])) {
				w.endCycle()
			}
			continue
		}
		w.move = i
		if w.cycle { // the way to the next hole is part of the next cycle block
			continue
		}
		w.block(s.Path.Moves[i])
	}
	w.endCycle()
}

// nextIsCycle tells whether only a rapid stands between here and a cycle.
func nextIsCycle(p motion.Path, i int, c motion.Cycle) bool {
	return c.From == i || c.From == i+1 && p.Moves[i].Kind == motion.Rapid
}

func (w *writer) endCycle() {
	if w.cycle {
		w.line("G80")
		w.cycle = false
		w.kind = -1
	}
}

var motionWord = [...]string{motion.Rapid: "G0", motion.Line: "G1", motion.CW: "G2", motion.CCW: "G3"}

// block writes one move.
func (w *writer) block(m motion.Move) {
	to := w.units(m.To)
	var words []string
	moved := false
	for k, letter := range [3]byte{'X', 'Y', 'Z'} {
		if !w.known[k] || to[k] != w.at[k] {
			words = append(words, w.word(letter, to[k]))
			moved = true
		}
	}
	if m.IsArc() {
		if !moved && !fullCircle(m, w.at, w.unit) {
			return
		}
		i, j := w.round(m.C.X)-w.at[0], w.round(m.C.Y)-w.at[1]
		if i == 0 && j == 0 {
			return // smaller than the resolution
		}
		if !moved || len(words) == 0 {
			words = append(words, w.word('X', to[0]), w.word('Y', to[1]))
		}
		words = append(words, w.word('I', i), w.word('J', j))
	} else if !moved {
		return
	}
	head := []string{}
	if int(m.Kind) != w.kind || w.fresh {
		head = append(head, motionWord[m.Kind])
		w.kind = int(m.Kind)
	}
	words = append(head, words...)
	if f := int64(math.Round(m.Feed)); m.Kind != motion.Rapid && (f != w.feed) {
		words = append(words, fmt.Sprintf("F%d", f))
		w.feed = f
	}
	w.fresh = false
	w.line(words...)
	w.at, w.known = to, [3]bool{true, true, true}
}

// fullCircle tells whether an arc that ends where it begins is meant to go
// all the way round, and not a sliver lost in rounding.
func fullCircle(m motion.Move, at [3]int64, unit float64) bool {
	from := geom.V3{X: float64(at[0]) / unit, Y: float64(at[1]) / unit, Z: float64(at[2]) / unit}
	return math.Abs(m.Sweep(from)) > math.Pi && m.To.Dist(from) < 2/unit
}

// hole writes one block of a cycle.
func (w *writer) hole(c motion.Cycle) {
	x, y := w.round(c.XY.X), w.round(c.XY.Y)
	var words []string
	if !w.cycle {
		code := map[motion.CycleKind]string{motion.CycleDrill: "G81", motion.CyclePeck: "G83", motion.CycleChipBreak: "G73"}[c.Kind]
		words = append(words, "G98", code)
	}
	words = append(words, w.word('X', x), w.word('Y', y), w.word('Z', w.round(c.Z)), w.word('R', w.round(c.R)))
	if c.Kind != motion.CycleDrill {
		words = append(words, w.word('Q', w.round(c.Peck)))
	}
	if f := int64(math.Round(c.Feed)); f != w.feed || !w.cycle {
		words = append(words, fmt.Sprintf("F%d", f))
		w.feed = f
	}
	w.line(words...)
	w.cycle = true
	w.kind = -1
	w.at = [3]int64{x, y, w.round(c.Initial)}
}
