package prepare

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// rim is how a chain of faces, extended, meets the face of a whole loop: a
// vertex at the edge behind each gap, and the edges between.
type rim struct {
	ends  []*brep.Vertex
	edges []*brep.Edge
}

// rimOf works out the rim of a chain on the face of a whole loop. It is one
// only if it lies inside the loop of an opening, or around an outer loop.
func (c *closer) rimOf(loop, chain cycle) (rim, bool) {
	var r rim
	if !loop.whole() {
		return r, false
	}
	s := loop[0].face.Surface
	for i, g := range chain {
		p, ok := c.onto(g, chain[(i+1)%len(chain)], s)
		if !ok {
			return r, false
		}
		r.ends = append(r.ends, &brep.Vertex{P: p})
	}
	for i, g := range chain {
		e, ok := c.rimEdge(g, s, r.ends[(i+len(chain)-1)%len(chain)], r.ends[i])
		if !ok {
			return r, false
		}
		r.edges = append(r.edges, e)
	}
	return r, r.fits(loop[0])
}

// fits tells whether the rim lies inside the loop of an opening, or around an
// outer loop. It is taken for granted on faces that are not plane.
func (r rim) fits(g *gap) bool {
	if g.face.Surface.Kind() != brep.KindPlane {
		return true
	}
	flat := func(edges []*brep.Edge, uses []*brep.Coedge) []geom.V2 {
		var out []geom.V2
		for i, e := range edges {
			pts := e.Points(0.05)
			for k := range pts[1:] {
				if uses != nil && !uses[i].Forward {
					k = len(pts) - 1 - k
				}
				out = append(out, g.face.Surface.Param(pts[k]))
			}
		}
		return out
	}
	var old []*brep.Edge
	for _, u := range g.run {
		old = append(old, u.Edge)
	}
	inner, outer := flat(r.edges, nil), flat(old, g.run)
	if !g.anInside() {
		inner, outer = outer, inner
	}
	for i, a := range inner {
		if mid := a.Lerp(inner[(i+1)%len(inner)], 0.5); winding(outer, mid) == 0 {
			return false
		}
	}
	return true
}

// winding counts how often a polygon runs around p.
func winding(poly []geom.V2, p geom.V2) int {
	n := 0
	for i, a := range poly {
		b := poly[(i+1)%len(poly)]
		if side := b.Sub(a).Cross(p.Sub(a)); a.Y <= p.Y && b.Y > p.Y && side > 0 {
			n++
		} else if a.Y > p.Y && b.Y <= p.Y && side < 0 {
			n--
		}
	}
	return n
}

// closeRing extends a chain of faces until it meets the face of a whole loop
// on the other side of what was taken off: a chamfer or round along a rim, or
// the wider mouth of a hole. Nothing is changed when they do not meet.
func (c *closer) closeRing(loop, chain cycle) bool {
	r, ok := c.rimOf(loop, chain)
	if !ok {
		return false
	}
	to := loop[0].face
	var first, last *brep.Coedge
	for i := len(chain) - 1; i >= 0; i-- {
		g, e := chain[i], r.edges[i]
		if g.out != nil && c.settle(leafOf(g), g.face, chain[(i+1)%len(chain)].face, r.ends[i]) != nil {
			return false
		}
		c.fresh = append(c.fresh, e)
		u := use(e, g.face, true)
		if g.in == nil {
			c.w.link(u, u)
		} else {
			c.splice(g.in, u, g.out)
		}
		m := use(e, to, false)
		if last != nil {
			c.w.link(last, m)
		} else {
			first = m
		}
		last = m
	}
	c.w.link(last, first)
	return true
}

// onto finds where the edge behind a gap, extended, meets a surface; of a face
// without such an edge, where a straight line of it does.
func (c *closer) onto(g, after *gap, s brep.Surface) (geom.V3, bool) {
	if g.out == nil {
		return c.alongWall(g, s)
	}
	l := leafOf(g)
	if l.isNew() {
		best, found := geom.V3{}, false
		for _, p := range c.reaches(l, g.face, after.face, s) {
			if !found || c.off(p) < c.off(best) {
				best, found = p, true
			}
		}
		return best, found
	}
	at := c.reaches(l, g.face, after.face, s)
	if len(at) == 0 {
		return geom.V3{}, false
	}
	return at[0], true
}

// alongWall follows the straight line of a round wall from the start of a
// whole loop.
func (c *closer) alongWall(g *gap, s brep.Surface) (geom.V3, bool) {
	p, _ := g.run[0].Ends()
	d := geom.V3{}
	switch w := g.face.Surface.(type) {
	case brep.Cylinder:
		d = w.F.Z
	case brep.Cone:
		d = p.Sub(w.Apex()).Unit()
	default:
		return d, false
	}
	line := brep.Line{P: p, D: d}
	best, found := math.Inf(1), false
	for _, dir := range [2]float64{1, -1} {
		for _, t := range hits(line, 0, dir, c.reach, s) {
			if math.Abs(t) < math.Abs(best) {
				best, found = t, true
			}
		}
	}
	if !found {
		return d, false
	}
	return line.At(best), true
}

// rimEdge is the edge along which the face of a gap meets a surface, between two
// vertices, running as the gap does.
func (c *closer) rimEdge(g *gap, s brep.Surface, from, to *brep.Vertex) (*brep.Edge, bool) {
	curve, ok := meet(g.face.Surface, s, from.P)
	if !ok || curve.At(curve.Param(to.P)).Dist(to.P) > 10*tolerance || len(g.run) == 0 {
		return nil, false
	}
	mid, along := g.middle()
	t := curve.Param(mid)
	if curve.Tangent(t).Dot(along) < 0 {
		curve = curve.Reverse()
	}
	e := &brep.Edge{Curve: curve, A: from, B: to, T0: curve.Param(from.P), T1: curve.Param(to.P)}
	if p := curve.Period(); p > 0 {
		for e.T1 <= e.T0+1e-9 {
			e.T1 += p
		}
		if from.P.Dist(to.P) < tolerance {
			e.B = from
		}
	}
	return e, e.T1 > e.T0
}

// middle returns a point halfway along what falls away at a gap, and the
// direction there.
func (g *gap) middle() (p, along geom.V3) {
	u := g.run[len(g.run)/2]
	p, along = u.Edge.Mid()
	if !u.Forward {
		along = along.Mul(-1)
	}
	return p, along
}
