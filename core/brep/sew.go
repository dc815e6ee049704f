package brep

import (
	"errors"
	"math"

	"arete/core/geom"
)

// OpenEdges counts the edges that do not join two faces.
func (s *Solid) OpenEdges() int {
	n := 0
	for _, e := range s.Edges {
		if len(e.Uses) != 2 {
			n++
		}
	}
	return n
}

// Sew joins pairs of edges that bound one face each and lie within tol of
// each other, and returns how many.
func (s *Solid) Sew(tol float64) int {
	cells := map[[3]int][]*Edge{}
	cell := func(p geom.V3, dx, dy, dz int) [3]int {
		return [3]int{int(math.Floor(p.X/tol/4)) + dx, int(math.Floor(p.Y/tol/4)) + dy, int(math.Floor(p.Z/tol/4)) + dz}
	}
	joined := 0
	gone := map[*Edge]bool{}
	moved := map[*Vertex]*Vertex{}
	for _, e := range s.Edges {
		if len(e.Uses) != 1 {
			continue
		}
		if o, same := findTwin(e, cells, cell, tol); o != nil {
			e.joinTo(o, same, moved)
			gone[e] = true
			joined++
			continue
		}
		for _, p := range [2]geom.V3{e.A.P, e.B.P} {
			c := cell(p, 0, 0, 0)
			cells[c] = append(cells[c], e)
		}
	}
	if joined == 0 {
		return 0
	}
	s.keepEdges(func(e *Edge) bool { return !gone[e] })
	for _, e := range s.Edges {
		e.A, e.B = final(moved, e.A), final(moved, e.B)
	}
	return joined
}

func final(moved map[*Vertex]*Vertex, v *Vertex) *Vertex {
	for moved[v] != nil {
		v = moved[v]
	}
	return v
}

func (s *Solid) keepEdges(keep func(*Edge) bool) {
	kept := s.Edges[:0]
	for _, e := range s.Edges {
		if keep(e) {
			kept = append(kept, e)
		}
	}
	s.Edges = kept
}

// findTwin looks for an edge along e and tells whether it runs the same way.
func findTwin(e *Edge, cells map[[3]int][]*Edge, cell func(geom.V3, int, int, int) [3]int, tol float64) (*Edge, bool) {
	mid, _ := e.Mid()
	for dx := -1; dx <= 1; dx++ {
		for dy := -1; dy <= 1; dy++ {
			for dz := -1; dz <= 1; dz++ {
				for _, o := range cells[cell(e.A.P, dx, dy, dz)] {
					if o == e || len(o.Uses) != 1 {
						continue
					}
					same, ok := e.along(o, mid, tol)
					if ok {
						return o, same
					}
				}
			}
		}
	}
	return nil, false
}

// along tells whether e lies on o from end to end, and in its direction.
func (e *Edge) along(o *Edge, mid geom.V3, tol float64) (same, ok bool) {
	fits := e.A.P.Dist(o.A.P) < tol && e.B.P.Dist(o.B.P) < tol
	turned := e.A.P.Dist(o.B.P) < tol && e.B.P.Dist(o.A.P) < tol
	if !fits && !turned {
		return false, false
	}
	t := o.Curve.Param(mid)
	if p := o.Curve.Period(); p > 0 {
		t = o.T0 + math.Mod(t-o.T0+2*p, p)
	}
	if o.Curve.At(t).Dist(mid) > tol || t < o.T0-1e-6 || t > o.T1+1e-6 {
		return false, false
	}
	if fits && turned { // a closed edge: by direction
		_, d := e.Mid()
		return o.Curve.Tangent(t).Dot(d) > 0, true
	}
	return fits, true
}

// joinTo gives the use of e to o.
func (e *Edge) joinTo(o *Edge, same bool, moved map[*Vertex]*Vertex) {
	a, b := o.A, o.B
	if !same {
		a, b = b, a
	}
	for _, pair := range [2][2]*Vertex{{e.A, a}, {e.B, b}} { // never in a circle
		if from, to := final(moved, pair[0]), final(moved, pair[1]); from != to {
			moved[from] = to
		}
	}
	for _, u := range e.Uses {
		u.Edge = o
		if !same {
			u.Forward = !u.Forward
		}
		o.Uses = append(o.Uses, u)
	}
	e.Uses = nil
}

// Turn runs the loop the other way.
func (l *Loop) Turn() {
	for i, j := 0, len(l.Coedges)-1; i < j; i, j = i+1, j-1 {
		l.Coedges[i], l.Coedges[j] = l.Coedges[j], l.Coedges[i]
	}
	for _, c := range l.Coedges {
		c.Forward = !c.Forward
	}
}

// turn looks the face's other way.
func (f *Face) turn() {
	f.Same = !f.Same
	for i := range f.Loops {
		f.Loops[i].Turn()
	}
}

