// Package read turns machine code back into moves. It follows the RS274/NGC
// description of words and modal groups (Kramer, Proctor and Messina 2000) and
// ISO 6983-1, and knows nothing of how the text was written.
//
// Read returns the moves it could read and a list of problems, in order. Moves
// relative to the machine's own zero (G53, G28) are marked as home: where that
// lies is not in the text.
package read

import (
	"fmt"
	"math"
	"strings"

	"arete/core/geom"
	"arete/core/motion"
)

// Move is one motion of the tool tip.
type Move struct {
	motion.Move
	Line int     // 1-based
	Tool int     // T number in the spindle
	RPM  float64 // 0 when the spindle stands
	Home bool    // at the height of the machine's home, which is not in the text
}

// Problem is something wrong in the text.
type Problem struct {
	Line int
	Say  string
}

func (p Problem) String() string { return fmt.Sprintf("line %d: %s", p.Line, p.Say) }

// Program is what was read.
type Program struct {
	Moves    []Move
	Problems []Problem
	Ended    bool
	Offset   string // the work offset used
}

// mostProblems bounds the list.
const mostProblems = 100

// mostPecks bounds the moves of one hole.
const mostPecks = 10000

type word struct {
	letter byte
	v      float64
}

type reader struct {
	out        Program
	line       int
	at         geom.V3
	known      [3]bool
	motion     int // 0–3, 73, 81, 83; −1 none
	absolute   bool
	scale      float64 // mm in one unit
	feed       float64
	rpm        float64
	turning    bool
	tool, next int
	length     bool
	units      bool
	cycle      struct{ z, r, q float64 }
	initial    float64
	toR        bool // G99
}

// Read reads a whole program.
func Read(text string) Program {
	r := &reader{motion: -1, absolute: true, scale: 1}
	for i, l := range strings.Split(text, "\n") {
		r.line = i + 1
		if r.out.Ended {
			if s := strings.TrimSpace(l); s != "" && s != "%" {
				r.problem("there is text behind the end of the program")
				break
			}
			continue
		}
		words, ok := r.words(l)
		if ok && len(words) > 0 {
			r.block(words)
		}
	}
	if !r.out.Ended {
		r.problem("the program does not end with M30 or M2")
	}
	return r.out
}

func (r *reader) problem(format string, a ...any) {
	if len(r.out.Problems) < mostProblems {
		r.out.Problems = append(r.out.Problems, Problem{r.line, fmt.Sprintf(format, a...)})
	}
}

// block executes the words of one line in the order of RS274/NGC table 8.
func (r *reader) block(words []word) {
	axis := map[byte]float64{}
	var g, m []float64
	for _, w := range words {
		switch w.letter {
		case 'G':
			g = append(g, w.v)
		case 'M':
			m = append(m, w.v)
		case 'N', 'O', 'D':
		case 'F':
			r.feed = w.v
		case 'S':
			r.rpm = w.v
		case 'T':
			r.next = int(w.v)
		default:
			if _, twice := axis[w.letter]; twice {
				r.problem("the word %c stands twice in one block", w.letter)
			}
			axis[w.letter] = w.v
		}
	}
	r.before(m)
	home, move := r.preparatory(g)
	if h, ok := axis['H']; ok && int(h) != r.tool {
		r.problem("length offset H%g with T%d in the spindle", h, r.tool)
	}
	switch {
	case home:
		r.home(axis)
	case move >= 0 && hasAxis(axis):
		r.travel(axis)
	case hasAxis(axis) && r.motion >= 0:
		r.travel(axis)
	case hasAxis(axis):
		r.problem("axis words without a motion word")
	}
	r.after(m)
}

func hasAxis(a map[byte]float64) bool {
	for _, l := range []byte("XYZIJ") {
		if _, ok := a[l]; ok {
			return true
		}
	}
	return false
}

// before executes the miscellaneous functions that act before a motion.
func (r *reader) before(m []float64) {
	for _, c := range m {
		switch c {
		case 3:
			r.turning = true
			if r.rpm <= 0 {
				r.problem("the spindle starts without a speed")
			}
		case 4:
			r.turning = true
			r.problem("the spindle turns backwards (M4)")
		case 6:
			if r.turning {
				r.problem("tool change with the spindle turning")
			}
			r.tool, r.length = r.next, false
			if r.tool <= 0 {
				r.problem("tool change without a T word")
			}
		case 0, 1, 2, 5, 7, 8, 9, 30:
		default:
			r.problem("unknown word M%g", c)
		}
	}
}

