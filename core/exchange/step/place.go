package step

import (
	"maps"
	"slices"
	"strings"

	"arete/core/brep"
	"arete/core/geom"
)

// maxBodies bounds how many bodies an assembly may come to.
const maxBodies = 10_000

// place walks the structure from its roots and puts every solid where it
// belongs; solids outside any representation stay where they are.
func (b *reader) place() error {
	members := map[int][]int{}
	for _, id := range b.tree.order {
		g := b.tree.same(id)
		members[g] = append(members[g], id)
	}
	seen := map[int]bool{} // solids that were placed
	for _, product := range [2]bool{true, false} {
		for _, id := range b.tree.order {
			g := b.tree.same(id)
			if b.tree.child[g] || members[g][0] != id || b.shown(members[g]) != product {
				continue
			}
			if err := b.descend(g, unmoved(), members, nil, seen, product); err != nil {
				return err
			}
		}
	}
	b.unit = units{length: 1, name: "mm", angle: 1, tol: 1e-3}
	if len(b.tree.order) > 0 {
		b.unit = b.tree.reps[b.tree.order[0]].unit
	} else if err := b.looseContext(); err != nil {
		return err
	}
	if b.m.Unit == "" {
		b.m.Unit = b.unit.name
	}
	return b.ex.each(func(in *instance, _ *record) error {
		if !seen[in.id] {
			b.emit(in.id, unmoved(), "", b.unit)
		}
		return nil
	}, solidNames...)
}

// looseContext takes the first context of a file without representations.
func (b *reader) looseContext() error {
	found := false
	err := b.ex.each(func(in *instance, _ *record) error {
		if !found {
			b.unit, found = b.context(in.id), true
		}
		return nil
	}, "GEOMETRIC_REPRESENTATION_CONTEXT")
	if !found {
		b.note("the file names no unit: millimetres are assumed")
	}
	return err
}

// shown tells whether one of the representations shows a product; others show
// aspects of a shape, often the same solids once more.
func (b *reader) shown(reps []int) bool {
	for _, id := range reps {
		if _, ok := b.tree.names[id]; ok {
			return true
		}
	}
	return false
}

// descend places what a group of representations holds and uses; again tells
// whether solids that were placed elsewhere are placed once more.
func (b *reader) descend(g int, at placement, members map[int][]int, path []int, seen map[int]bool, again bool) error {
	if slices.Contains(path, g) || len(path) > 64 {
		b.note("the product structure contains itself: the loop is cut at #%d", g)
		return nil
	}
	if b.tree.visits++; len(b.m.Bodies) > maxBodies || b.tree.visits > 10*maxBodies {
		return &Error{Class: ErrUnsupported, What: "the assembly has more than 10,000 bodies or 100,000 components", Do: "export the part alone"}
	}
	name := ""
	for _, id := range members[g] {
		if n := b.tree.names[id]; n != "" {
			name = n
		}
	}
	here := map[int]bool{} // two representations of a shape may hold one solid
	for _, id := range members[g] {
		for _, v := range b.tree.reps[id].items {
			kind := b.ex.is(v.ref)
			switch {
			case v.kind != kRef:
			case !isSolid(kind):
				b.leaveOut(v.ref, kind)
			case !here[v.ref] && (again || !seen[v.ref]):
				seen[v.ref], here[v.ref] = true, true
				b.emit(v.ref, at, name, b.tree.reps[id].unit)
			}
		}
	}
	path = append(path, g)
	for _, u := range b.tree.below[g] {
		if err := b.descend(u.rep, at.then(u.at), members, path, seen, again); err != nil {
			return err
		}
	}
	return nil
}

// leaveOut remembers an item of a representation that is no body, such as
// curves, points or an entity that is not known here.
func (b *reader) leaveOut(id int, kind string) {
	if strings.Contains(kind, "PLACEMENT") || strings.Contains(kind, "MAPPED_ITEM") || strings.Contains(kind, "TESSELLATED") {
		return
	}
	if b.left == nil {
		b.left = map[int]string{}
	}
	b.left[id] = kind
}

// tellLeft notes what was left out, by kind.
func (b *reader) tellLeft() {
	count := map[string]int{}
	for _, kind := range b.left {
		count[kind]++
	}
	for _, kind := range slices.Sorted(maps.Keys(count)) {
		b.note("%d × %s left out: no body", count[kind], kind)
	}
}

// emit adds a solid at a place; one that cannot be built becomes a problem. A
// scale is the same as another unit.
func (b *reader) emit(id int, at placement, name string, u units) {
	if _, failed := b.failed[id]; failed {
		return
	}
	size := scaled{id, at.scale}
	solids, done := b.built[size]
	if !done {
		b.unit = u
		b.unit.length *= at.scale
		var err error
		if solids, err = b.solid(id); err != nil {
			b.failed[id] = err
			b.note("solid %v", err)
			return
		}
		b.built[size] = solids
	}
	if b.m.Unit == "" {
		b.m.Unit = u.name
	}
	for _, s := range solids {
		var placed *brep.Solid
		if at.Frame == geom.Identity() {
			placed = s
		} else {
			placed = s.Transform(at.Frame)
		}
		if placed.Name == "" {
			placed.Name = name
		}
		b.m.Bodies = append(b.m.Bodies, Body{placed, at.Frame})
	}
}
