package step

import (
	"fmt"
	"io"
	"math"
	"unsafe"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
)

// Model is what a file holds.
type Model struct {
	Schema   string
	Name     string       // of the product
	Unit     string       // "mm", "inch", …: the unit of the file's lengths
	Bodies   []Body       // as placed, in the order of the product structure
	Meshes   []*mesh.Mesh // bodies given as triangles alone, mm; only when there are no others
	Problems []string
}

// Body is a solid where the product structure puts it; a solid used several
// times is several bodies.
type Body struct {
	*brep.Solid
	Placement geom.Frame // the solid's own coordinates → the model's
}

// MaxSize is the largest text read, bytes.
const MaxSize = 256 << 20

// Read reads a file and returns its bodies in millimetres.
func Read(r io.Reader) (*Model, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return nil, &Error{Class: ErrSyntax, What: err.Error(), Do: "check that the file can be read"}
	}
	return Parse(data)
}

// Parse is Read for a text that is at hand; it must not change meanwhile.
func Parse(data []byte) (*Model, error) {
	if len(data) > MaxSize {
		return nil, &Error{Class: ErrSyntax, What: "the file is larger than 256 MB", Do: "export the part alone"}
	}
	text := unsafe.String(unsafe.SliceData(data), len(data)) // a copy would double the memory
	ex, err := skim(text)
	if err != nil {
		return nil, err
	}
	b := &reader{ex: ex, m: &Model{Schema: ex.schema}, units: map[int]units{}, built: map[scaled][]*brep.Solid{}, failed: map[int]error{}}
	if ex.doubled > 0 {
		b.note("%d entity numbers are used twice: the last entity counts", ex.doubled)
	}
	if err := b.structure(); err != nil {
		return nil, err
	}
	if err := b.place(); err != nil {
		return nil, err
	}
	if len(b.m.Bodies) == 0 && len(b.failed) == 0 {
		if err := b.meshes(); err != nil {
			return nil, err
		}
	}
	if len(b.m.Bodies)+len(b.m.Meshes) == 0 {
		return nil, b.nothing()
	}
	b.tellLeft()
	b.tellUnknown()
	b.styles()
	return b.m, nil
}

// scaled names a solid in one of its sizes.
type scaled struct {
	id    int
	scale float64
}

// reader builds solids from a skimmed file.
type reader struct {
	ex       *exchange
	m        *Model
	unit     units // of what is being read
	units    map[int]units
	built    map[scaled][]*brep.Solid // by number of the entity, before placing
	failed   map[int]error
	tree     tree
	shape    shape             // under construction
	opposite bool              // see surface
	left     map[int]string    // items that are no body, by number
	lists    map[int][]geom.V3 // lists of coordinates, by number
}

// note adds a problem to the model, at most some dozens.
func (b *reader) note(format string, args ...any) {
	const most = 40
	switch n := len(b.m.Problems); {
	case n < most:
		b.m.Problems = append(b.m.Problems, fmt.Sprintf(format, args...))
	case n == most:
		b.m.Problems = append(b.m.Problems, "and more of the kind")
	}
}

// nothing says why the file gave no body.
func (b *reader) nothing() error {
	var first error
	at := 0
	for id, err := range b.failed {
		if first == nil || id < at {
			first, at = err, id
		}
	}
	if first != nil {
		return first
	}
	what := fmt.Sprintf("%d entities, none of them a body", len(b.ex.entries))
	for _, c := range [][2]string{{"SHELL_BASED_SURFACE_MODEL", "open surfaces"}, {"GEOMETRIC_CURVE_SET", "curves"},
		{"TESSELLATED_SOLID", "a mesh"}, {"TESSELLATED_SHELL", "a mesh"}, {"ADVANCED_FACE", "faces without a solid"}, {"BOOLEAN_RESULT", "a construction without its result"}} {
		if b.ex.has(c[0]) {
			what = "only " + c[1]
			break
		}
	}
	return &Error{Class: ErrNoSolid, What: "the file holds no solid (" + what + ")", Do: "export the part as a solid, not as surfaces, wires or a drawing"}
}