// AgreeSenses makes the side that a face looks to follow from the direction
// of its boundary, and returns how many faces said otherwise.
func (s *Solid) AgreeSenses() int {
	n := 0
	for _, f := range s.Faces {
		if closedSurface(f.Surface) {
			continue // both sides of the boundary may be the face
		}
		rings, _, err := f.rings(math.Inf(1))
		if err != nil {
			continue
		}
		if a := rings[0].area(); a != 0 && (a > 0) != f.Same {
			f.Same = !f.Same
			n++
		}
	}
	return n
}

var errTwisted = errors.New("the faces of the shell have no common outside")

// Orient turns faces until neighbours agree on where the outside is, and
// returns how many of them it turned: the smaller part of each shell.
func (s *Solid) Orient() (int, error) {
	done := map[*Face]bool{}
	turned := 0
	for _, start := range s.Faces {
		if done[start] {
			continue
		}
		done[start] = true
		shell, flipped := []*Face{start}, map[*Face]bool{}
		for k := 0; k < len(shell); k++ {
			for _, l := range shell[k].Loops {
				for _, c := range l.Coedges {
					m := c.Mate()
					if m == nil || m.Face == shell[k] {
						continue
					}
					agrees := m.Forward != c.Forward
					if !done[m.Face] {
						done[m.Face] = true
						shell = append(shell, m.Face)
						if !agrees {
							m.Face.turn()
							flipped[m.Face] = true
						}
					} else if !agrees {
						return 0, errTwisted
					}
				}
			}
		}
		if n := len(flipped); 2*n > len(shell) { // the others were wrong
			for _, f := range shell {
				f.turn()
			}
			turned += len(shell) - n
		} else {
			turned += n
		}
	}
	return turned, nil
}

// Split returns the connected shells as solids of their own.
func (s *Solid) Split() []*Solid {
	owner := map[*Face]*Solid{}
	var out []*Solid
	for _, start := range s.Faces {
		if owner[start] != nil {
			continue
		}
		p := &Solid{ID: s.ID, Name: s.Name}
		out = append(out, p)
		owner[start] = p
		p.Faces = append(p.Faces, start)
		for k := 0; k < len(p.Faces); k++ {
			for _, l := range p.Faces[k].Loops {
				for _, c := range l.Coedges {
					if m := c.Mate(); m != nil && owner[m.Face] == nil {
						owner[m.Face] = p
						p.Faces = append(p.Faces, m.Face)
					}
				}
			}
		}
	}
	for _, e := range s.Edges {
		if len(e.Uses) > 0 {
			p := owner[e.Uses[0].Face]
			p.Edges = append(p.Edges, e)
		}
	}
	return out
}

// TurnInsideOut exchanges inside and outside.
func (s *Solid) TurnInsideOut() {
	for _, f := range s.Faces {
		f.turn()
	}
}

// DropTinyEdges takes out edges shorter than tol between two faces that go
// on without them, and returns how many.
func (s *Solid) DropTinyEdges(tol float64) int {
	moved := map[*Vertex]*Vertex{}
	gone := map[*Edge]bool{}
	for _, e := range s.Edges {
		if e.A == e.B || e.A.P.Dist(e.B.P) >= tol || e.Len() >= tol {
			continue
		}
		if !e.removable() {
			continue
		}
		gone[e] = true
		moved[final(moved, e.B)] = final(moved, e.A)
	}
	if len(gone) == 0 {
		return 0
	}
	for _, f := range s.Faces {
		for i := range f.Loops {
			kept := f.Loops[i].Coedges[:0]
			for _, c := range f.Loops[i].Coedges {
				if !gone[c.Edge] {
					kept = append(kept, c)
				}
			}
			f.Loops[i].Coedges = kept
		}
	}
	s.keepEdges(func(e *Edge) bool { return !gone[e] })
	for _, e := range s.Edges {
		e.A, e.B = final(moved, e.A), final(moved, e.B)
	}
	return len(gone)
}

// removable tells whether all loops that use the edge keep two others.
func (e *Edge) removable() bool {
	for _, u := range e.Uses {
		for _, l := range u.Face.Loops {
			for _, c := range l.Coedges {
				if c == u && len(l.Coedges) < 3 {
					return false
				}
			}
		}
	}
	return len(e.Uses) > 0
}

// Size returns the diagonal of the solid's box, nearly.
func (s *Solid) Size() float64 {
	b := s.vertexBox()
	if b.Empty() {
		return 0
	}
	return b.Size().Len()
}

// SignedVolume returns the volume, negative when the faces point inward. It
// is found from a coarse mesh, so that it is quick and only its sign and
// order count. The error names a face that cannot be filled; the volume is
// then the integral over the others.
func (s *Solid) SignedVolume() (float64, error) {
	if len(s.Edges) == 0 { // closed surfaces, which are always filled
		return s.Props().Volume, nil
	}
	m, err := s.Tessellate(s.Size() / 50)
	if err != nil {
		return s.Props().Volume, err
	}
	return m.Volume(), nil
}
