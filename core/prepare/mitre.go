package prepare

import (
	"math"
	"slices"

	"arete/core/brep"
	"arete/core/geom"
)

// joint is where a strip ends: at the next one or at a face across.
type joint struct {
	near, far *brep.Vertex // on the level face, on the wall
	cross     *brep.Edge   // between them
	rib       *brep.Coedge // the wall's edge that ends here, leaving in the wall before; nil when the wall goes on
	cap       *brep.Face   // across an open end
	nearRib   *brep.Coedge // of the cap: the edge with the level face
	farRib    *brep.Coedge // of the cap: the edge with the wall
}

var errMitre = Problem{"the edges meet in a corner that is not square: chamfer or round them one at a time"}
var errEnd = Problem{"the end of the edge is not on a plane face: pick the edges beyond it too"}

// make cuts the edges off and puts the strips in.
func (c *chain) make() error {
	if err := c.strips(); err != nil {
		return err
	}
	n := len(c.parts)
	for i := range c.parts {
		if i == 0 && !c.closed {
			j, err := c.endJoint(c.parts[0], true)
			if err != nil {
				return err
			}
			c.joints = append(c.joints, j)
			continue
		}
		j, err := c.between(c.parts[(i+n-1)%n], c.parts[i])
		if err != nil {
			return err
		}
		c.joints = append(c.joints, j)
	}
	if !c.closed {
		j, err := c.endJoint(c.parts[n-1], false)
		if err != nil {
			return err
		}
		c.joints = append(c.joints, j)
	}
	for i, p := range c.parts {
		if err := c.fit(p, c.joints[i], c.joints[(i+1)%len(c.joints)]); err != nil {
			return err
		}
	}
	c.finish()
	return nil
}

// between joins two strips: smoothly, or in a mitre between straight ones.
func (c *chain) between(a, b *strip) (*joint, error) {
	j := &joint{}
	v, _ := b.use.Ends()
	m := b.use.Mate() // arrives at v in b's wall
	if next := c.w.next[m]; next != a.use.Mate() {
		if w := next.Mate(); w == nil || c.w.next[w] != a.use.Mate() {
			return nil, errMitre // more than one edge between the walls
		}
		j.rib = next
	}
	if tangent(a.use, b.use) {
		j.near = &brep.Vertex{P: b.near.At(b.near.Param(b.over(v, b.near)))}
		j.far = &brep.Vertex{P: b.far.At(b.far.Param(b.over(v, b.far)))}
		j.cross = c.section(b, v, j)
		return j, nil
	}
	la, oka := a.near.(brep.Line)
	lb, okb := b.near.(brep.Line)
	if !oka || !okb || j.rib == nil {
		return nil, errMitre
	}
	n := c.top.Surface.(brep.Plane).F.Z
	side := n.Cross(lb.D)
	j.near = &brep.Vertex{P: la.At(lb.P.Sub(la.P).Dot(side) / la.D.Dot(side))}
	rib := j.rib.Edge.Curve
	far := rib.At(rib.Param(nearestOn(b.far.(brep.Line), rib, v, c.size)))
	if b.far.At(b.far.Param(far)).Dist(far) > 10*tolerance || a.far.At(a.far.Param(far)).Dist(far) > 10*tolerance {
		return nil, errMitre
	}
	j.far = &brep.Vertex{P: far}
	j.cross = &brep.Edge{A: j.near, B: j.far}
	if !c.round {
		lay(j.cross, brep.Line{P: j.near.P, D: j.far.P.Sub(j.near.P).Unit()})
		return j, nil
	}
	// Two equal cylinders whose axes meet: an ellipse in the plane between them.
	o := geom.V3{}
	ca, cb := a.surface.(brep.Cylinder), b.surface.(brep.Cylinder)
	side = n.Cross(cb.F.Z)
	if d := ca.F.Z.Dot(side); math.Abs(d) > 1e-9 {
		o = ca.F.O.Add(ca.F.Z.Mul(cb.F.O.Sub(ca.F.O).Dot(side) / d))
	}
	x, y := j.near.P.Sub(o), j.far.P.Sub(o)
	if offAxis(cb.F, o) > 10*tolerance || math.Abs(x.Dot(y)) > 1e-6*x.Len()*y.Len() {
		return nil, errMitre
	}
	lay(j.cross, brep.Ellipse{F: geom.NewFrame(o, x.Cross(y), x), A: x.Len(), B: y.Len()})
	return j, nil
}

