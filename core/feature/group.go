package feature

import (
	"fmt"
	"math"
	"slices"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
	"arete/core/section"
)

// Act is what a group does with its faces.
type Act string

// The acts of groups.
const (
	Own  Act = "own"  // the faces are a feature of their own, taken from those that had them
	Join Act = "join" // the features that have the faces are one
)

// Group is what somebody says of faces, by their indices in the solid.
type Group struct {
	Act   Act   `json:"act"`
	Faces []int `json:"faces"`
}

// regroup applies groups in order; one that cannot be is noted.
func (r *recogniser) regroup(groups []Group) {
	for _, g := range groups {
		var err error
		switch {
		case len(g.Faces) == 0 || slices.Min(g.Faces) < 0 || slices.Max(g.Faces) >= len(r.s.Faces):
			err = fmt.Errorf("the part has no such faces any more: select again")
		case g.Act == Own:
			err = r.own(g.Faces)
		case g.Act == Join:
			err = r.join(g.Faces)
		default:
			err = fmt.Errorf("%q is nothing that can be done with features", g.Act)
		}
		if err != nil {
			r.set.Notes = append(r.set.Notes, err.Error())
		}
	}
}

// own makes one feature of faces: a hole of round walls on an axis, what is
// milled down to level floors, or a plane face of another side.
func (r *recogniser) own(faces []int) error {
	f, err := r.ownHole(faces)
	if f == nil && err == nil {
		f, err = r.ownFloor(faces)
	}
	if err != nil {
		return err
	}
	r.release(f.Faces, f)
	r.set.Features = append(r.set.Features, f)
	return nil
}

// ownHole makes a hole of the round faces among some, nil when there are none.
func (r *recogniser) ownHole(faces []int) (*Feature, error) {
	round := 0
	for _, i := range faces {
		if _, _, _, ok := roundInside(r.s.Faces[i]); ok {
			round++
		} else if r.s.Faces[i].Surface.Kind() != brep.KindPlane {
			round = -len(faces)
		}
	}
	if round <= 0 {
		return nil, nil
	}
	found := holesOf(r.s, 1e-3, func(i int) bool { return slices.Contains(faces, i) })
	if len(found) == 0 && round < len(faces) {
		return nil, nil // the round corners of a pocket
	}
	if len(found) != 1 {
		return nil, fmt.Errorf("the round faces are no single hole: select the walls of one hole")
	}
	r.placeHole(found[0])
	return found[0], nil
}

// ownFloor makes a feature of the plane faces among some that look one way, at
// one level; walls that were selected go with it.
func (r *recogniser) ownFloor(faces []int) (*Feature, error) {
	var floors []int
	var n geom.V3
	for _, i := range faces {
		p, ok := r.s.Faces[i].Surface.(brep.Plane)
		if !ok {
			continue
		}
		m := r.s.Faces[i].NormalAt(p.F.O)
		switch {
		case len(floors) == 0 || m.Z > 1-1e-9 && n.Z < 1-1e-9:
			floors, n = []int{i}, m
		case level(r.s.Faces[i], r.s.Faces[floors[0]]):
			floors = append(floors, i)
		case m.Dot(n) > 1-1e-9:
			return nil, fmt.Errorf("the floors lie at different levels: select those of one level")
		}
	}
	if len(floors) == 0 {
		return nil, fmt.Errorf("select a level floor, or the walls of a hole: walls alone are not cut by themselves")
	}
	f := &Feature{Approach: n, Faces: slices.Clone(faces), Tool: Access{OK: true}}
	f.Params.FloorZ = r.s.Faces[floors[0]].Surface.(brep.Plane).F.O.Dot(n)
	f.Params.TopZ = f.Params.FloorZ
	if n.Z < 1-1e-9 {
		f.Kind, f.Why = PlanarFace, "it is cut from "+Toward(n)+": it needs another setup"
		return f, nil
	}
	return f, r.openFloor(f, floors)
}

// openFloor gives a milled feature the region over its floors, up to what is
// open around them.
func (r *recogniser) openFloor(f *Feature, floors []int) error {
	var own []planar.Region
	for _, i := range floors {
		own = append(own, section.FaceRegion(r.s, i, planar.DefaultTolerance))
	}
	f.Floor = planar.UnionAll(own, planar.DefaultTolerance)
	for _, part := range r.openAt(f.Params.FloorZ) {
		over := planar.Intersection(part, filled(f.Floor), planar.DefaultTolerance)
		if over.Area() > f.Region.Area() {
			f.Region = over
		}
	}
	if f.Region.Empty() {
		return fmt.Errorf("nothing is open over this floor from here")
	}
	f.Reachable, f.Bound = true, planar.Region{f.Region[0]}
	levels, _ := section.Levels(r.s.Solid, r.skip)
	var above []float64
	for _, z := range levels {
		if z > f.Params.FloorZ+1e-6 {
			above = append(above, z)
		}
	}
	f.Params.TopZ = r.topOf(f.Bound, above)
	r.classify(f)
	return nil
}

