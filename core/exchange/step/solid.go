package step

import (
	"math"
	"strings"

	"arete/core/brep"
)

// solidNames are the entities that bound a body.
var solidNames = []string{"MANIFOLD_SOLID_BREP", "BREP_WITH_VOIDS", "FACETED_BREP", "SHELL_BASED_SURFACE_MODEL"}

func isSolid(kind string) bool {
	for _, n := range solidNames {
		if kind == n || strings.Contains(kind, n) {
			return true
		}
	}
	return false
}

// shape is what one solid entity has been read to.
type shape struct {
	vertex map[int]*brep.Vertex
	edge   map[int]*brep.Edge
	poly   map[[2]*brep.Vertex]*brep.Edge // straight edges of poly loops
	solid  *brep.Solid
	gap    float64 // the widest gap between an edge and its ends
}

// solid builds the bodies of one entity: one for a solid, one for each closed
// shell of a surface model.
func (b *reader) solid(id int) ([]*brep.Solid, error) {
	in, err := b.ex.get(id)
	if err != nil {
		return nil, err
	}
	b.shape = shape{vertex: map[int]*brep.Vertex{}, edge: map[int]*brep.Edge{}, poly: map[[2]*brep.Vertex]*brep.Edge{}, solid: &brep.Solid{ID: id}}
	var shells []value
	name, surfaces := "", false
	for _, r := range in.records {
		for _, v := range r.params {
			switch {
			case v.kind == kString && name == "":
				name = v.str
			case v.kind == kRef:
				shells = append(shells, v)
			case v.kind == kList:
				shells = append(shells, v.list...)
			}
		}
		surfaces = surfaces || r.name == "SHELL_BASED_SURFACE_MODEL"
	}
	if len(shells) == 0 {
		return nil, b.bad(in, "has too few parameters")
	}
	if name != "NONE" {
		b.shape.solid.Name = strings.TrimSpace(name)
	}
	for _, v := range shells {
		if err := b.shell(v, in, true, 0); err != nil {
			return nil, err
		}
	}
	return b.heal(in, surfaces)
}

// heal sews and turns the faces until they bound bodies, and says what it did.
func (b *reader) heal(in *instance, surfaces bool) ([]*brep.Solid, error) {
	s := b.shape.solid
	if b.shape.gap > 10*b.unit.tol {
		b.note("solid #%d: edges end up to %.3g mm beside their corner; they are drawn to it", in.id, b.shape.gap)
	}
	size := s.Size()
	if math.IsNaN(size) || size > 1e6 || size == 0 {
		return nil, b.topology(in, "check the model and its unit", "the solid is %.3g mm large", size)
	}
	if n := s.DropTinyEdges(b.unit.tol / 10); n > 0 {
		b.note("solid #%d: %d edges shorter than %.2g mm were taken out", in.id, n, b.unit.tol/10)
	}
	if open := s.OpenEdges(); open > 0 {
		tol := math.Max(b.unit.tol, 1e-5*size)
		joined := 0
		for _, gap := range [2]float64{tol, 10 * tol} {
			if joined += s.Sew(gap); s.OpenEdges() > 0 && s.SplitOpen(gap) > 0 {
				joined += s.Sew(gap)
			}
			if open = s.OpenEdges(); open == 0 {
				break
			}
		}
		if open > 0 {
			return nil, b.topology(in, "export the part as a closed solid", "the shell does not close: %d of %d edges do not join two faces", open, len(s.Edges))
		}
		b.note("solid #%d: %d pairs of edges were sewn together", in.id, joined)
	}
	if n := s.AgreeSenses(); n > 0 {
		b.note("solid #%d: %d faces whose side and boundary disagreed follow their boundary", in.id, n)
	}
	turned, err := s.Orient()
	if err != nil {
		return nil, b.topology(in, "export the part as a closed solid", "%v", err)
	}
	if turned > 0 {
		b.note("solid #%d: %d faces that looked inward were turned", in.id, turned)
	}
	out := []*brep.Solid{s}
	if surfaces {
		out = s.Split()
	}
	for _, s := range out {
		v, err := s.SignedVolume()
		if err != nil {
			b.note("solid #%d: %v; volume and area leave that face out, and it cannot be planned", in.id, err)
		}
		if size := s.Size(); math.IsNaN(v) || math.Abs(v) < 1e-9*size*size*size {
			return nil, b.topology(in, "check the model and its unit", "the solid has no usable volume (%.3g mm³ in a box of %.3g mm)", v, size)
		}
		if v < 0 {
			s.TurnInsideOut()
			b.note("solid #%d was inside out and has been turned", in.id)
		}
	}
	return out, nil
}

// shell adds the faces of a shell to the solid under construction.
func (b *reader) shell(v value, from *instance, same bool, depth int) error {
	in, err := b.get(v, from)
	if err != nil {
		return err
	}
	if r := in.find("ORIENTED_CLOSED_SHELL", "ORIENTED_OPEN_SHELL"); r != nil && len(r.params) >= 4 && depth < 4 {
		return b.shell(r.params[2], in, same == isTrue(r.params[3]), depth+1)
	}
	r := in.find("CLOSED_SHELL", "OPEN_SHELL", "CONNECTED_FACE_SET")
	if r == nil || len(r.params) < 2 {
		return b.bad(in, "is not a CLOSED_SHELL")
	}
	for _, f := range r.params[1].list {
		if err := b.face(f, in, same, 0); err != nil {
			return err
		}
	}
	return nil
}

func isTrue(v value) bool { return v.str == "T" }
