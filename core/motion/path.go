// Package motion holds tool paths: the moves of the tool tip in setup
// coordinates (mm), their cycles, and the time a machine takes for them.
package motion

import (
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// Kind is the shape of a move.
type Kind uint8

// The kinds of moves (ISO 6983: G0, G1, G2, G3).
const (
	Rapid Kind = iota
	Line
	CW
	CCW
)

// Move takes the tool tip from where it is to To. An arc turns about C in the
// XY plane by at most a full circle while Z goes evenly to To.Z. Feed is in
// mm/min; rapids have none.
type Move struct {
	Kind Kind
	To   geom.V3
	C    geom.V2
	Feed float64
}

// CycleKind is a hole cycle.
type CycleKind uint8

// The hole cycles (ISO 6983: G81, G83, G73).
const (
	CycleDrill CycleKind = iota
	CyclePeck
	CycleChipBreak
)

// Cycle marks the moves [From, To) as one hole of a cycle, so that a control
// that knows it can be given one block.
type Cycle struct {
	Kind     CycleKind
	From, To int
	XY       geom.V2
	R, Z     float64 // R plane, bottom
	Peck     float64 // depth of one peck
	Feed     float64
	Initial  float64 // height before and after
}

// Path is the motion of one step.
type Path struct {
	Moves  []Move
	Cycles []Cycle
}

// Sweep returns the signed angle of an arc move that starts at from: positive
// counter-clockwise; equal ends make a full circle.
func (m Move) Sweep(from geom.V3) float64 {
	a, b := from.XY().Sub(m.C), m.To.XY().Sub(m.C)
	w := math.Atan2(a.Cross(b), a.Dot(b))
	if m.Kind == CCW && w <= 1e-9 {
		w += 2 * math.Pi
	}
	if m.Kind == CW && w >= -1e-9 {
		w -= 2 * math.Pi
	}
	return w
}

// speck is the length, mm, below which an arc is run straight, and below which
// the gap of a circle must not fall: rounded to the digits of a program the
// ends could change places, and a control would run the rest of the circle,
// or leave it out.
const speck = 0.02

// Straighten turns arcs too short to be written safely into lines and halves
// arcs that all but close; the difference is far below a micrometre.
func (p *Path) Straighten() {
	var at geom.V3
	halved := map[int]Move{}
	for i, m := range p.Moves {
		if m.IsArc() {
			r, sweep := m.To.XY().Dist(m.C), math.Abs(m.Sweep(at))
			switch {
			case sweep*r < speck:
				p.Moves[i] = Move{Kind: Line, To: m.To, Feed: m.Feed}
			case (2*math.Pi-sweep)*r < speck && m.To.XY() != at.XY():
				halved[i] = Move{Kind: m.Kind, To: m.At(at, 0.5), C: m.C, Feed: m.Feed}
			}
		}
		at = m.To
	}
	if len(halved) > 0 {
		p.insert(halved)
	}
}

// insert puts moves before those of the given numbers.
func (p *Path) insert(before map[int]Move) {
	var out []Move
	shift := make([]int, len(p.Moves)+1)
	for i, m := range p.Moves {
		shift[i] = len(out)
		if h, ok := before[i]; ok {
			out = append(out, h)
		}
		out = append(out, m)
	}
	shift[len(p.Moves)] = len(out)
	for i, c := range p.Cycles {
		p.Cycles[i].From, p.Cycles[i].To = shift[c.From], shift[c.To]
	}
	p.Moves = out
}

// IsArc tells whether the move is curved.
func (m Move) IsArc() bool { return m.Kind == CW || m.Kind == CCW }

// Len returns the length of the move from a point.
func (m Move) Len(from geom.V3) float64 {
	if !m.IsArc() {
		return m.To.Dist(from)
	}
	l := math.Abs(m.Sweep(from)) * from.XY().Dist(m.C)
	return math.Hypot(l, m.To.Z-from.Z)
}

// At returns the point at fraction t of the move.
func (m Move) At(from geom.V3, t float64) geom.V3 {
	if !m.IsArc() {
		return from.Lerp(m.To, t)
	}
	if t >= 1 {
		return m.To
	}
	sin, cos := math.Sincos(m.Sweep(from) * t)
	return m.C.Add(from.XY().Sub(m.C).Rotate(cos, sin)).At(from.Z + (m.To.Z-from.Z)*t)
}

// Builder writes a path. Clear is the height for rapids across the work.
type Builder struct {
	Path
	At      geom.V3
	Clear   float64
	started bool
}

// NewBuilder starts a path at the clearance plane.
func NewBuilder(clear float64) *Builder {
	return &Builder{Clear: clear, At: geom.V3{Z: clear}}
}

func (b *Builder) add(m Move) {
	if b.started && m.To == b.At && !m.IsArc() {
		return
	}
	b.started = true
	b.Moves = append(b.Moves, m)
	b.At = m.To
}

// Rapid goes straight to p at rapid speed.
func (b *Builder) Rapid(p geom.V3) { b.add(Move{Kind: Rapid, To: p}) }

// Line feeds straight to p.
func (b *Builder) Line(p geom.V3, feed float64) { b.add(Move{Kind: Line, To: p, Feed: feed}) }

// Arc feeds to p around c; turn +1 is counter-clockwise.
func (b *Builder) Arc(p geom.V3, c geom.V2, turn int8, feed float64) {
	k := CCW
	if turn < 0 {
		k = CW
	}
	b.add(Move{Kind: k, To: p, C: c, Feed: feed})
}

// Follow feeds along a chain of segments at height z.
func (b *Builder) Follow(chain []planar.Segment, z, feed float64) {
	for _, s := range chain {
		if s.Turn == 0 {
			b.Line(s.B.At(z), feed)
		} else {
			b.Arc(s.B.At(z), s.C, s.Turn, feed)
		}
	}
}

// Over goes to the clearance plane, across, and down to a height above p by
// rapid moves; nothing but the clearance plane is assumed to be free.
func (b *Builder) Over(p geom.V2, down float64) {
	b.Up()
	b.Rapid(p.At(b.Clear))
	if down < b.Clear {
		b.Rapid(p.At(down))
	}
}

// Up rises to the clearance plane.
func (b *Builder) Up() {
	if b.started && b.At.Z < b.Clear {
		b.Rapid(b.At.XY().At(b.Clear))
	}
}
