package dxf

import (
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// fitTolerance is how far arcs may lie off the curve they stand for, mm.
const fitTolerance = 0.002

// fit replaces a smooth curve, given by point and tangent over 0..1, by pairs
// of arcs that meet tangentially (Bolton 1975, Biarc curves).
func fit(at func(t float64) (p, d geom.V2), pieces int) planar.Loop {
	var out planar.Loop
	for i := range pieces {
		out = fitPiece(out, at, float64(i)/float64(pieces), float64(i+1)/float64(pieces), 0)
	}
	return out
}

func fitPiece(out planar.Loop, at func(t float64) (p, d geom.V2), t0, t1 float64, depth int) planar.Loop {
	p, d := at(t0)
	q, e := at(t1)
	if p.Dist(q) < 1e-7 {
		return out
	}
	pair := biarc(p, d.Unit(), q, e.Unit())
	if depth < 12 && !near(pair, at, t0, t1) {
		mid := (t0 + t1) / 2
		return fitPiece(fitPiece(out, at, t0, mid, depth+1), at, mid, t1, depth+1)
	}
	return append(out, pair...)
}

// near tells whether points of the curve lie on the pair of arcs.
func near(pair planar.Loop, at func(t float64) (p, d geom.V2), t0, t1 float64) bool {
	if len(pair) == 0 {
		return false
	}
	for k := 1.0; k < 8; k++ {
		p, _ := at(t0 + (t1-t0)*k/8)
		if _, _, d := pair.Nearest(p); d > fitTolerance {
			return false
		}
	}
	return true
}

// biarc joins p to q by two arcs with the given unit tangents at the ends.
func biarc(p, d, q, e geom.V2) planar.Loop {
	v, t := q.Sub(p), d.Add(e)
	den := 2 * (1 - d.Dot(e))
	var k float64
	if den < 1e-9 {
		if math.Abs(v.Dot(e)) < 1e-12 {
			return planar.Loop{planar.Line(p, q)}
		}
		k = v.Dot(v) / (4 * v.Dot(e))
	} else {
		b := v.Dot(t)
		k = (math.Sqrt(b*b+den*v.Dot(v)) - b) / den
	}
	m := p.Add(q).Add(d.Sub(e).Mul(k)).Mul(0.5)
	first := arcFrom(p, d, m)
	second := arcFrom(q, e.Mul(-1), m)
	for i := len(second) - 1; i >= 0; i-- {
		first = append(first, second[i].Reverse())
	}
	return first
}

// arcFrom returns the arc from p with tangent d to m, or the line.
func arcFrom(p, d, m geom.V2) planar.Loop {
	v := m.Sub(p)
	if v.Len() < 1e-9 {
		return nil
	}
	n := d.Left()
	side := n.Dot(v)
	if math.Abs(side) < 1e-7*v.Len() {
		return planar.Loop{planar.Line(p, m)}
	}
	turn := int8(1)
	if side < 0 {
		turn = -1
	}
	return planar.Arc(p, m, p.Add(n.Mul(v.Dot(v)/(2*side))), turn)
}
