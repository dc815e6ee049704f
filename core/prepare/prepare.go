// Package prepare changes a solid a little before it is cut: faces are taken
// off and their neighbours extended until they close again, edges are given a
// chamfer or a round, faces a colour.
//
// Only what can be extended exactly is: planes, cylinders, cones, spheres and
// tori, along lines, circles and ellipses. What would need more is refused with
// the reason, and so is a result that is not a sound solid. Lengths are mm.
package prepare

import (
	"fmt"
	"slices"

	"arete/core/brep"
	"arete/core/geom"
)

// Act names what a change does.
type Act string

// The acts.
const (
	Remove  Act = "remove"  // faces: holes, pockets, bosses, chamfers, rounds, marks
	Chamfer Act = "chamfer" // of edges, with equal legs of Size
	Round   Act = "round"   // of edges, with radius Size
	Paint   Act = "paint"   // of faces, with Colour
)

// Change is one change of a solid. Faces and Edges are indices in the solid as
// the changes before it left it.
type Change struct {
	Act    Act     `json:"act"`
	Faces  []int   `json:"faces,omitempty"`
	Edges  []int   `json:"edges,omitempty"`
	Size   float64 `json:"size,omitempty"`
	Colour uint32  `json:"colour,omitempty"` // 0xffRRGGBB, 0 for none
}

// Label is the change in words.
func (c Change) Label() string {
	n := func(k int, what string) string {
		if k == 1 {
			return "1 " + what
		}
		return fmt.Sprintf("%d %ss", k, what)
	}
	switch c.Act {
	case Chamfer:
		return fmt.Sprintf("Chamfer %g mm on %s", c.Size, n(len(c.Edges), "edge"))
	case Round:
		return fmt.Sprintf("Round %g mm on %s", c.Size, n(len(c.Edges), "edge"))
	case Paint:
		return "Colour of " + n(len(c.Faces), "face")
	}
	return "Taken off: " + n(len(c.Faces), "face")
}

// Problem is why a change cannot be made, in words.
type Problem struct{ Say string }

// Error is the sentence to show.
func (p Problem) Error() string { return p.Say }

func problem(format string, args ...any) error { return Problem{fmt.Sprintf(format, args...)} }

// Apply makes changes one after the other on a copy of a solid. For each face
// of the result, from tells which face of the given solid it was, −1 for a new
// one.
func Apply(s *brep.Solid, changes []Change) (out *brep.Solid, from []int, err error) {
	out = s.Transform(geom.Identity())
	from = make([]int, len(out.Faces))
	for i := range from {
		from[i] = i
	}
	for _, c := range changes {
		before := out.Faces
		if out, err = c.apply(out); err != nil {
			return nil, nil, err
		}
		now := make([]int, len(out.Faces))
		for i, f := range out.Faces {
			now[i] = -1
			if k := slices.Index(before, f); k >= 0 {
				now[i] = from[k]
			}
		}
		from = now
	}
	return out, from, nil
}

func (c Change) apply(s *brep.Solid) (*brep.Solid, error) {
	if len(c.Faces)+len(c.Edges) == 0 {
		return nil, problem("pick a face or an edge first")
	}
	for _, i := range c.Faces {
		if i < 0 || i >= len(s.Faces) {
			return nil, problem("the part has no face %d any more: pick again", i)
		}
	}
	for _, i := range c.Edges {
		if i < 0 || i >= len(s.Edges) {
			return nil, problem("the part has no edge %d any more: pick again", i)
		}
	}
	switch c.Act {
	case Remove:
		return s, remove(s, c.Faces)
	case Chamfer, Round:
		return s, bevel(s, c.Edges, c.Size, c.Act == Round)
	case Paint:
		for _, i := range c.Faces {
			s.Faces[i].Colour = c.Colour
		}
		return s, nil
	}
	return nil, problem("%q is no change of a part", c.Act)
}