// get returns the instance that v refers to.
func (b *reader) get(v value, from *instance) (*instance, error) {
	if v.kind != kRef {
		return nil, b.bad(from, "a reference is missing")
	}
	in, err := b.ex.get(v.ref)
	if err == nil && in == nil {
		line := 0
		if from != nil {
			line = b.ex.line(from.off)
		}
		return nil, &Error{ErrReference, line, idOf(from), fmt.Sprintf("refers to #%d, which is not in the file", v.ref), "it was cut off or edited: ask for it again"}
	}
	return in, err
}

func idOf(in *instance) int {
	if in == nil {
		return 0
	}
	return in.id
}

// want returns the record of v's instance that has one of the names and at
// least n parameters.
func (b *reader) want(v value, from *instance, n int, names ...string) (*instance, *record, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, nil, err
	}
	r := in.find(names...)
	if r == nil || len(r.params) < n {
		return nil, nil, b.bad(in, "is not a whole "+names[0])
	}
	return in, r, nil
}

func (b *reader) bad(in *instance, what string) error {
	name := ""
	if in == nil {
		return &Error{ErrSyntax, 0, 0, what, damaged}
	}
	if len(in.records) > 0 {
		name = in.records[0].name + " "
	}
	return &Error{ErrSyntax, b.ex.line(in.off), in.id, name + what, damaged}
}

func (b *reader) topology(in *instance, do, format string, args ...any) error {
	return &Error{ErrTopology, b.ex.line(in.off), in.id, fmt.Sprintf(format, args...), do}
}

func (b *reader) unsupported(in *instance) error {
	name := "an empty entity"
	if len(in.records) > 0 {
		name = in.records[0].name
	}
	return &Error{ErrUnsupported, b.ex.line(in.off), in.id, "geometry of kind " + name + " is not supported", "ask for the part as a solid bounded by surfaces (advanced boundary representation)"}
}

// triple reads a point or direction straight from the text: they are most of
// a file.
func (b *reader) triple(v value, from *instance, name string) (geom.V3, error) {
	i := b.ex.at(v.ref)
	if v.kind != kRef || i < 0 {
		_, err := b.get(v, from)
		return geom.V3{}, err
	}
	e := b.ex.entries[i]
	var x [3]float64
	n := 0
	if b.ex.kinds[e.kind] == name {
		var err error
		sc := &scanner{s: b.ex.text, i: e.off + len(name)}
		if x, n, err = sc.coordinates(); err != nil {
			return geom.V3{}, err
		}
	} else {
		_, r, err := b.want(v, from, 1, name)
		if err != nil {
			return geom.V3{}, err
		}
		for _, c := range r.params[len(r.params)-1].list {
			if n < 3 {
				x[n] = c.num
			}
			n++
		}
	}
	p := geom.V3{X: x[0], Y: x[1], Z: x[2]}
	if l := p.Len(); n < 2 || math.IsNaN(l) || l > 1e12 {
		return p, b.bad(&instance{id: e.id, off: e.off}, name+" has absurd coordinates")
	}
	return p, nil
}

func (b *reader) point(v value, from *instance) (geom.V3, error) {
	p, err := b.triple(v, from, "CARTESIAN_POINT")
	return p.Mul(b.unit.length), err
}

func (b *reader) direction(v value, from *instance) (geom.V3, error) {
	d, err := b.triple(v, from, "DIRECTION")
	if err == nil && d.Len() < 1e-12 {
		err = b.bad(from, "has a direction of zero length")
	}
	return d.Unit(), err
}

// frame reads an axis2_placement_3d, or the axis of an axis1_placement.
func (b *reader) frame(v value, from *instance) (geom.Frame, error) {
	in, r, err := b.want(v, from, 3, "AXIS2_PLACEMENT_3D", "AXIS1_PLACEMENT")
	if err != nil {
		return geom.Frame{}, err
	}
	o, err := b.point(r.params[1], in)
	z, x := geom.V3{Z: 1}, geom.V3{X: 1}
	if err == nil && r.params[2].kind == kRef {
		z, err = b.direction(r.params[2], in)
	}
	if err == nil && len(r.params) > 3 && r.params[3].kind == kRef {
		x, err = b.direction(r.params[3], in)
	}
	return geom.NewFrame(o, z, x), err
}
