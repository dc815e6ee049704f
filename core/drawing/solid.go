package drawing

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
)

// Solids returns a solid for each outline of the chains, with pockets, openings
// and bosses by the levels of their layers. An error is a Problem.
func Solids(chains []Chain, levels []Level) ([]*brep.Solid, error) {
	roots, err := tree(chains, levels)
	if err != nil {
		return nil, err
	}
	var out []*brep.Solid
	for _, r := range roots {
		bottom := r.level.Top - r.level.Depth
		if err := r.settle(bottom); err != nil {
			return nil, err
		}
		b := &builder{s: &brep.Solid{Name: r.Layer}, bottom: bottom}
		top, foot := b.ring(r.Loop, r.ground), b.ring(r.Loop, bottom)
		b.walls(r, top, foot, true)
		b.under = append(b.under, foot)
		b.level(r, top)
		b.plane(bottom, false, b.under)
		out = append(out, b.s)
	}
	return out, nil
}

// builder makes the faces of one solid.
type builder struct {
	s      *brep.Solid
	bottom float64
	under  []*ring // the outline and the openings at the bottom, outline first
}

// ring is a chain at a height.
type ring struct {
	loop  planar.Loop
	edges []*brep.Edge
}

// ring makes the edges of a chain at z.
func (b *builder) ring(l planar.Loop, z float64) *ring {
	r := &ring{loop: l}
	verts := make([]*brep.Vertex, len(l))
	for i, s := range l {
		verts[i] = &brep.Vertex{P: s.A.At(z)}
	}
	for i, s := range l {
		e := &brep.Edge{A: verts[i], B: verts[(i+1)%len(l)]}
		if s.IsArc() {
			up := geom.V3{Z: float64(s.Turn)}
			e.Curve = brep.Circle{F: geom.NewFrame(s.C.At(z), up, s.A.Sub(s.C).At(0)), R: s.Radius()}
			e.T1 = math.Abs(s.Sweep())
		} else {
			d := s.B.Sub(s.A)
			e.Curve, e.T1 = brep.Line{P: s.A.At(z), D: d.Unit().At(0)}, d.Len()
		}
		r.edges = append(r.edges, b.edge(e))
	}
	return r
}

func (b *builder) edge(e *brep.Edge) *brep.Edge {
	e.ID = len(b.s.Edges) + 1
	b.s.Edges = append(b.s.Edges, e)
	return e
}

// level makes the face inside a chain, and all that stands or sinks in it.
func (b *builder) level(n *node, outer *ring) {
	rings := []*ring{outer}
	for _, k := range n.kids {
		at := b.ring(k.Loop, n.ground)
		rings = append(rings, at)
		if k.through {
			foot := b.ring(k.Loop, b.bottom)
			b.under = append(b.under, foot)
			b.walls(k, at, foot, false)
			continue
		}
		inner := b.ring(k.Loop, k.ground)
		if k.ground > n.ground {
			b.walls(k, inner, at, true)
		} else {
			b.walls(k, at, inner, false)
		}
		b.level(k, inner)
	}
	b.plane(n.ground, true, rings)
}

// plane makes a level face inside the first ring and outside the others.
func (b *builder) plane(z float64, up bool, rings []*ring) {
	normal := geom.V3{Z: 1}
	if !up {
		normal.Z = -1
	}
	f := b.face(brep.Plane{F: geom.NewFrame(geom.V3{Z: z}, normal, geom.V3{X: 1})}, true)
	for i, r := range rings {
		f.Loops = append(f.Loops, brep.Loop{Coedges: b.along(f, r, (i == 0) == up)})
	}
}

// along runs a ring as drawn or the other way.
func (b *builder) along(f *brep.Face, r *ring, forward bool) []*brep.Coedge {
	var out []*brep.Coedge
	for i := range r.edges {
		if !forward {
			i = len(r.edges) - 1 - i
		}
		out = append(out, use(f, r.edges[i], forward))
	}
	return out
}

func use(f *brep.Face, e *brep.Edge, forward bool) *brep.Coedge {
	c := &brep.Coedge{Edge: e, Forward: forward, Face: f}
	e.Uses = append(e.Uses, c)
	return c
}

func (b *builder) face(s brep.Surface, same bool) *brep.Face {
	f := &brep.Face{ID: len(b.s.Faces) + 1, Surface: s, Same: same}
	b.s.Faces = append(b.s.Faces, f)
	return f
}

// walls makes the upright faces between two heights of a chain. The material
// is inside the chain or around it.
func (b *builder) walls(n *node, top, foot *ring, inside bool) {
	f0 := len(b.s.Faces)
	posts := make([]*brep.Edge, len(n.Loop))
	for i := range n.Loop {
		lo, hi := foot.edges[i].A, top.edges[i].A
		posts[i] = b.edge(&brep.Edge{A: lo, B: hi, Curve: brep.Line{P: lo.P, D: geom.V3{Z: 1}}, T1: hi.P.Z - lo.P.Z})
	}
	for i, s := range n.Loop {
		f := b.wall(s, foot.edges[i].A.P.Z, inside)
		here, next := posts[i], posts[(i+1)%len(posts)]
		var l []*brep.Coedge
		if inside {
			l = []*brep.Coedge{use(f, foot.edges[i], true), use(f, next, true), use(f, top.edges[i], false), use(f, here, false)}
		} else {
			l = []*brep.Coedge{use(f, foot.edges[i], false), use(f, here, true), use(f, top.edges[i], true), use(f, next, false)}
		}
		f.Loops = []brep.Loop{{Coedges: l}}
	}
	for _, f := range b.s.Faces[f0:] {
		f.Layer = n.Layer
	}
}

// wall makes the face over one segment.
func (b *builder) wall(s planar.Segment, z float64, inside bool) *brep.Face {
	if s.IsArc() {
		return b.face(brep.Cylinder{F: geom.NewFrame(s.C.At(z), geom.V3{Z: 1}, geom.V3{X: 1}), R: s.Radius()}, inside == (s.Turn > 0))
	}
	out := s.B.Sub(s.A).Unit().Left().Mul(-1)
	if !inside {
		out = out.Mul(-1)
	}
	return b.face(brep.Plane{F: geom.NewFrame(s.A.At(z), out.At(0), geom.V3{Z: 1})}, true)
}
