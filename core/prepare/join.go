package prepare

import (
	"arete/core/brep"
)

// joint finds a gap whose two edges are pieces of one and whose neighbours lie
// on one surface: the gap of a notch or a slot. It returns −1 if there is none.
func (c *closer) joint(cy cycle) int {
	n := len(cy)
	if n == 3 {
		return -1
	}
	for i, g := range cy {
		before, after := cy[(i+n-1)%n], cy[(i+1)%n]
		a, b := leafOf(before), leafOf(g)
		if a.isNew() || b.isNew() || a.edge == b.edge && (n != 2 || a.edge.Curve.Period() == 0) {
			continue
		}
		if before.face != after.face && (!same(before.face.Surface, after.face.Surface) || !sameSide(before.face, after.face)) {
			continue
		}
		if follows(a.edge.Curve, b.edge.Curve, b.edge.T0, b.edge.T1) {
			return i
		}
	}
	return -1
}

// sameSide tells whether two faces of one surface look the same way.
func sameSide(f, g *brep.Face) bool {
	p := g.Loops[0].Coedges[0].Edge.A.P
	return f.NormalAt(p).Dot(g.NormalAt(p)) > 0
}

// join makes one edge of the two at gap i and one face of its neighbours. It
// returns what is left of the cycle, nil for nothing.
func (c *closer) join(cy cycle, i int) cycle {
	n := len(cy)
	g, before, after := cy[i], cy[(i+n-1)%n], cy[(i+1)%n]
	a, b := leafOf(before), leafOf(g)
	if a.edge == b.edge { // both ends of one edge: a whole turn
		e := a.edge
		e.T1 = e.T0 + e.Curve.Period()
		e.B = e.A
		c.w.link(g.in, g.in)
		c.w.link(before.out, before.out)
		return nil
	}
	a.end(b.fixed())
	in, out := after.in, g.out // the uses of the second piece
	c.w.link(g.in, c.w.next[out])
	c.w.link(c.w.prev[in], before.out)
	c.gone[in], c.gone[out] = true, true
	if n == 2 {
		return nil
	}
	if c.final(before.face) != c.final(after.face) {
		c.into[c.final(after.face)] = c.final(before.face)
	}
	merged := &gap{face: before.face, in: before.in, out: after.out}
	rest := cycle{merged}
	for k := 2; k < n-1; k++ {
		rest = append(rest, cy[(i+k)%n])
	}
	return rest
}
