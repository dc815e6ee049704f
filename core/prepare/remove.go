package prepare

import (
	"slices"

	"arete/core/brep"
	"arete/core/geom"
)

// remove takes faces off a solid and closes it again.
func remove(s *brep.Solid, list []int) error {
	gone := map[*brep.Face]bool{}
	var order []*brep.Face
	for _, i := range list {
		if !gone[s.Faces[i]] {
			gone[s.Faces[i]] = true
			order = append(order, s.Faces[i])
		}
	}
	order = withHalves(order, gone)
	if len(order) == len(s.Faces) {
		return problem("the whole part would go: leave some of its faces")
	}
	c := &closer{s: s, w: wire(s), gone: map[*brep.Coedge]bool{}, reach: 2 * s.Size(), into: map[*brep.Face]*brep.Face{}}
	all, err := c.patches(gone, order)
	if err != nil {
		return err
	}
	for f := range gone {
		for _, l := range f.Loops {
			for _, u := range l.Coedges {
				c.gone[u] = true
			}
		}
	}
	for _, p := range all {
		if err := c.close(p); err != nil {
			return err
		}
	}
	if err := c.rebuild(gone); err != nil {
		return err
	}
	return sound(s)
}

// withHalves adds the faces that go on round on the same surface: the other
// half of a hole.
func withHalves(order []*brep.Face, gone map[*brep.Face]bool) []*brep.Face {
	for k := 0; k < len(order); k++ {
		f := order[k]
		if f.Surface.Kind() == brep.KindPlane {
			continue
		}
		for _, l := range f.Loops {
			for _, u := range l.Coedges {
				if m := u.Mate(); m != nil && !gone[m.Face] && same(f.Surface, m.Face.Surface) {
					gone[m.Face] = true
					order = append(order, m.Face)
				}
			}
		}
	}
	return order
}

// patches splits the faces to take off into connected sets. A face that loses
// all around it, and that nothing can be extended to, goes too: the top of a
// boss with its walls.
func (c *closer) patches(gone map[*brep.Face]bool, order []*brep.Face) ([]*patch, error) {
	for {
		all, err := patches(gone, order, c.w)
		if err != nil {
			return nil, err
		}
		before := len(order)
		for _, p := range all {
			for i, cy := range p.cycles {
				if f := cy[0].face; cy.whole() && !cy[0].anInside() && !gone[f] && !c.reached(p, i) {
					gone[f] = true
					order = append(order, f)
				}
			}
		}
		if len(order) == before {
			return all, nil
		}
		if len(order) == len(c.s.Faces) {
			return nil, errNoClosing
		}
	}
}

// reached tells whether a chain of a patch can be extended to the face of its
// whole loop i, or that face to another.
func (c *closer) reached(p *patch, i int) bool {
	for k, other := range p.cycles {
		if k == i {
			continue
		}
		if _, ok := c.rimOf(p.cycles[i], other); ok {
			return true
		}
		if _, ok := c.rimOf(other, p.cycles[i]); ok && other.whole() {
			return true
		}
	}
	return false
}

// closer closes the gaps that faces taken off leave.
type closer struct {
	s     *brep.Solid
	w     wiring
	gone  map[*brep.Coedge]bool
	fresh []*brep.Edge
	reach float64                   // how far edges may be extended, mm
	into  map[*brep.Face]*brep.Face // faces that became part of another
	at    []geom.V3                 // points of what the patch at work took off
	met   map[*gap]bool             // whole loops and chains that are closed
}

var errNoClosing = Problem{"the faces around it do not meet again when they are extended: pick all faces of what is to go, or leave it as it is"}

