package step

import (
	"fmt"
	"io"
	"math"
	"sort"

	"arete/core/brep"
	"arete/core/geom"
)

// Model is what a file holds.
type Model struct {
	Schema   string
	Name     string  // of the product
	Unit     string  // "mm", "inch", …: the unit of the file's lengths
	ToMM     float64 // millimetres in one unit of the file
	Solids   []*brep.Solid
	Problems []string // what was passed over or looks wrong, in plain words
}

// MaxSize is the largest text read, bytes.
const MaxSize = 256 << 20

// Read reads a file and returns its solids in millimetres, in file order.
func Read(r io.Reader) (*Model, error) {
	text, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return nil, &Error{Class: ErrSyntax, What: err.Error(), Do: "check that the file can be read"}
	}
	if len(text) > MaxSize {
		return nil, &Error{Class: ErrSyntax, What: "the file is larger than 256 MB", Do: "export the part alone"}
	}
	ex, err := parse(string(text))
	if err != nil {
		return nil, err
	}
	b := &reader{ex: ex, vertex: map[int]*brep.Vertex{}, edge: map[int]*brep.Edge{}, m: &Model{Schema: ex.schema}}
	b.names()
	b.units()
	if err := b.solids(); err != nil {
		return nil, err
	}
	return b.m, nil
}

// reader builds solids from a parsed file.
type reader struct {
	ex     *exchange
	m      *Model
	angle  float64 // radians in one unit of plane angle
	vertex map[int]*brep.Vertex
	edge   map[int]*brep.Edge
	solid  *brep.Solid
}

// find returns the record of an instance that has one of the names.
func (in *instance) find(names ...string) *record {
	for i := range in.records {
		for _, n := range names {
			if in.records[i].name == n {
				return &in.records[i]
			}
		}
	}
	return nil
}

func (b *reader) names() {
	for _, in := range b.ex.order {
		if r := in.find("PRODUCT"); r != nil && len(r.params) > 1 {
			if b.m.Name = r.params[1].str; b.m.Name == "" {
				b.m.Name = r.params[0].str
			}
			break
		}
	}
	for _, in := range b.ex.order {
		if in.find("NEXT_ASSEMBLY_USAGE_OCCURRENCE") != nil {
			b.m.Problems = append(b.m.Problems, "the file is an assembly: its bodies are read each in its own position, placements are not applied")
			return
		}
	}
}

// solids builds every manifold solid and faceted solid of the file.
func (b *reader) solids() error {
	var first error
	for _, in := range b.ex.order {
		r := in.find("MANIFOLD_SOLID_BREP", "BREP_WITH_VOIDS", "FACETED_BREP")
		if r == nil {
			continue
		}
		s, err := b.build(in, r)
		if err != nil {
			if first == nil {
				first = err
			}
			b.m.Problems = append(b.m.Problems, fmt.Sprintf("solid %v", err))
			continue
		}
		b.m.Solids = append(b.m.Solids, s)
	}
	if len(b.m.Solids) > 0 {
		return nil
	}
	if first != nil {
		return first
	}
	return &Error{Class: ErrNoSolid, What: "the file holds no solid (" + b.contents() + ")", Do: "export the part as a solid, not as surfaces, wires or a drawing"}
}

// contents names what the file holds instead of solids.
func (b *reader) contents() string {
	for _, c := range []struct{ entity, word string }{
		{"SHELL_BASED_SURFACE_MODEL", "open surfaces"}, {"GEOMETRIC_CURVE_SET", "curves only"},
		{"TESSELLATED_SOLID", "a mesh"}, {"TESSELLATED_SHELL", "a mesh"}, {"ADVANCED_FACE", "faces without a solid"},
	} {
		for _, in := range b.ex.order {
			if in.find(c.entity) != nil {
				return "only " + c.word
			}
		}
	}
	return fmt.Sprintf("%d entities, none of them a body", len(b.ex.order))
}

func (b *reader) build(in *instance, r *record) (*brep.Solid, error) {
	b.solid = &brep.Solid{ID: in.id}
	b.edge, b.vertex = map[int]*brep.Edge{}, map[int]*brep.Vertex{}
	if len(r.params) < 2 {
		return nil, b.bad(in, "has too few parameters")
	}
	b.solid.Name = r.params[0].str
	shells := []value{r.params[1]}
	if r.name == "BREP_WITH_VOIDS" && len(r.params) > 2 {
		shells = append(shells, r.params[2].list...)
	}
	for _, v := range shells {
		if err := b.shell(v, true); err != nil {
			return nil, err
		}
	}
	return b.solid, b.check(in)
}

