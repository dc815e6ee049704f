package prepare

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// gap is the stretch of a kept face's boundary that falls away with the faces
// taken off. It lies between the coedge that arrives at it and the one that
// leaves it; a whole loop that falls away has neither.
type gap struct {
	face    *brep.Face
	in, out *brep.Coedge
	run     []*brep.Coedge // what falls away, in order; may be empty
}

// cycle is a closed chain of gaps around faces taken off: each begins at the
// edge where the one before ends.
type cycle []*gap

// patch is a connected set of faces to take off.
type patch struct {
	faces  map[*brep.Face]bool
	cycles []cycle
}

// wiring tells which coedge follows which along the loops of a solid.
type wiring struct {
	next, prev map[*brep.Coedge]*brep.Coedge
}

func wire(s *brep.Solid) wiring {
	w := wiring{map[*brep.Coedge]*brep.Coedge{}, map[*brep.Coedge]*brep.Coedge{}}
	for _, f := range s.Faces {
		for _, l := range f.Loops {
			for i, c := range l.Coedges {
				w.link(c, l.Coedges[(i+1)%len(l.Coedges)])
			}
		}
	}
	return w
}

// link makes b follow a.
func (w wiring) link(a, b *brep.Coedge) { w.next[a], w.prev[b] = b, a }

// patches splits faces into connected sets and walks around each.
func patches(faces map[*brep.Face]bool, order []*brep.Face, w wiring) ([]*patch, error) {
	var out []*patch
	done := map[*brep.Face]bool{}
	for _, start := range order {
		if done[start] {
			continue
		}
		p := &patch{faces: map[*brep.Face]bool{}}
		for queue := []*brep.Face{start}; len(queue) > 0; queue = queue[1:] {
			f := queue[0]
			if done[f] {
				continue
			}
			done[f], p.faces[f] = true, true
			for _, l := range f.Loops {
				for _, c := range l.Coedges {
					if m := c.Mate(); m != nil && faces[m.Face] {
						queue = append(queue, m.Face)
					}
				}
			}
		}
		if err := p.walk(order, w); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}

// walk finds the cycles of a patch.
func (p *patch) walk(order []*brep.Face, w wiring) error {
	seen := map[*brep.Coedge]bool{}
	for _, f := range order {
		if !p.faces[f] {
			continue
		}
		for _, l := range f.Loops {
			for _, c := range l.Coedges {
				m := c.Mate()
				if m == nil {
					return problem("the part is open there: nothing can be taken off")
				}
				if p.faces[m.Face] || seen[m] {
					continue
				}
				cy, err := p.around(m, w, seen)
				if err != nil {
					return err
				}
				p.cycles = append(p.cycles, cy)
			}
		}
	}
	if len(p.cycles) == 0 {
		return problem("the whole part would go: leave some of its faces")
	}
	return nil
}

// around walks along the patch from a coedge of a kept face beside it.
func (p *patch) around(start *brep.Coedge, w wiring, seen map[*brep.Coedge]bool) (cycle, error) {
	beside := func(c *brep.Coedge) bool { m := c.Mate(); return m != nil && p.faces[m.Face] }
	first := start // the first of its run
	for beside(w.prev[first]) {
		if first = w.prev[first]; first == start { // a whole loop
			g := &gap{face: start.Face}
			for c := start; !seen[c]; c = w.next[c] {
				seen[c] = true
				g.run = append(g.run, c)
			}
			return cycle{g}, nil
		}
	}
	var cy cycle
	for c := first; ; {
		g := &gap{face: c.Face, in: w.prev[c]}
		for ; beside(c); c = w.next[c] {
			seen[c] = true
			g.run = append(g.run, c)
		}
		g.out = c
		cy = append(cy, g)
		m := c.Mate()
		if m == nil {
			return nil, problem("the part is open there: nothing can be taken off")
		}
		if c = w.next[m]; c == first {
			return cy, nil
		}
		if len(cy) > 10000 {
			return nil, problem("the faces around what is taken off cannot be followed")
		}
	}
}

// whole tells whether the cycle is one loop of one face.
func (cy cycle) whole() bool { return len(cy) == 1 && cy[0].in == nil }

// anInside tells whether a whole loop is an opening of its face: one that does
// not bound it outside nor run around it.
func (g *gap) anInside() bool {
	pu, pv := g.face.Surface.Periods()
	var pts []geom.V2
	for _, c := range g.run {
		p := c.Edge.Points(0.01)
		for i := range p[1:] {
			if !c.Forward {
				i = len(p) - 1 - i
			}
			uv := g.face.Surface.Param(p[i])
			if n := len(pts); n > 0 {
				uv.X, uv.Y = near(uv.X, pts[n-1].X, pu), near(uv.Y, pts[n-1].Y, pv)
			}
			pts = append(pts, uv)
		}
	}
	last, first := pts[len(pts)-1], pts[0]
	if math.Abs(near(first.X, last.X, pu)-first.X) > 1e-6 || math.Abs(near(first.Y, last.Y, pv)-first.Y) > 1e-6 {
		return false
	}
	area := 0.0
	for i, a := range pts {
		area += a.Cross(pts[(i+1)%len(pts)])
	}
	return len(g.face.Loops) > 1 && (area < 0) == g.face.Same
}

// near brings an angle to within half a period of another.
func near(u, to, period float64) float64 {
	if period > 0 {
		u -= period * math.Round((u-to)/period)
	}
	return u
}
