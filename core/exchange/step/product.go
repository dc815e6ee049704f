package step

import (
	"strings"

	"arete/core/geom"
)

// tree is the product structure: representations that hold items, linked to
// those that use them.
type tree struct {
	reps   map[int]*rep
	group  map[int]int // representations said to be the same shape: union–find
	below  map[int][]use
	child  map[int]bool
	names  map[int]string // of the product that a representation shows
	order  []int
	visits int // of groups while placing
}

// rep is a representation: items in one context.
type rep struct {
	items []value
	unit  units
}

// use puts one representation into another.
type use struct {
	rep int
	at  placement // the used one's coordinates → the user's
}

func isShape(kind string) bool {
	for n := range strings.SplitSeq(kind, "+") {
		if strings.HasSuffix(n, "REPRESENTATION") && (n == "REPRESENTATION" || strings.HasSuffix(n, "SHAPE_REPRESENTATION")) &&
			n != "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION" {
			return true
		}
	}
	return false
}

// structure reads representations, the relations between them and names.
func (b *reader) structure() error {
	b.tree = tree{reps: map[int]*rep{}, group: map[int]int{}, below: map[int][]use{}, child: map[int]bool{}, names: map[int]string{}}
	var kinds []string
	for _, k := range b.ex.kinds {
		if isShape(k) {
			kinds = append(kinds, strings.Split(k, "+")...)
		}
	}
	err := b.ex.each(func(in *instance, _ *record) error {
		if !isShape(b.ex.is(in.id)) {
			return nil
		}
		for _, r := range in.records {
			if n := len(r.params); n >= 3 && r.params[n-2].kind == kList {
				b.tree.reps[in.id] = &rep{r.params[n-2].list, b.context(r.params[n-1].ref)}
				b.tree.order = append(b.tree.order, in.id)
				return nil
			}
		}
		return nil
	}, kinds...)
	if err != nil {
		return err
	}
	b.products()
	if err := b.relations(); err != nil {
		return err
	}
	return b.mappedItems()
}

// same returns the one that stands for all representations of a shape.
func (t *tree) same(id int) int {
	for t.group[id] != 0 && t.group[id] != id {
		id = t.group[id]
	}
	return id
}

// products finds the names of products for their representations.
func (b *reader) products() {
	_ = b.ex.each(func(in *instance, r *record) error {
		if len(r.params) < 2 {
			return nil
		}
		if name, ok := b.productName(r.params[0].ref, 0); ok {
			b.tree.names[r.params[1].ref] = name
		}
		return nil
	}, "SHAPE_DEFINITION_REPRESENTATION")
	_ = b.ex.each(func(_ *instance, r *record) error {
		if b.m.Name == "" && len(r.params) > 1 {
			if b.m.Name = r.params[1].str; b.m.Name == "" {
				b.m.Name = r.params[0].str
			}
		}
		return nil
	}, "PRODUCT")
}

// productName follows shape → definition → formation → product, and tells
// whether it got there.
func (b *reader) productName(id, depth int) (string, bool) {
	in, err := b.ex.get(id)
	if err != nil || in == nil || depth > 4 {
		return "", false
	}
	if r := in.find("PRODUCT"); r != nil && len(r.params) > 1 {
		if r.params[1].str != "" {
			return r.params[1].str, true
		}
		return r.params[0].str, true
	}
	r := in.find("PRODUCT_DEFINITION_SHAPE", "PRODUCT_DEFINITION", "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS",
		"PRODUCT_DEFINITION_FORMATION", "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE")
	if r == nil || len(r.params) < 3 {
		return "", false
	}
	return b.productName(r.params[2].ref, depth+1)
}

// relations links representations: those without a transformation are the
// same shape, the others put one into the other.
func (b *reader) relations() error {
	type placed struct{ id, one, two, op int }
	var moves []placed
	err := b.ex.each(func(in *instance, _ *record) error {
		r := in.find("REPRESENTATION_RELATIONSHIP", "SHAPE_REPRESENTATION_RELATIONSHIP")
		if r == nil || len(r.params) < 4 {
			return nil
		}
		one, two := r.params[2].ref, r.params[3].ref
		if w := in.find("REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION"); w != nil && len(w.params) > 0 {
			moves = append(moves, placed{in.id, one, two, w.params[len(w.params)-1].ref})
			return nil
		}
		if a, c := b.tree.same(one), b.tree.same(two); a != c {
			b.tree.group[a] = c
		}
		return nil
	}, "SHAPE_REPRESENTATION_RELATIONSHIP", "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION")
	if err != nil {
		return err
	}
	part := b.components()
	for _, m := range moves {
		if b.tree.reps[m.one] == nil || b.tree.reps[m.two] == nil {
			continue
		}
		from, to := m.one, m.two
		at, err := b.operator(m.op, b.tree.reps[m.one].unit, b.tree.reps[m.two].unit)
		if err != nil {
			return err
		}
		if p, ok := part[m.id]; ok && b.tree.same(p) == b.tree.same(m.two) { // written the other way round
			from, to, at = to, from, at.inverse()
		}
		b.tree.link(from, to, at)
	}
	return nil
}