// check makes sure that the solid is closed and has a volume, and turns it
// inside out if all its faces point inward.
func (b *reader) check(in *instance) error {
	s := b.solid
	sort.SliceStable(s.Edges, func(i, j int) bool { return s.Edges[i].ID < s.Edges[j].ID })
	open := 0
	for _, e := range s.Edges {
		if len(e.Uses) != 2 || e.Uses[0].Forward == e.Uses[1].Forward {
			open++
		}
	}
	if open > 0 {
		return &Error{ErrTopology, in.line, in.id, fmt.Sprintf("the shell does not close: %d of %d edges do not join two faces", open, len(s.Edges)), "export the part as a closed solid"}
	}
	v, _ := s.Mass()
	size := s.Box().Size().Len()
	if math.IsNaN(v) || math.IsInf(v, 0) || size > 1e6 || math.Abs(v) < 1e-9*size*size*size {
		return &Error{ErrTopology, in.line, in.id, fmt.Sprintf("the solid has no usable volume (%.3g mm³ in a box of %.3g mm)", v, size), "check the model and its unit"}
	}
	if v < 0 {
		for _, f := range s.Faces {
			f.Same = !f.Same
		}
		b.m.Problems = append(b.m.Problems, fmt.Sprintf("solid #%d was inside out and has been turned", in.id))
	}
	return nil
}

// get returns the instance that v refers to.
func (b *reader) get(v value, from *instance) (*instance, error) {
	if v.kind != kRef {
		return nil, b.bad(from, "a reference is missing")
	}
	in := b.ex.byID[v.ref]
	if in == nil {
		return nil, &Error{ErrReference, from.line, from.id, fmt.Sprintf("refers to #%d, which is not in the file", v.ref), "it was cut off or edited: ask for it again"}
	}
	return in, nil
}

func (b *reader) bad(in *instance, what string) error {
	name := ""
	if len(in.records) > 0 {
		name = in.records[0].name + " "
	}
	return &Error{ErrSyntax, in.line, in.id, name + what, "the file is damaged: ask for it again"}
}

func (b *reader) unsupported(in *instance) error {
	name := "an empty entity"
	if n := len(in.records); n > 0 {
		name = in.records[n-1].name
		for _, r := range in.records {
			if r.name == "B_SPLINE_SURFACE" || r.name == "B_SPLINE_CURVE" {
				name = r.name
			}
		}
	}
	return &Error{ErrUnsupported, in.line, in.id, "geometry of kind " + name + " is not supported yet", "parts of planes, cylinders and cones with straight and circular edges can be used"}
}

// direction and point readers

func (b *reader) triple(v value, from *instance, name string) (geom.V3, error) {
	in, err := b.get(v, from)
	if err != nil {
		return geom.V3{}, err
	}
	r := in.find(name)
	if r == nil || len(r.params) < 2 || len(r.params[1].list) < 3 {
		return geom.V3{}, b.bad(in, "is not a "+name+" with three coordinates")
	}
	l := r.params[1].list
	p := geom.V3{X: l[0].num, Y: l[1].num, Z: l[2].num}
	if n := p.Len(); math.IsNaN(n) || n > 1e12 {
		return p, b.bad(in, "has absurd coordinates")
	}
	return p, nil
}

func (b *reader) point(v value, from *instance) (geom.V3, error) {
	p, err := b.triple(v, from, "CARTESIAN_POINT")
	return p.Mul(b.m.ToMM), err
}

func (b *reader) direction(v value, from *instance) (geom.V3, error) {
	d, err := b.triple(v, from, "DIRECTION")
	if err == nil && d.Len() < 1e-12 {
		err = b.bad(from, "has a direction of zero length")
	}
	return d.Unit(), err
}

// frame reads an axis2_placement_3d.
func (b *reader) frame(v value, from *instance) (geom.Frame, error) {
	in, err := b.get(v, from)
	if err != nil {
		return geom.Frame{}, err
	}
	r := in.find("AXIS2_PLACEMENT_3D")
	if r == nil || len(r.params) < 4 {
		return geom.Frame{}, b.bad(in, "is not an AXIS2_PLACEMENT_3D")
	}
	o, err := b.point(r.params[1], in)
	z, x := geom.V3{Z: 1}, geom.V3{X: 1}
	if err == nil && r.params[2].kind == kRef {
		z, err = b.direction(r.params[2], in)
	}
	if err == nil && r.params[3].kind == kRef {
		x, err = b.direction(r.params[3], in)
	}
	return geom.NewFrame(o, z, x), err
}
