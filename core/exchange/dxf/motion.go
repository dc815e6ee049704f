package dxf

import (
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// motion is a map of the plane: (ax+by, cx+dy) and a move.
type motion struct {
	a, b, c, d float64
	move       geom.V2
}

func scaled(s float64) motion { return motion{a: s, d: s} }

func (m motion) turn(p geom.V2) geom.V2 {
	return geom.V2{X: m.a*p.X + m.b*p.Y, Y: m.c*p.X + m.d*p.Y}
}

func (m motion) of(p geom.V2) geom.V2 { return m.turn(p).Add(m.move) }

// after returns n followed by m.
func (m motion) after(n motion) motion {
	return motion{m.a*n.a + m.b*n.c, m.a*n.b + m.b*n.d, m.c*n.a + m.d*n.c, m.c*n.b + m.d*n.d, m.of(n.move)}
}

// even tells whether circles stay circles, and whether they are turned over.
func (m motion) even() (ok, over bool) {
	k := math.Hypot(m.a, m.c)
	det := m.a*m.d - m.b*m.c
	return math.Abs(k-math.Hypot(m.b, m.d)) < 1e-9*k && math.Abs(m.a*m.b+m.c*m.d) < 1e-9*k*k, det < 0
}

// mirror is the map of an entity drawn from behind: its own x runs against the
// drawing's where its extrusion points down.
func (e entity) mirror() motion {
	if e.num(230, 1) < 0 {
		return motion{a: -1, d: 1}
	}
	return scaled(1)
}

// segments maps lines and arcs; arcs that become ellipses are fitted.
func (m motion) segments(l planar.Loop) planar.Loop {
	ok, over := m.even()
	var out planar.Loop
	for _, s := range l {
		switch {
		case !s.IsArc():
			out = append(out, planar.Line(m.of(s.A), m.of(s.B)))
		case ok:
			t := planar.Segment{A: m.of(s.A), B: m.of(s.B), C: m.of(s.C), Turn: s.Turn}
			if over {
				t.Turn = -t.Turn
			}
			out = append(out, t)
		default:
			a0, sweep, r := s.A.Sub(s.C), s.Sweep(), s.Radius()
			start := math.Atan2(a0.Y, a0.X)
			out = append(out, fit(func(t float64) (geom.V2, geom.V2) {
				sin, cos := math.Sincos(start + sweep*t)
				return m.of(s.C.Add(geom.V2{X: r * cos, Y: r * sin})), m.turn(geom.V2{X: -r * sin * sweep, Y: r * cos * sweep})
			}, 4)...)
		}
	}
	return out
}
