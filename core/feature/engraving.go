package feature

import (
	"math"
	"slices"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
	"arete/core/section"
)

// An engraved mark is at most so wide and deep, mm; a face has at least so many
// of them, or one of so many faces: one groove is a slot.
const (
	markWidth = 1.5
	markDepth = 1.0
	fewMarks  = 2
	manyFaces = 12
)

// lid is how far the cover of marks goes beyond them, mm: chords of their
// curves leave no gap.
const lid = 0.02

const engraved = "engraved marks: they need an engraver or a thin ball end mill"

// mark is one engraved stroke or letter on a plane face.
type mark struct {
	faces  []int
	region planar.Region // in the face's own plane
	depth  float64
	width  float64 // to within 0.02
}

// takeEngravings claims the marks engraved in plane faces, of whichever side,
// each face's as one feature. Those seen from +Z are covered, so that what
// they stand in is found as if they were not there.
func (r *recogniser) takeEngravings() {
	for i, f := range r.s.Faces {
		plane, flat := f.Surface.(brep.Plane)
		if !flat || len(f.Loops) < 2 {
			continue
		}
		view := sideView(f.NormalAt(plane.F.O))
		marks := r.marks(i, view)
		faces := 0
		for _, m := range marks {
			faces += len(m.faces)
		}
		if len(marks) < fewMarks && faces < manyFaces {
			continue
		}
		r.takeEngraving(f, view, marks)
	}
}

// engraving is a feature with its region in the view that looks at it.
type engraving struct {
	f      *Feature
	region planar.Region
}

// takeEngraving makes one feature of the marks on a face.
func (r *recogniser) takeEngraving(face *brep.Face, view geom.Frame, marks []mark) {
	f := &Feature{Kind: Engraving, Approach: view.Z, Why: engraved, Tool: Access{OK: true}}
	p := &f.Params
	var all []planar.Region
	for _, m := range marks {
		f.Faces = append(f.Faces, m.faces...)
		all = append(all, m.region)
		p.Depth = math.Max(p.Depth, m.depth)
		p.Width = math.Max(p.Width, m.width)
	}
	f.Slopes = slices.Clone(f.Faces)
	region := planar.UnionAll(all, planar.DefaultTolerance)
	lo, hi := region.Bounds()
	p.TopZ = view.ToLocal(face.Surface.(brep.Plane).F.O).Z
	p.FloorZ = p.TopZ - p.Depth
	p.Length = math.Max(hi.X-lo.X, hi.Y-lo.Y)
	p.Center = view.ToWorld(lo.Lerp(hi, 0.5).At(p.TopZ))
	r.engravings = append(r.engravings, engraving{f, region})
	if view.Z.Z > 1-1e-9 {
		f.Region = region.Map(func(q geom.V2) geom.V2 { return view.ToWorld(q.At(p.TopZ)).XY() })
		f.Bound = f.Region
		r.coverMarks(f.Faces, f.Region, p.TopZ)
	} else {
		f.Why = "it is cut from " + Toward(view.Z) + ": it needs another setup"
	}
	r.take(f)
}

// coverMarks leaves the faces of marks out of the shadow and closes them at
// the level of the face that they are in.
func (r *recogniser) coverMarks(faces []int, region planar.Region, z float64) {
	for _, i := range faces {
		r.skip[i] = true
	}
	r.caps = append(r.caps, section.Cap{Region: planar.Offset(region, lid, planar.DefaultTolerance), Z: z})
}

// marks finds what is engraved in face i: what its inner loops sink into, when
// it is shallow, thin and no round hole.
func (r *recogniser) marks(i int, view geom.Frame) []mark {
	f := r.s.Faces[i]
	var out []mark
	outer := outerLoop(f)
	for k, l := range f.Loops {
		if k == outer {
			continue
		}
		m, ok := r.sunk(f, l, view)
		if !ok {
			continue
		}
		m.region = flatLoop(l, view)
		var own []int
		for _, j := range m.faces {
			g := r.s.Faces[j]
			if !level(g, f) {
				own = append(own, j)
				continue
			}
			inside := flatLoop(g.Loops[outerLoop(g)], view) // of a letter
			m.region = planar.Difference(m.region, inside, planar.DefaultTolerance)
		}
		m.faces = own
		_, d := m.region.Deepest(0.01)
		if m.width = 2 * d; m.width <= markWidth {
			out = append(out, m)
		}
	}
	return out
}