// release takes faces from the features that have them. What is left of a hole
// or of a floor is worked out anew; a feature without faces goes.
func (r *recogniser) release(faces []int, to *Feature) {
	var kept []*Feature
	for _, f := range r.set.Features {
		left := slices.DeleteFunc(slices.Clone(f.Faces), func(i int) bool { return slices.Contains(faces, i) })
		if len(left) == len(f.Faces) {
			kept = append(kept, f)
			continue
		}
		f.Slopes = slices.DeleteFunc(f.Slopes, func(i int) bool { return slices.Contains(faces, i) })
		f.Faces = left
		switch {
		case f.Kind == OutsideProfile:
			kept = append(kept, f)
		case len(left) == 0:
		case f.Kind == RoundHole:
			rest := holesOf(r.s, 1e-3, func(i int) bool { return slices.Contains(left, i) })
			for _, h := range rest {
				h.Faces = slices.DeleteFunc(h.Faces, func(i int) bool { return slices.Contains(faces, i) })
				r.placeHole(h)
			}
			if len(rest) == 0 {
				rest = []*Feature{f}
			}
			kept = append(kept, rest...)
		default:
			if !f.Region.Empty() && !to.Region.Empty() && math.Abs(f.Params.FloorZ-to.Params.FloorZ) < 1e-6 {
				r.withoutRegion(f, to.Region)
			}
			kept = append(kept, f)
		}
	}
	r.set.Features = kept
}

// withoutRegion takes what another feature has from the region of a milled
// one.
func (r *recogniser) withoutRegion(f *Feature, gone planar.Region) {
	rest := planar.Difference(f.Region, gone, planar.DefaultTolerance)
	if rest.Area() < 1e-3 {
		return
	}
	f.Region, f.Bound = rest, planar.Region{rest[0]}
	f.Floor = planar.Difference(f.Floor, gone, planar.DefaultTolerance)
	r.classify(f)
}

// join makes one feature of those that have the faces.
func (r *recogniser) join(faces []int) error {
	var list []*Feature
	for _, f := range r.set.Features {
		if slices.ContainsFunc(f.Faces, func(i int) bool { return slices.Contains(faces, i) }) && f.Kind != Boss {
			list = append(list, f)
		}
	}
	if len(list) < 2 {
		return fmt.Errorf("select faces of two features or more to join them")
	}
	one := *list[0]
	one.Faces = nil
	for _, f := range list {
		one.Faces = append(one.Faces, f.Faces...)
	}
	slices.Sort(one.Faces)
	one.Faces = slices.Compact(one.Faces)
	if !slices.ContainsFunc(list, func(f *Feature) bool { return f.Kind != RoundHole }) {
		found := holesOf(r.s, 1e-3, func(i int) bool { return slices.Contains(one.Faces, i) })
		if len(found) != 1 || slices.ContainsFunc(one.Faces, func(i int) bool { return !slices.Contains(found[0].Faces, i) }) {
			return fmt.Errorf("these holes do not lie on one axis, end to end: a step can take several holes instead")
		}
		one = *found[0]
		r.placeHole(&one)
	} else if err := r.merge(&one, list[1:]); err != nil {
		return err
	}
	r.set.Features = slices.DeleteFunc(r.set.Features, func(f *Feature) bool { return slices.Contains(list, f) })
	r.set.Features = append(r.set.Features, &one)
	return nil
}

// merge adds features of one level and direction to another.
func (r *recogniser) merge(one *Feature, more []*Feature) error {
	p := &one.Params
	for _, f := range more {
		if one.Kind == RoundHole || f.Kind == RoundHole || f.Kind == OutsideProfile || one.Kind == OutsideProfile || f.Approach.Dot(one.Approach) < 1-1e-9 || f.Region.Empty() != one.Region.Empty() {
			return fmt.Errorf("%s and %s are of different kinds or sides: a step can take both instead", title(one), title(f))
		}
		if math.Abs(f.Params.FloorZ-p.FloorZ) > 1e-6 {
			return fmt.Errorf("%s and %s have different floors: a step can take both instead", title(one), title(f))
		}
		one.Region = planar.Union(one.Region, f.Region, planar.DefaultTolerance)
		one.Floor = planar.Union(one.Floor, f.Floor, planar.DefaultTolerance)
		one.Slopes = append(slices.Clone(one.Slopes), f.Slopes...)
		one.Edge.Rim = append(slices.Clone(one.Edge.Rim), f.Edge.Rim...)
		one.Reachable = one.Reachable && f.Reachable
		if one.Why == "" {
			one.Why = f.Why
		}
		p.TopZ = math.Max(p.TopZ, f.Params.TopZ)
		p.Open = p.Open || f.Params.Open
		if c := f.Params.MinInsideRadius; p.MinInsideRadius == 0 || c > 0 && c < p.MinInsideRadius {
			p.MinInsideRadius = c
		}
	}
	p.Depth = p.TopZ - p.FloorZ
	if one.Region.Empty() {
		return nil
	}
	one.Bound = filled(one.Region)
	p.Islands = len(one.Region) - len(one.Bound)
	p.Length, p.Width = extent(one.Bound)
	if one.Kind == Slot && len(more) > 0 { // two slots are no slot
		one.Kind = ClosedPocket
		if p.Open {
			one.Kind = OpenPocket
		}
	}
	return nil
}
