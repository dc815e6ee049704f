// Package section computes what a tool coming from +Z must stay clear of: the
// shadow that the part above a level throws on the XY plane.
//
// The shadow of {part, height > z} is the union of the projections of its
// upward-facing faces above z, since whatever lies above z has such a face on
// top. Horizontal planes, straight-edged slopes and vertical cones project to
// lines and arcs exactly; other faces by triangles within a chord of 5 µm.
// Lengths are mm, in setup coordinates.
package section

import (
	"math"
	"slices"
	"sort"
	"sync"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
)

// patch is the projection of one upward-facing face.
type patch struct {
	region planar.Region
	lo, hi float64 // heights it spans
	above  func(z float64) planar.Region
}

// Shadow answers questions about one part seen from +Z. It is safe for use
// by several goroutines.
type Shadow struct {
	tol     float64
	patches []patch // by falling foot
	joined  []planar.Region
	mu      sync.Mutex
	cache   map[float64]planar.Region
}

// flat is the sine below which a slope counts as horizontal or vertical.
const flat = 1e-6

// New prepares the shadow of a solid given in setup coordinates. Faces in
// skip (by index) are left out; caps are added as horizontal faces.
func New(s *brep.Solid, skip map[int]bool, caps []Cap, tol float64) (*Shadow, error) {
	return Of(s.Facets(Chord).View(geom.Identity()), skip, caps, tol)
}

// Of is New of a view: its facets stand for what is not made of lines and
// arcs.
func Of(s *brep.View, skip map[int]bool, caps []Cap, tol float64) (*Shadow, error) {
	sh := &Shadow{tol: tol, cache: map[float64]planar.Region{}}
	roofs := levelRoofs(s, skip)
	for i, f := range s.Faces {
		if skip[i] || under(f, roofs) {
			continue
		}
		p, err := sh.project(s, i)
		if err != nil {
			return nil, err
		}
		if p != nil {
			sh.patches = append(sh.patches, *p)
		}
	}
	for _, c := range caps {
		sh.patches = append(sh.patches, patch{region: c.Region, lo: c.Z, hi: c.Z})
	}
	sort.SliceStable(sh.patches, func(i, j int) bool { return sh.patches[i].lo > sh.patches[j].lo })
	return sh, nil
}

// Cap is a horizontal face put over an opening.
type Cap struct {
	Region planar.Region
	Z      float64
}

// block is how many patches are joined at once into what lies wholly above a
// level.
const block = 24

// Above returns the shadow of what rises above z by more than a micrometre.
func (sh *Shadow) Above(z float64) planar.Region {
	sh.mu.Lock()
	defer sh.mu.Unlock()
	if r, ok := sh.cache[z]; ok {
		return r
	}
	above := sort.Search(len(sh.patches), func(i int) bool { return sh.patches[i].lo <= z+1e-3 }) / block
	parts := []planar.Region{sh.blocks(above)}
	for _, p := range sh.patches[above*block:] {
		switch {
		case p.hi <= z+1e-3:
		case p.lo >= z-1e-6 || p.above == nil: // rounding must not clip the foot
			parts = append(parts, p.region)
		default:
			parts = append(parts, p.above(z))
		}
	}
	r := planar.UnionAll(parts, sh.tol)
	sh.cache[z] = r
	return r
}

// blocks returns the union of the first k blocks of patches: each on top of
// the one before, so that it does not depend on what was asked first.
func (sh *Shadow) blocks(k int) planar.Region {
	for len(sh.joined) <= k {
		n := len(sh.joined)
		if n == 0 {
			sh.joined = append(sh.joined, nil)
			continue
		}
		parts := []planar.Region{sh.joined[n-1]}
		for _, p := range sh.patches[(n-1)*block : n*block] {
			parts = append(parts, p.region)
		}
		sh.joined = append(sh.joined, planar.UnionAll(parts, sh.tol))
	}
	return sh.joined[k]
}

// Silhouette returns the shadow of the whole part.
func (sh *Shadow) Silhouette() planar.Region { return sh.Above(math.Inf(-1)) }

// project returns the patch of one face, nil when it does not face up.
func (sh *Shadow) project(s *brep.View, i int) (*patch, error) {
	f := s.Faces[i]
	lo, hi := heights(f)
	switch surf := f.Surface.(type) {
	case brep.Plane:
		n := f.NormalAt(surf.F.O)
		if n.Z <= flat {
			return nil, nil
		}
		if n.Z > 1-flat {
			return &patch{region: outline(s, f), lo: hi, hi: hi}, nil
		}
		if straight(f) {
			return sh.slope(s, f, surf, lo, hi), nil
		}
	case brep.Cylinder:
		if math.Abs(surf.F.Z.Z) > 1-flat {
			return nil, nil
		}
	case brep.Cone:
		if math.Abs(surf.F.Z.Z) > 1-flat {
			up := surf.Half < 0 // narrower upward, normal outward: faces up
			if surf.F.Z.Z < 0 {
				up = !up
			}
			if up != f.Same {
				return nil, nil
			}
			return sh.flank(s, f, surf, lo, hi), nil
		}
	}
	return sh.facets(s, i)
}