// level tells whether two plane faces lie in one plane and look the same way.
func level(a, b *brep.Face) bool {
	p, ok := a.Surface.(brep.Plane)
	q, ok2 := b.Surface.(brep.Plane)
	return ok && ok2 && a.NormalAt(p.F.O).Dot(b.NormalAt(q.F.O)) > 1-1e-9 && math.Abs(p.F.O.Sub(q.F.O).Dot(p.F.Z)) < Tolerance
}

// sunk collects the faces behind an inner loop of a face, with those at the
// face's own level inside it, while they stay shallow. What has only round
// walls is a hole.
func (r *recogniser) sunk(f *brep.Face, l brep.Loop, view geom.Frame) (m mark, ok bool) {
	const most = 400
	top := view.ToLocal(f.Surface.(brep.Plane).F.O).Z
	seen := map[*brep.Face]bool{f: true}
	var queue []*brep.Face
	push := func(l brep.Loop) {
		for _, c := range l.Coedges {
			if n := c.Mate(); n != nil && !seen[n.Face] {
				seen[n.Face] = true
				queue = append(queue, n.Face)
			}
		}
	}
	push(l)
	for k := 0; k < len(queue) && k < most; k++ {
		g := queue[k]
		m.faces = append(m.faces, r.index[g])
		for _, gl := range g.Loops {
			for _, c := range gl.Coedges {
				p, _ := c.Ends()
				d := top - view.ToLocal(p).Z
				if d < -Tolerance || d > markDepth {
					return m, false
				}
				m.depth = math.Max(m.depth, d)
			}
		}
		if level(g, f) {
			continue
		}
		for _, gl := range g.Loops {
			push(gl)
		}
		_, _, _, round := roundInside(g)
		floor := g.Surface.Kind() == brep.KindPlane && g.NormalAt(g.Surface.(brep.Plane).F.O).Dot(view.Z) > 1-1e-6
		ok = ok || !round && !floor
	}
	return m, ok && len(queue) <= most && m.depth > Tolerance
}

// outerLoop is the loop of a plane face around the others: the one that
// reaches farthest.
func outerLoop(f *brep.Face) int {
	best, size := 0, 0.0
	for k, l := range f.Loops {
		box := geom.EmptyBox()
		for _, c := range l.Coedges {
			mid, _ := c.Edge.Mid()
			box = box.Add(c.Edge.A.P).Add(mid)
		}
		if d := box.Size().Len(); d > size {
			best, size = k, d
		}
	}
	return best
}

// flatLoop is the region inside a loop of a plane face: lines, arcs, and other
// curves as chords.
func flatLoop(l brep.Loop, view geom.Frame) planar.Region {
	var out planar.Loop
	for _, c := range l.Coedges {
		if k, round := c.Edge.Curve.(brep.Circle); round {
			a, b := c.Ends()
			turn := int8(1)
			if (k.F.Z.Dot(view.Z) > 0) != c.Forward {
				turn = -1
			}
			out = append(out, planar.Arc(view.ToLocal(a).XY(), view.ToLocal(b).XY(), view.ToLocal(k.F.O).XY(), turn)...)
			continue
		}
		pts := c.Edge.Points(0.01)
		if !c.Forward {
			pts = slices.Clone(pts)
			slices.Reverse(pts)
		}
		for k := 1; k < len(pts); k++ {
			out = append(out, planar.Line(view.ToLocal(pts[k-1]).XY(), view.ToLocal(pts[k]).XY()))
		}
	}
	if out.Area() < 0 {
		out = out.Reverse()
	}
	return planar.Normalize(planar.Region{out}, planar.DefaultTolerance)
}
