package clearing

import (
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// helix spirals down in the widest place around the curve and feeds to its
// start. It is refused where the circle would be too small.
func (c *cutter) helix(l planar.Loop) bool {
	start := l[0].A
	centre, room := c.widest(start)
	r := math.Min(0.9*c.in.Radius, room)
	if r < c.in.MinHelix || r <= 0 {
		return false
	}
	if !c.a.room.Inside(planar.Line(centre, start), c.in.Tol) {
		return false
	}
	out := start.Sub(centre).Unit()
	if out == (geom.V2{}) {
		out = geom.V2{X: 1}
	}
	p := centre.Add(out.Mul(r))
	c.b.Over(p, c.a.lv.From+c.lift())
	c.b.Line(p.At(c.a.lv.From+0.1), c.in.Plunge)
	c.turns(p, centre, r)
	if c.a.room.Inside(planar.Line(p, start), c.in.Tol) {
		c.b.Line(start.At(c.z), c.in.Feed)
	} else {
		c.b.Line(centre.At(c.z), c.in.Feed)
		c.b.Line(start.At(c.z), c.in.Feed)
	}
	return true
}

// turns writes half circles down to depth and one full flat circle.
func (c *cutter) turns(p, centre geom.V2, r float64) {
	drop := c.b.At.Z - c.z
	pitch := 2 * math.Pi * r * math.Tan(c.in.RampAngle)
	halves := max(1, int(math.Ceil(2*drop/pitch)))
	q := centre.Mul(2).Sub(p)
	from := c.b.At.Z
	for i := 1; i <= halves+2; i++ {
		to := p
		if i%2 == 1 {
			to = q
		}
		z := math.Max(c.z, from-drop*float64(i)/float64(halves))
		c.b.Arc(to.At(z), centre, 1, c.in.Feed)
	}
	if halves%2 == 1 { // finish where it began
		c.b.Arc(p.At(c.z), centre, 1, c.in.Feed)
	}
}

// widest returns the centre of the largest disc in the part of the room that
// holds p, and the disc's radius.
func (c *cutter) widest(p geom.V2) (geom.V2, float64) {
	inner := c.a.rings[len(c.a.rings)-1]
	for k := len(c.a.rings) - 1; k >= 0; k-- {
		for _, part := range c.a.rings[k].Parts() {
			if part.Contains(p) || part.Dist(p) < 1e-6 {
				q, _ := part.Deepest(0.05)
				return q, c.a.room.Dist(q)
			}
		}
		inner = c.a.rings[k]
	}
	q, _ := inner.Deepest(0.05)
	return q, c.a.room.Dist(q)
}

// ramp goes down along the curve itself, back and forth, never steeper than
// the ramp angle; on a curve too short for that it plunges if the tool may.
func (c *cutter) ramp(l planar.Loop) bool {
	run := firstStretch(l, 4*c.in.Radius)
	start := l[0].A
	from := c.a.lv.From + 0.1
	if run.Len() < 0.2*c.in.Radius {
		if !c.in.Plunges {
			c.problems = append(c.problems, Problem{c.z, "there is no room to ramp and the tool does not cut at its centre"})
			return false
		}
		c.b.Over(start, from+c.lift())
		c.b.Line(start.At(c.z), c.in.Plunge)
		return true
	}
	c.b.Over(start, from+c.lift())
	c.b.Line(start.At(from), c.in.Plunge)
	passes := max(1, int(math.Ceil((from-c.z)/(run.Len()*math.Tan(c.in.RampAngle)))))
	passes += passes % 2 // end at the start
	step := (from - c.z) / float64(passes)
	z := from
	for i := 0; i < passes; i++ {
		chain := run
		if i%2 == 1 {
			chain = run.Reverse()
		}
		z = c.slopes(chain, z, step)
	}
	return true
}

// slopes feeds along the chain while dropping evenly by step.
func (c *cutter) slopes(chain planar.Loop, z, step float64) float64 {
	total, done := chain.Len(), 0.0
	for _, s := range chain {
		done += s.Len()
		h := z - step*done/total
		if h < c.z+1e-9 {
			h = c.z
		}
		if s.Turn == 0 {
			c.b.Line(s.B.At(h), c.in.Feed)
		} else {
			c.b.Arc(s.B.At(h), s.C, s.Turn, c.in.Feed)
		}
	}
	return z - step
}

// firstStretch returns the beginning of a chain up to a length.
func firstStretch(l planar.Loop, length float64) planar.Loop {
	var out planar.Loop
	for _, s := range l {
		n := s.Len()
		if n >= length {
			return append(out, planar.Segment{A: s.A, B: s.At(length / n), C: s.C, Turn: s.Turn})
		}
		out = append(out, s)
		length -= n
	}
	return out
}