// close closes the cycles of one patch. Openings lose their loop; one whole
// loop and one chain of faces are joined where the chain, extended, meets the
// loop's face; other chains are extended until they close by themselves.
func (c *closer) close(p *patch) error {
	c.at, c.met = nil, map[*gap]bool{}
	for f := range p.faces {
		for _, l := range f.Loops {
			for _, u := range l.Coedges {
				mid, _ := u.Edge.Mid()
				c.at = append(c.at, u.Edge.A.P, mid)
			}
		}
	}
	var chains []cycle
	for _, cy := range p.cycles {
		for _, g := range cy {
			for _, u := range g.run {
				c.gone[u] = true
			}
		}
		if !cy.whole() || !cy[0].anInside() {
			chains = append(chains, cy)
		}
	}
	for _, cy := range chains {
		if err := c.closeChain(cy, p.cycles); err != nil {
			return err
		}
	}
	return nil
}

// closeChain extends a chain to the face of a whole loop, or by itself, or as
// far as it goes and then to such a face. A whole loop that another chain has
// been extended to is closed.
func (c *closer) closeChain(cy cycle, all []cycle) error {
	if c.met[cy[0]] {
		return nil
	}
	toLoop := func(rest cycle) bool {
		for _, other := range all {
			if other[0] != cy[0] && c.closeRing(other, rest) {
				c.met[other[0]] = true
				return true
			}
		}
		return false
	}
	if toLoop(cy) {
		return nil
	}
	if cy.whole() { // another chain may come to it
		for _, other := range all {
			if other[0] != cy[0] && c.closeRing(cy, other) {
				c.met[cy[0]], c.met[other[0]] = true, true
				return nil
			}
		}
	}
	rest, err := c.closeDisc(cy)
	if err != nil && toLoop(rest) {
		return nil
	}
	return err
}

// rebuild makes the loops anew from what follows what, and drops what is gone.
func (c *closer) rebuild(gone map[*brep.Face]bool) error {
	s := c.s
	heads := map[*brep.Face][]*brep.Coedge{}
	for _, f := range s.Faces {
		for _, l := range f.Loops {
			heads[c.final(f)] = append(heads[c.final(f)], l.Coedges...)
		}
	}
	for _, e := range c.fresh {
		for _, u := range e.Uses {
			u.Face = c.final(u.Face)
			heads[u.Face] = append(heads[u.Face], u)
		}
	}
	s.Faces = slices.DeleteFunc(s.Faces, func(f *brep.Face) bool { return gone[f] || c.into[f] != nil })
	for _, f := range s.Faces {
		var loops []brep.Loop
		for _, l := range f.Loops {
			if len(l.Coedges) == 0 {
				loops = append(loops, l)
			}
		}
		done := map[*brep.Coedge]bool{}
		for _, h := range heads[f] {
			if c.gone[h] || done[h] {
				continue
			}
			var l brep.Loop
			for u := h; !done[u]; u = c.w.next[u] {
				if u == nil || c.gone[u] {
					return errNoClosing // the way around ends
				}
				done[u] = true
				u.Face = f
				l.Coedges = append(l.Coedges, u)
			}
			loops = append(loops, l)
		}
		f.Loops = loops
	}
	c.dropEdges()
	return nil
}

// dropEdges keeps the edges that loops still use.
func (c *closer) dropEdges() {
	s := c.s
	id := 0
	uses := map[*brep.Edge][]*brep.Coedge{}
	for _, f := range s.Faces {
		for _, l := range f.Loops {
			for _, u := range l.Coedges {
				uses[u.Edge] = append(uses[u.Edge], u)
			}
		}
	}
	for _, e := range s.Edges {
		id = max(id, e.ID)
	}
	s.Edges = append(s.Edges, c.fresh...)
	s.Edges = slices.DeleteFunc(s.Edges, func(e *brep.Edge) bool { return len(uses[e]) == 0 })
	for _, e := range s.Edges {
		e.Uses = uses[e]
		if e.ID == 0 {
			id++
			e.ID = id
		}
	}
}

func (c *closer) final(f *brep.Face) *brep.Face {
	for c.into[f] != nil {
		f = c.into[f]
	}
	return f
}
