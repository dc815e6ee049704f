package prepare

import (
	"math"
	"slices"

	"arete/core/brep"
	"arete/core/geom"
)

// bevel gives edges a chamfer with equal legs, or a round. The edges are grown
// to the edges they run into tangentially on a level face that all have.
func bevel(s *brep.Solid, edges []int, size float64, round bool) error {
	if !(size >= 0.01 && size <= 200) {
		return problem("a chamfer or round has between 0.01 and 200 mm")
	}
	left := map[*brep.Edge]bool{}
	for _, i := range edges {
		left[s.Edges[i]] = true
	}
	for _, i := range edges {
		e := s.Edges[i]
		if !left[e] {
			continue
		}
		b, err := chainOf(s, e, left)
		if err != nil {
			return err
		}
		b.size, b.round = size, round
		if err := b.make(); err != nil {
			return err
		}
	}
	return sound(s)
}

// chain is a run of edges along a level face, each with another face beyond.
type chain struct {
	s      *brep.Solid
	w      wiring
	top    *brep.Face
	uses   []*brep.Coedge // of the level face, in order
	closed bool
	size   float64
	round  bool
	parts  []*strip
	joints []*joint // joint i lies before strip i; an open chain has one more
}

// chainOf grows an edge to a chain of those that are left, and of what they run
// into tangentially.
func chainOf(s *brep.Solid, e *brep.Edge, left map[*brep.Edge]bool) (*chain, error) {
	if len(e.Uses) != 2 || e.Uses[0].Face == e.Uses[1].Face {
		return nil, problem("this edge has only one face: pick an edge between two faces")
	}
	if e.Shape() == brep.Smooth {
		return nil, problem("the faces run into each other without an edge there")
	}
	w := wire(s)
	var best *chain
	for _, u := range e.Uses {
		if _, flat := u.Face.Surface.(brep.Plane); !flat {
			continue
		}
		c := &chain{s: s, w: w, top: u.Face}
		if c.grow(u, left); best == nil || len(c.uses) > len(best.uses) {
			best = c
		}
	}
	if best == nil {
		return nil, problem("one of the faces at the edge must be plane")
	}
	for _, u := range best.uses {
		delete(left, u.Edge)
	}
	return best, nil
}

// grow follows the loop of the level face both ways.
func (c *chain) grow(u *brep.Coedge, left map[*brep.Edge]bool) {
	shape := u.Edge.Shape()
	joins := func(n *brep.Coedge, smooth bool) bool {
		m := n.Mate()
		return m != nil && m.Face != c.top && (smooth || left[n.Edge]) && n.Edge.Shape() == shape
	}
	c.uses = []*brep.Coedge{u}
	for last, n := u, c.w.next[u]; joins(n, tangent(last, n)); last, n = n, c.w.next[n] {
		if n == u {
			c.closed = true
			return
		}
		c.uses = append(c.uses, n)
	}
	for first, p := u, c.w.prev[u]; joins(p, tangent(p, first)); first, p = p, c.w.prev[p] {
		c.uses = slices.Insert(c.uses, 0, p)
	}
}

// tangent tells whether b goes on where a ends, without a corner.
func tangent(a, b *brep.Coedge) bool {
	_, da := ends(a)
	db, _ := ends(b)
	return da.Dot(db) > math.Cos(0.5*math.Pi/180)
}

// ends returns the directions of travel at start and end of a coedge.
func ends(c *brep.Coedge) (at, to geom.V3) {
	e := c.Edge
	a, b := e.Curve.Tangent(e.T0).Unit(), e.Curve.Tangent(e.T1).Unit()
	if c.Forward {
		return a, b
	}
	return b.Mul(-1), a.Mul(-1)
}

// strip is the new face along one edge: between a curve on the level face and
// one on the wall.
type strip struct {
	use        *brep.Coedge // of the level face
	wall       *brep.Face
	near, far  brep.Curve // on the level face, on the wall
	surface    brep.Surface
	face       *brep.Face
	centre     func(at geom.V3) geom.V3 // of the round, above a point of the edge
	sign       float64                  // 1 on an outside edge, −1 on an inside one
	lean, back float64                  // angle between the normals; what is taken from each face
}

var errNoBevel = Problem{"a chamfer or round can be made along straight edges between planes, and along arcs of round walls square to a plane"}