func (t *tree) link(from, to int, at placement) {
	f, u := t.same(from), t.same(to)
	if f == u {
		return
	}
	t.below[u] = append(t.below[u], use{f, at})
	t.child[f] = true
}

// components tells for each relation with a transformation which
// representation shows the part that is put in.
func (b *reader) components() map[int]int {
	shows := map[int]int{} // product definition → representation
	_ = b.ex.each(func(_ *instance, r *record) error {
		if len(r.params) < 2 {
			return nil
		}
		if in, err := b.ex.get(r.params[0].ref); err == nil && in != nil {
			if p := in.find("PRODUCT_DEFINITION_SHAPE"); p != nil && len(p.params) > 2 {
				shows[p.params[2].ref] = r.params[1].ref
			}
		}
		return nil
	}, "SHAPE_DEFINITION_REPRESENTATION")
	out := map[int]int{}
	_ = b.ex.each(func(_ *instance, r *record) error {
		if len(r.params) < 2 {
			return nil
		}
		shape, err := b.ex.get(r.params[1].ref)
		if err != nil || shape == nil {
			return nil
		}
		p := shape.find("PRODUCT_DEFINITION_SHAPE")
		if p == nil || len(p.params) < 3 {
			return nil
		}
		if n, err := b.ex.get(p.params[2].ref); err == nil && n != nil {
			if u := n.find("NEXT_ASSEMBLY_USAGE_OCCURRENCE"); u != nil && len(u.params) > 4 {
				if s, ok := shows[u.params[4].ref]; ok {
					out[r.params[0].ref] = s
				}
			}
		}
		return nil
	}, "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION")
	return out
}

// operator reads a transformation from one representation to another.
func (b *reader) operator(id int, one, two units) (placement, error) {
	in, err := b.ex.get(id)
	if err != nil || in == nil {
		return unmoved(), err
	}
	if r := in.find("ITEM_DEFINED_TRANSFORMATION"); r != nil && len(r.params) > 3 {
		return b.between(r.params[2], one, r.params[3], two, in)
	}
	b.unit = two
	return b.cartesian(in)
}

// between maps the frame a of one representation to the frame c of another.
func (b *reader) between(a value, one units, c value, two units, in *instance) (placement, error) {
	b.unit = one
	f, err := b.frame(a, in)
	if err != nil {
		return unmoved(), err
	}
	b.unit = two
	target, err := b.get(c, in)
	if err != nil {
		return unmoved(), err
	}
	to, err := b.cartesian(target)
	return to.then(placement{f.Inverse(), 1}), err
}

// cartesian reads a placement, or an operator with its scale.
func (b *reader) cartesian(in *instance) (placement, error) {
	r := in.find("CARTESIAN_TRANSFORMATION_OPERATOR_3D", "CARTESIAN_TRANSFORMATION_OPERATOR")
	if r == nil {
		f, err := b.frame(value{kind: kRef, ref: in.id}, in)
		return placement{f, 1}, err
	}
	l := r.params
	for _, other := range in.records { // a complex instance spreads its parameters
		if other.name == "CARTESIAN_TRANSFORMATION_OPERATOR" && len(in.records) > 1 {
			l = append([]value{{}}, other.params...)
			if d := in.find("CARTESIAN_TRANSFORMATION_OPERATOR_3D"); d != nil {
				l = append(l, d.params...)
			}
		}
	}
	var refs []value
	scale := 1.0
	for _, v := range l {
		if v.kind == kRef {
			refs = append(refs, v)
		}
		if v.kind == kNumber {
			if scale = v.num; !(scale > 1e-6 && scale < 1e6) {
				return unmoved(), b.bad(in, "scales a part by nothing that can be")
			}
		}
	}
	x, z := geom.V3{X: 1}, geom.V3{Z: 1}
	var o geom.V3
	var err error
	dirs := 0
	for _, v := range refs {
		if b.ex.is(v.ref) == "CARTESIAN_POINT" {
			o, err = b.point(v, in)
		} else if dirs++; dirs == 1 {
			x, err = b.direction(v, in)
		} else if dirs == 3 || len(refs) == 3 {
			z, err = b.direction(v, in)
		}
		if err != nil {
			return unmoved(), err
		}
	}
	return placement{geom.NewFrame(o, z, x), scale}, nil
}

// mappedItems links representations that are used by mapped items.
func (b *reader) mappedItems() error {
	if !b.ex.has("MAPPED_ITEM") {
		return nil
	}
	for _, id := range b.tree.order {
		for _, v := range b.tree.reps[id].items {
			if !strings.Contains(b.ex.is(v.ref), "MAPPED_ITEM") {
				continue
			}
			in, err := b.get(v, nil)
			if err != nil {
				return err
			}
			r := in.find("MAPPED_ITEM")
			if n := len(r.params); n < 2 {
				continue
			}
			n := len(r.params)
			m, mr, err := b.want(r.params[n-2], in, 2, "REPRESENTATION_MAP")
			if err != nil {
				return err
			}
			used := b.tree.reps[mr.params[1].ref]
			if used == nil {
				continue
			}
			at, err := b.between(mr.params[0], used.unit, r.params[n-1], b.tree.reps[id].unit, m)
			if err != nil {
				return err
			}
			b.tree.link(mr.params[1].ref, id, at)
		}
	}
	return nil
}