// nearestOn is the point of a curve, from v on, that lies on a line.
func nearestOn(l brep.Line, k brep.Curve, v geom.V3, size float64) geom.V3 {
	line, ok := k.(brep.Line)
	if !ok {
		return v
	}
	// The lines lie in one plane: the wall.
	w := l.D.Sub(line.D.Mul(l.D.Dot(line.D)))
	d := l.P.Sub(line.P)
	d = d.Sub(line.D.Mul(d.Dot(line.D)))
	if w.Len() < 1e-9 {
		return v
	}
	return l.At(-d.Dot(w) / w.Dot(w))
}

// over is the point of a strip's curve beside a point of its edge.
func (p *strip) over(v geom.V3, k brep.Curve) geom.V3 { return k.At(k.Param(v)) }

// section is the edge across a strip at a point of its edge, square to it.
func (c *chain) section(p *strip, v geom.V3, j *joint) *brep.Edge {
	e := &brep.Edge{A: j.near, B: j.far}
	if !c.round {
		lay(e, brep.Line{P: j.near.P, D: j.far.P.Sub(j.near.P).Unit()})
		return e
	}
	o := p.centre(v)
	x, y := j.near.P.Sub(o), j.far.P.Sub(o)
	lay(e, brep.Circle{F: geom.NewFrame(o, x.Cross(y), x), R: c.size})
	return e
}

// lay puts an edge on a curve from A to B, the shorter way.
func lay(e *brep.Edge, k brep.Curve) {
	e.Curve, e.T0, e.T1 = k, k.Param(e.A.P), k.Param(e.B.P)
	if p := k.Period(); p > 0 {
		e.T0 = near(e.T0, 0, p)
		e.T1 = near(e.T1, e.T0, p)
		if e.T1 < e.T0 {
			e.Curve = k.Reverse()
			e.T0, e.T1 = -e.T0, -e.T1
		}
	}
}

// endJoint ends a strip on the plane face across.
func (c *chain) endJoint(p *strip, start bool) (*joint, error) {
	j := &joint{}
	v, v1 := p.use.Ends()
	if start {
		j.nearRib = c.w.prev[p.use].Mate() // leaves v in the cap
		j.farRib = c.w.next[p.use.Mate()].Mate()
	} else {
		v = v1
		j.nearRib = c.w.next[p.use].Mate()
		j.farRib = c.w.prev[p.use.Mate()].Mate()
	}
	if j.nearRib == nil || j.farRib == nil || j.nearRib.Face != j.farRib.Face {
		return nil, errEnd
	}
	j.cap = j.nearRib.Face
	plane, flat := j.cap.Surface.(brep.Plane)
	if !flat {
		return nil, errEnd
	}
	on := func(k brep.Curve) (*brep.Vertex, bool) {
		at := k.Param(v)
		reach := 4*c.size + 1
		best, found := math.Inf(1), false
		for _, dir := range [2]float64{1, -1} {
			for _, t := range hits(k, at, dir, reach, plane) {
				if math.Abs(t-at) < math.Abs(best-at) {
					best, found = t, true
				}
			}
		}
		if !found {
			return nil, false
		}
		return &brep.Vertex{P: k.At(best)}, true
	}
	if c.w.next[j.farRib] != j.nearRib && c.w.next[j.nearRib] != j.farRib {
		return nil, errEnd
	}
	var ok1, ok2 bool
	j.near, ok1 = on(p.near)
	j.far, ok2 = on(p.far)
	if !ok1 || !ok2 {
		return nil, errEnd
	}
	k, ok := meet(p.surface, plane, j.near.P)
	if !ok || k.At(k.Param(j.far.P)).Dist(j.far.P) > 10*tolerance {
		return nil, errEnd
	}
	j.cross = &brep.Edge{A: j.near, B: j.far}
	if _, line := k.(brep.Line); line {
		k = brep.Line{P: j.near.P, D: j.far.P.Sub(j.near.P).Unit()}
	}
	lay(j.cross, k)
	return j, nil
}