// strips works out the new faces.
func (c *chain) strips() error {
	n := c.top.NormalAt(c.top.Surface.(brep.Plane).F.O)
	for _, u := range c.uses {
		p := &strip{use: u, wall: u.Mate().Face, sign: 1}
		if u.Edge.Shape() == brep.Concave {
			p.sign = -1
		}
		at, along := u.Edge.Mid()
		if along = along.Unit(); !u.Forward {
			along = along.Mul(-1)
		}
		m := p.wall.NormalAt(at)
		p.lean = math.Acos(math.Max(-1, math.Min(1, n.Dot(m))))
		p.back = c.size
		if c.round {
			p.back = c.size * math.Tan(p.lean/2)
		}
		in := n.Cross(along)   // into the level face
		down := along.Cross(m) // into the wall
		pn, pf := at.Add(in.Mul(p.back)), at.Add(down.Mul(p.back))
		middle := pn.Sub(n.Mul(p.sign * c.size))
		if err := p.lay(u.Edge.Curve, at, pn, pf, middle, n, c); err != nil {
			return err
		}
		p.face = &brep.Face{Surface: p.surface, Colour: c.top.Colour, Layer: c.top.Layer}
		x := pn.Lerp(pf, 0.5)
		if c.round {
			x = middle.Add(n.Add(m).Unit().Mul(p.sign * c.size))
		}
		p.face.Same = true
		p.face.Same = p.face.NormalAt(x).Dot(n.Add(m)) > 0
		c.parts = append(c.parts, p)
	}
	return nil
}

// lay finds the curves and the surface of a strip from their points over the
// middle of the edge.
func (p *strip) lay(edge brep.Curve, at, pn, pf, middle, n geom.V3, c *chain) error {
	switch k := edge.(type) {
	case brep.Line:
		if _, flat := p.wall.Surface.(brep.Plane); !flat {
			return errNoBevel
		}
		p.near, p.far = brep.Line{P: pn, D: k.D}, brep.Line{P: pf, D: k.D}
		p.surface = brep.Plane{F: geom.NewFrame(pn, k.D.Cross(pf.Sub(pn)), k.D)}
		if c.round {
			p.surface = brep.Cylinder{F: geom.NewFrame(middle, k.D, pn.Sub(middle)), R: c.size}
		}
		p.centre = func(q geom.V3) geom.V3 { return middle.Add(k.D.Mul(q.Sub(at).Dot(k.D))) }
		return nil
	case brep.Circle:
		if f, round := axisOf(p.wall.Surface); !round || math.Abs(f.Z.Dot(n)) < 1-1e-9 || offAxis(f, k.F.O) > tolerance {
			return errNoBevel
		}
		if _, torus := p.wall.Surface.(brep.Torus); torus {
			return errNoBevel
		}
		f := k.F
		level := func(q geom.V3) (r, z float64) { l := f.ToLocal(q); return l.XY().Len(), l.Z }
		rn, zn := level(pn)
		rf, zf := level(pf)
		rm, zm := level(middle)
		if in := pn.Sub(f.O).Dot(at.Sub(f.O)); in <= 0 || rn < 1e-3 || rf < 1e-3 {
			return errNoRoom(c.size)
		}
		up := func(z float64) geom.Frame { return geom.Frame{O: f.O.Add(f.Z.Mul(z)), X: f.X, Y: f.Y, Z: f.Z} }
		p.near, p.far = brep.Circle{F: up(zn), R: rn}, brep.Circle{F: up(zf), R: rf}
		p.surface = brep.Cone{F: up(zn), R: rn, Half: math.Atan((rf - rn) / (zf - zn))}
		if c.round {
			if rm <= c.size || middle.Sub(f.O).Dot(at.Sub(f.O)) <= 0 {
				return errNoRoom(c.size)
			}
			p.surface = brep.Torus{F: up(zm), Major: rm, Minor: c.size}
		}
		p.centre = func(q geom.V3) geom.V3 {
			e := q.Sub(f.O)
			e = e.Sub(f.Z.Mul(e.Dot(f.Z))).Unit()
			return f.O.Add(f.Z.Mul(zm)).Add(e.Mul(rm))
		}
		return nil
	}
	return errNoBevel
}

func errNoRoom(size float64) error {
	return problem("%g mm is more than the faces at the edge have room for", size)
}
