package prepare

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// leaf is an edge that ends at a gap: one that was there and can be extended,
// or a new one that starts at a known vertex and whose way is not known yet
// (its Curve is nil; it ends at B).
type leaf struct {
	edge *brep.Edge
	atA  bool // its free end is its start
}

func leafOf(g *gap) leaf { return leaf{g.out.Edge, g.out.Forward} }

func (l leaf) isNew() bool { return l.edge.Curve == nil }

// fixed is the vertex that stays.
func (l leaf) fixed() *brep.Vertex {
	if l.atA {
		return l.edge.B
	}
	return l.edge.A
}

// free returns parameter and direction of growth at the free end.
func (l leaf) free() (t, dir float64) {
	if l.atA {
		return l.edge.T0, -1
	}
	return l.edge.T1, 1
}

// end moves the free end to a vertex on the edge's curve.
func (l leaf) end(v *brep.Vertex) {
	e := l.edge
	old, _ := l.free()
	t := near(e.Curve.Param(v.P), old, e.Curve.Period())
	if l.atA {
		e.T0, e.A = t, v
	} else {
		e.T1, e.B = t, v
	}
}

// reaches lists where a leaf between two faces can meet a third, nearest first.
func (c *closer) reaches(l leaf, f, g *brep.Face, s brep.Surface) []geom.V3 {
	var out []geom.V3
	if l.isNew() {
		p := l.fixed().P
		curve, ok := meet(f.Surface, g.Surface, p)
		if !ok {
			return nil
		}
		for _, dir := range [2]float64{1, -1} {
			for _, t := range hits(curve, curve.Param(p), dir, c.reach, s) {
				out = append(out, curve.At(t))
			}
		}
		if len(out) == 2 && c.off(out[1]) < c.off(out[0]) {
			out[0], out[1] = out[1], out[0]
		}
		return out
	}
	t, dir := l.free()
	e := l.edge
	within := (e.T1 - e.T0) * e.Curve.Tangent(t).Len() * (1 - 1e-6)
	for _, t := range append(hits(e.Curve, t, dir, c.reach, s), hits(e.Curve, t, -dir, within, s)...) {
		out = append(out, e.Curve.At(t))
	}
	return out
}

// passes tells whether a leaf between two faces can end at p.
func (c *closer) passes(l leaf, f, g *brep.Face, p geom.V3) bool {
	curve := l.edge.Curve
	if l.isNew() {
		var ok bool
		if curve, ok = meet(f.Surface, g.Surface, l.fixed().P); !ok {
			return false
		}
	}
	return curve.At(curve.Param(p)).Dist(p) < 10*tolerance
}

// off is how far p lies from what was taken off.
func (c *closer) off(p geom.V3) float64 {
	d := math.Inf(1)
	for _, q := range c.at {
		d = math.Min(d, p.Dist(q))
	}
	return d
}

// closeDisc extends a chain of faces until it closes: pieces of one edge are
// joined, then the edges that meet nearest to what was taken off are, and
// their outer faces with each other, until one edge or corner is left. What is
// left when nothing meets any more is returned with an error.
func (c *closer) closeDisc(cy cycle) (rest cycle, err error) {
	for {
		n := len(cy)
		if n < 2 {
			return cy, errNoClosing
		}
		if i := c.joint(cy); i >= 0 {
			if cy = c.join(cy, i); cy == nil {
				return nil, nil
			}
			continue
		}
		if n == 2 {
			return cy, c.lastEdge(cy[0], cy[1])
		}
		i, p, ok := c.corner(cy)
		if !ok {
			return cy, errNoClosing
		}
		if n == 3 {
			return cy, c.lastCorner(cy, p)
		}
		if cy, err = c.cut(cy, i, p); err != nil {
			return cy, err
		}
	}
}

// corner finds the gap whose two edges meet, on the faces before and after it,
// nearest to what was taken off.
func (c *closer) corner(cy cycle) (at int, p geom.V3, ok bool) {
	n, best := len(cy), math.Inf(1)
	for i, g := range cy {
		before, after := cy[(i+n-1)%n], cy[(i+1)%n]
		a, b := leafOf(before), leafOf(g)
		var found []geom.V3
		if a.isNew() && !b.isNew() {
			found = c.reaches(b, g.face, after.face, before.face.Surface)
		} else {
			found = c.reaches(a, before.face, g.face, after.face.Surface)
		}
		for _, q := range found {
			if d := c.off(q); d < best && c.passes(a, before.face, g.face, q) && c.passes(b, g.face, after.face, q) {
				at, p, ok, best = i, q, true, d
			}
		}
	}
	return at, p, ok
}

