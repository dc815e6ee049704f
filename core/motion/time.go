package motion

import (
	"math"

	"arete/core/geom"
	"arete/core/machine"
)

// Times returns how long each move takes, seconds, from a start at rest.
//
// The model is a trapezoid in path speed with look-ahead (a simple form of
// Erkorkmaz and Altintas 2001): at a corner the speed is what a rounding of
// CornerTol allows at the machine's acceleration, on an arc what centripetal
// acceleration allows; a backward and a forward pass make every speed
// reachable. Rapids move the axes together at the rapid rate.
func Times(moves []Move, start geom.V3, m machine.Machine) []float64 {
	n := len(moves)
	length, top, entry := make([]float64, n), make([]float64, n), make([]float64, n+1)
	from := start
	var last geom.V3
	for i, mv := range moves {
		length[i] = mv.Len(from)
		top[i] = topSpeed(mv, from, m)
		dir := mv.direction(from, false)
		if i > 0 {
			entry[i] = math.Min(cornerSpeed(last, dir, m), math.Min(top[i-1], top[i]))
			if (moves[i-1].Kind == Rapid) != (mv.Kind == Rapid) {
				entry[i] = 0 // the control stops between rapid and feed
			}
		}
		last = mv.direction(from, true)
		from = mv.To
	}
	for i := n - 1; i >= 0; i-- {
		entry[i] = math.Min(entry[i], math.Sqrt(entry[i+1]*entry[i+1]+2*m.Accel*length[i]))
	}
	out := make([]float64, n)
	for i := range moves {
		entry[i+1] = math.Min(entry[i+1], math.Sqrt(entry[i]*entry[i]+2*m.Accel*length[i]))
		out[i] = ramp(length[i], entry[i], entry[i+1], top[i], m.Accel)
	}
	return out
}

func topSpeed(mv Move, from geom.V3, m machine.Machine) float64 {
	if mv.Kind == Rapid {
		d := mv.To.Sub(from)
		l := d.Len()
		if l == 0 {
			return m.Rapid / 60
		}
		longest := math.Max(math.Abs(d.X), math.Max(math.Abs(d.Y), math.Abs(d.Z)))
		return m.Rapid / 60 * l / longest
	}
	v := math.Min(mv.Feed, m.MaxFeed) / 60
	if mv.IsArc() {
		v = math.Min(v, math.Sqrt(m.Accel*from.XY().Dist(mv.C)))
	}
	return math.Max(v, 1e-3)
}

// direction returns the unit direction at the start or the end of the move.
func (m Move) direction(from geom.V3, atEnd bool) geom.V3 {
	if !m.IsArc() {
		return m.To.Sub(from).Unit()
	}
	p := from
	if atEnd {
		p = m.To
	}
	sweep := m.Sweep(from)
	r := from.XY().Dist(m.C)
	t := p.XY().Sub(m.C).Left().Unit().Mul(math.Copysign(1, sweep))
	rise := 0.0
	if l := math.Abs(sweep) * r; l > 0 {
		rise = (m.To.Z - from.Z) / l
	}
	return t.At(rise).Unit()
}

// cornerSpeed is the speed at which a corner can be rounded within the
// tolerance: the arc tangent to both sides that passes at that distance from
// the corner has radius tol·c/(1 − c) with c the cosine of half the turn.
func cornerSpeed(a, b geom.V3, m machine.Machine) float64 {
	cos := a.Dot(b)
	if cos > 1-1e-9 {
		return math.Inf(1)
	}
	half := math.Sqrt(math.Max(0, (1+cos)/2))
	if half < 1e-6 {
		return 0
	}
	return math.Sqrt(m.Accel * m.CornerTol * half / (1 - half))
}

// ramp returns the time over a length from speed a to b, at most v.
func ramp(length, a, b, v, accel float64) float64 {
	if length == 0 {
		return 0
	}
	peak := math.Min(v, math.Sqrt(accel*length+(a*a+b*b)/2))
	peak = math.Max(peak, math.Max(math.Max(a, b), 1e-6))
	d := (2*peak*peak - a*a - b*b) / (2 * accel)
	return (2*peak-a-b)/accel + math.Max(0, length-d)/peak
}