func (r *reader) after(m []float64) {
	for _, c := range m {
		switch c {
		case 5:
			r.turning = false
		case 2, 30:
			r.out.Ended = true
			if r.turning {
				r.problem("the program ends with the spindle turning")
			}
		}
	}
}

// preparatory executes the G words; it tells whether the block goes home, and
// the motion word in it, −1 for none.
func (r *reader) preparatory(g []float64) (home bool, move int) {
	move = -1
	for _, c := range g {
		switch {
		case c == 0 || c == 1 || c == 2 || c == 3:
			r.motion, move = int(c), int(c)
		case c == 73 || c == 81 || c == 83:
			if r.motion != int(c) {
				r.initial = r.at.Z
			}
			r.motion, move = int(c), int(c)
			r.cycle.z, r.cycle.r, r.cycle.q = math.NaN(), math.NaN(), 0
		case c == 80:
			r.motion = -1
		case c == 90:
			r.absolute = true
		case c == 91:
			r.absolute = false
		case c == 20:
			r.scale, r.units = 25.4, true
		case c == 21:
			r.scale, r.units = 1, true
		case c == 43:
			r.length = true
		case c == 49:
			r.length = false
		case c == 28 || c == 53:
			home = true
		case c >= 54 && c <= 59 && c == math.Trunc(c):
			r.out.Offset = fmt.Sprintf("G%d", int(c))
		case c == 98:
			r.toR = false
		case c == 99:
			r.toR = true
		case c == 17 || c == 40 || c == 94 || c == 64 || c == 61:
		case c == 18 || c == 19 || c == 41 || c == 42 || c == 93 || c == 95 || c == 92:
			r.problem("G%g is not used here: the program would not mean what it says", c)
		default:
			r.problem("unknown word G%g", c)
		}
	}
	return home, move
}

// home goes to the machine's zero on the axes named.
func (r *reader) home(axis map[byte]float64) {
	if _, ok := axis['Z']; ok {
		r.known[2] = false
		r.out.Moves = append(r.out.Moves, Move{Move: motion.Move{Kind: motion.Rapid, To: r.at}, Line: r.line, Tool: r.tool, RPM: r.speed(), Home: true})
	}
	for k, l := range []byte("XY") {
		if _, ok := axis[l]; ok {
			r.known[k] = false
		}
	}
}

func (r *reader) speed() float64 {
	if r.turning {
		return r.rpm
	}
	return 0
}

// target applies the axis words to the position.
func (r *reader) target(axis map[byte]float64) geom.V3 {
	to := r.at
	for k, l := range []byte("XYZ") {
		v, ok := axis[l]
		if !ok {
			continue
		}
		v *= r.scale
		p := [3]*float64{&to.X, &to.Y, &to.Z}[k]
		if r.absolute {
			*p = v
		} else {
			*p += v
		}
	}
	return to
}

func (r *reader) travel(axis map[byte]float64) {
	if r.motion >= 73 {
		r.hole(axis)
		return
	}
	to := r.target(axis)
	for k, l := range []byte("XYZ") {
		if _, ok := axis[l]; ok {
			r.known[k] = true
		}
	}
	m := motion.Move{Kind: motion.Kind(r.motion), To: to, Feed: r.feed}
	if r.motion == 0 {
		m.Feed = 0
	} else {
		r.checkFeed()
	}
	if m.IsArc() {
		_, i := axis['I']
		_, j := axis['J']
		if !i && !j {
			r.problem("an arc without I or J")
			return
		}
		m.C = geom.V2{X: r.at.X + axis['I']*r.scale, Y: r.at.Y + axis['J']*r.scale}
		a, b := r.at.XY().Dist(m.C), to.XY().Dist(m.C)
		if math.Abs(a-b) > 0.005 {
			r.problem("the arc ends %.4f mm off its circle", math.Abs(a-b))
		}
	}
	r.emit(m)
}

func (r *reader) checkFeed() {
	switch {
	case r.feed <= 0:
		r.problem("a cutting move without a feed")
	case !r.turning:
		r.problem("a cutting move with the spindle standing")
	case r.tool == 0:
		r.problem("a cutting move without a tool")
	case !r.length:
		r.problem("a cutting move without a tool length offset")
	case r.out.Offset == "":
		r.problem("a cutting move without a work offset")
	case !r.units:
		r.problem("a cutting move before the unit is set (G20, G21)")
	case !r.known[0] || !r.known[1] || !r.known[2]:
		r.problem("a cutting move from an unknown position")
	}
}

func (r *reader) emit(m motion.Move) {
	r.out.Moves = append(r.out.Moves, Move{Move: m, Line: r.line, Tool: r.tool, RPM: r.speed(), Home: !r.known[2]})
	r.at = m.To
}