// settle ends a leaf between two faces at a vertex.
func (c *closer) settle(l leaf, f, g *brep.Face, v *brep.Vertex) error {
	if !l.isNew() {
		l.end(v)
		return nil
	}
	curve, ok := meet(f.Surface, g.Surface, v.P)
	if !ok {
		return errNoClosing
	}
	l.edge.A = v
	c.stretch(l.edge, curve, func(mid geom.V3) float64 { return c.off(mid) })
	c.fresh = append(c.fresh, l.edge)
	return nil
}

// stretch lays an edge from A to B along a curve; of the two ways round a
// closed one that whose middle costs less.
func (c *closer) stretch(e *brep.Edge, curve brep.Curve, cost func(mid geom.V3) float64) {
	lay := func(k brep.Curve) (t0, t1 float64) {
		t0, t1 = k.Param(e.A.P), k.Param(e.B.P)
		if p := k.Period(); p > 0 {
			for t1 <= t0+1e-9 {
				t1 += p
			}
		}
		return t0, t1
	}
	back := curve.Reverse()
	e.Curve = curve
	e.T0, e.T1 = lay(curve)
	t0, t1 := lay(back)
	other := curve.Period() > 0 && cost(back.At((t0+t1)/2)) < cost(curve.At((e.T0+e.T1)/2))
	if e.T1 < e.T0 || other {
		e.Curve, e.T0, e.T1 = back, t0, t1
	}
}

// use adds a use of an edge in a face.
func use(e *brep.Edge, f *brep.Face, forward bool) *brep.Coedge {
	u := &brep.Coedge{Edge: e, Face: f, Forward: forward}
	e.Uses = append(e.Uses, u)
	return u
}

// cut closes gap i at p and starts a new edge there between its neighbours.
func (c *closer) cut(cy cycle, i int, p geom.V3) (cycle, error) {
	n := len(cy)
	g, before, after := cy[i], cy[(i+n-1)%n], cy[(i+1)%n]
	v := &brep.Vertex{P: p}
	if err := c.settle(leafOf(before), before.face, g.face, v); err != nil {
		return cy, err
	}
	if err := c.settle(leafOf(g), g.face, after.face, v); err != nil {
		return cy, err
	}
	c.w.link(g.in, g.out)
	e := &brep.Edge{B: v}
	u, m := use(e, before.face, true), use(e, after.face, false)
	c.w.link(u, before.out)
	c.w.link(after.in, m)
	before.out, after.in = u, m
	return append(append(cycle{}, cy[:i]...), cy[i+1:]...), nil
}

// lastCorner ends three edges at p.
func (c *closer) lastCorner(cy cycle, p geom.V3) error {
	v := &brep.Vertex{P: p}
	for i, g := range cy {
		after := cy[(i+1)%3]
		if !c.passes(leafOf(g), g.face, after.face, p) {
			return errNoClosing
		}
		if err := c.settle(leafOf(g), g.face, after.face, v); err != nil {
			return err
		}
	}
	for _, g := range cy {
		c.w.link(g.in, g.out)
	}
	return nil
}

// lastEdge closes two gaps with one edge between their faces, at least one end
// of which is a new corner.
func (c *closer) lastEdge(f, g *gap) error {
	a, b := leafOf(f), leafOf(g) // a leaves f and arrives at g, b the other way
	if a.isNew() && b.isNew() {
		curve, ok := meet(f.face.Surface, g.face.Surface, a.fixed().P)
		if !ok || !c.passes(a, f.face, g.face, b.fixed().P) {
			return errNoClosing
		}
		e := &brep.Edge{A: b.fixed(), B: a.fixed()}
		c.stretch(e, curve, c.off)
		c.fresh = append(c.fresh, e)
		c.splice(c.w.prev[f.in], use(e, f.face, true), c.w.next[f.out])
		c.splice(c.w.prev[g.in], use(e, g.face, false), c.w.next[g.out])
		return nil
	}
	if b.isNew() {
		f, g, a, b = g, f, b, a
	}
	if !a.isNew() || !c.passes(b, g.face, f.face, a.fixed().P) {
		return errNoClosing
	}
	b.end(a.fixed())
	c.w.link(f.in, c.w.next[f.out])
	c.w.link(c.w.prev[g.in], g.out)
	return nil
}

func (c *closer) splice(before, u, after *brep.Coedge) {
	c.w.link(before, u)
	c.w.link(u, after)
}