// fit makes the edges of a strip between two joints, and its face.
func (c *chain) fit(p *strip, from, to *joint) error {
	side := func(k brep.Curve, a, b *brep.Vertex) (*brep.Edge, bool) {
		_, d := p.use.Edge.Mid()
		mid, _ := p.use.Edge.Mid()
		if !p.use.Forward {
			d = d.Mul(-1)
		}
		if k.Tangent(k.Param(mid)).Dot(d) < 0 {
			k = k.Reverse()
		}
		e := &brep.Edge{A: a, B: b, Curve: k, T0: k.Param(a.P), T1: k.Param(b.P)}
		if q := k.Period(); q > 0 {
			for e.T1 <= e.T0+1e-9 {
				e.T1 += q
			}
			return e, e.T1-e.T0 < q+1e-9 && (a == b || e.T1-e.T0 < (p.use.Edge.T1-p.use.Edge.T0)+math.Pi)
		}
		return e, e.T1 > e.T0+tolerance
	}
	near, ok := side(p.near, from.near, to.near)
	far, ok2 := side(p.far, from.far, to.far)
	if !ok || !ok2 {
		return errNoRoom(c.size)
	}
	c.s.Edges = append(c.s.Edges, near, far)
	f := p.face
	loop := []*brep.Coedge{use(near, f, false), use(from.cross, f, true), use(far, f, true), use(to.cross, f, false)}
	f.Loops = []brep.Loop{{Coedges: loop}}
	c.s.Faces = append(c.s.Faces, f)
	put(p.use, near, true)
	put(p.use.Mate(), far, false)
	return nil
}

// put gives the place of a coedge in its loop to an edge.
func put(u *brep.Coedge, e *brep.Edge, forward bool) {
	f := u.Face
	for k := range f.Loops {
		if i := slices.Index(f.Loops[k].Coedges, u); i >= 0 {
			f.Loops[k].Coedges[i] = use(e, f, forward)
		}
	}
}

// finish moves the ends of the edges that ended at the ones cut off, and closes
// the faces across.
func (c *chain) finish() {
	for _, j := range c.joints {
		c.s.Edges = append(c.s.Edges, j.cross)
		if j.rib != nil {
			leaf{j.rib.Edge, j.rib.Forward}.end(j.far)
		}
		if j.cap == nil {
			continue
		}
		nr, fr := j.nearRib, j.farRib
		if c.w.next[fr] == nr { // the cap's loop goes from the wall to the level face
			leaf{nr.Edge, nr.Forward}.end(j.near)
			leaf{fr.Edge, !fr.Forward}.end(j.far)
			insertAfter(fr, use(j.cross, j.cap, false))
		} else {
			leaf{nr.Edge, !nr.Forward}.end(j.near)
			leaf{fr.Edge, fr.Forward}.end(j.far)
			insertAfter(nr, use(j.cross, j.cap, true))
		}
	}
	old := map[*brep.Edge]bool{}
	for _, u := range c.uses {
		old[u.Edge] = true
	}
	c.s.Edges = slices.DeleteFunc(c.s.Edges, func(e *brep.Edge) bool { return old[e] })
	id := 0
	for _, e := range c.s.Edges {
		id = max(id, e.ID)
	}
	for _, e := range c.s.Edges {
		if e.ID == 0 {
			id++
			e.ID = id
		}
	}
}

func insertAfter(u, n *brep.Coedge) {
	f := u.Face
	for k := range f.Loops {
		if i := slices.Index(f.Loops[k].Coedges, u); i >= 0 {
			f.Loops[k].Coedges = slices.Insert(f.Loops[k].Coedges, i+1, n)
		}
	}
}