// heights returns the lowest and highest z of the face's boundary.
func heights(f *brep.Face) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	add := func(z float64) { lo, hi = math.Min(lo, z), math.Max(hi, z) }
	for _, l := range f.Loops {
		if l.Point != nil {
			add(l.Point.P.Z)
		}
		for _, c := range l.Coedges {
			for k := 0.0; k <= 8; k++ {
				add(c.Edge.Curve.At(c.Edge.T0 + (c.Edge.T1-c.Edge.T0)*k/8).Z)
			}
		}
	}
	return lo, hi
}

func straight(f *brep.Face) bool {
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			if _, ok := c.Edge.Curve.(brep.Line); !ok {
				return false
			}
		}
	}
	return true
}

// outline projects the boundary of a face whose edges are lines, or circles
// about vertical axes.
func outline(v *brep.View, f *brep.Face) planar.Region {
	var r planar.Region
	for _, l := range f.Loops {
		var loop planar.Loop
		for _, c := range l.Coedges {
			loop = append(loop, projectEdge(v, c)...)
		}
		if len(loop) > 0 {
			r = append(r, loop)
		}
	}
	return r
}

func projectEdge(v *brep.View, c *brep.Coedge) []planar.Segment {
	a, b := c.Ends()
	circle, ok := c.Edge.Curve.(brep.Circle)
	if !ok {
		return projectLines(v, c)
	}
	turn := int8(1)
	if (circle.F.Z.Z > 0) != c.Forward {
		turn = -1
	}
	if c.Edge.T1-c.Edge.T0 > 2*math.Pi-1e-9 {
		b = a
	}
	return planar.Arc(a.XY(), b.XY(), circle.F.O.XY(), turn)
}

// projectLines projects an edge by the chords that its faces' triangles have.
func projectLines(v *brep.View, c *brep.Coedge) []planar.Segment {
	points := v.Chords(c.Edge)
	if !c.Forward {
		slices.Reverse(points)
	}
	var out []planar.Segment
	for i := 1; i < len(points); i++ {
		if a, b := points[i-1].XY(), points[i].XY(); a != b {
			out = append(out, planar.Line(a, b))
		}
	}
	return out
}

// slope is an inclined plane with straight edges; above z it is cut along
// the horizontal line at that height.
func (sh *Shadow) slope(v *brep.View, f *brep.Face, s brep.Plane, lo, hi float64) *patch {
	region := outline(v, f)
	n := f.NormalAt(s.F.O)
	down := geom.V2{X: n.X, Y: n.Y}.Unit() // the slope falls along the normal's shadow
	rate := math.Hypot(n.X, n.Y) / n.Z
	return &patch{region: region, lo: lo, hi: hi, above: func(z float64) planar.Region {
		at := s.F.O.XY().Add(down.Mul((s.F.O.Z - z) / rate))
		const far = 1e5
		a, b := at.Add(down.Left().Mul(far)), at.Sub(down.Left().Mul(far))
		back := down.Mul(-far)
		half := planar.Polygon(b, a, a.Add(back), b.Add(back))
		return planar.Intersection(region, planar.Region{half}, sh.tol)
	}}
}

// flank is an upward-facing cone about a vertical axis; above z it is what
// lies inside (a point upward) or outside (a countersink) the circle at z.
func (sh *Shadow) flank(v *brep.View, f *brep.Face, s brep.Cone, lo, hi float64) *patch {
	region := outline(v, f)
	return &patch{region: region, lo: lo, hi: hi, above: func(z float64) planar.Region {
		r := s.RadiusAt((z - s.F.O.Z) * s.F.Z.Z)
		disc := planar.Region{planar.Circle(s.F.O.XY(), math.Max(r, 1e-6))}
		if f.Same {
			return planar.Intersection(region, disc, sh.tol)
		}
		return planar.Difference(region, disc, sh.tol)
	}}
}

// Levels returns the heights of all horizontal upward faces of the solid
// that are not skipped, highest first, with the indices of the faces.
func Levels(s *brep.Solid, skip map[int]bool) (z []float64, faces [][]int) {
	type level struct {
		z float64
		i int
	}
	var all []level
	for i, f := range s.Faces {
		if p, ok := f.Surface.(brep.Plane); ok && !skip[i] && f.NormalAt(p.F.O).Z > 1-flat {
			all = append(all, level{p.F.O.Z, i})
		}
	}
	sort.SliceStable(all, func(a, b int) bool { return all[a].z > all[b].z })
	for _, l := range all {
		if n := len(z); n == 0 || z[n-1]-l.z > 1e-4 {
			z, faces = append(z, l.z), append(faces, nil)
		}
		faces[len(z)-1] = append(faces[len(z)-1], l.i)
	}
	return z, faces
}

// FaceRegion returns the projection of a horizontal face.
func FaceRegion(v *brep.View, i int, tol float64) planar.Region {
	return planar.Normalize(outline(v, v.Faces[i]), tol)
}
