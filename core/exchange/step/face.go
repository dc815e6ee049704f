package step

import (
	"errors"

	"arete/core/brep"
	"arete/core/geom"
)

var errNoPlane = errors.New("has corners on one line")

func (b *reader) face(v value, from *instance, same bool, depth int) error {
	in, err := b.get(v, from)
	if err != nil {
		return err
	}
	if r := in.find("ORIENTED_FACE"); r != nil && len(r.params) >= 4 && depth < 4 {
		return b.face(r.params[2], in, same == isTrue(r.params[3]), depth+1)
	}
	r := in.find("ADVANCED_FACE", "FACE_SURFACE", "FACE")
	if r == nil || len(r.params) < 2 {
		return b.bad(in, "is not an ADVANCED_FACE")
	}
	f := &brep.Face{ID: in.id, Name: r.params[0].str, Same: same}
	if len(r.params) >= 4 {
		b.opposite = false
		if f.Surface, err = b.surface(r.params[2], in, 0); err != nil {
			return err
		}
		f.Same = isTrue(r.params[3]) == same != b.opposite
	}
	for _, bound := range r.params[1].list {
		l, err := b.bound(bound, in, f, same)
		if err != nil {
			return err
		}
		if l.Point != nil || len(l.Coedges) > 0 {
			f.Loops = append(f.Loops, l)
		}
	}
	f.ChooseSheet()
	if f.Surface == nil {
		if f.Surface, err = b.planeOf(f); err != nil {
			return b.bad(in, err.Error())
		}
		f.Same = true
	}
	b.shape.solid.Faces = append(b.shape.solid.Faces, f)
	return nil
}

// planeOf returns the plane through the corners of a faceted face, by
// Newell's sum over its first loop.
func (b *reader) planeOf(f *brep.Face) (brep.Surface, error) {
	if len(f.Loops) == 0 || len(f.Loops[0].Coedges) < 3 {
		return nil, errNoPlane
	}
	var n, at geom.V3
	k := 0.0
	first, _ := f.Loops[0].Coedges[0].Ends()
	for _, c := range f.Loops[0].Coedges {
		p, q := c.Ends()
		n = n.Add(p.Sub(first).Cross(q.Sub(first)))
		at, k = at.Add(p), k+1
	}
	if n.Len() == 0 {
		return nil, errNoPlane
	}
	p, q := f.Loops[0].Coedges[0].Ends()
	return brep.Plane{F: geom.NewFrame(at.Mul(1/k), n, q.Sub(p))}, nil
}

func (b *reader) bound(v value, from *instance, f *brep.Face, same bool) (brep.Loop, error) {
	in, r, err := b.want(v, from, 3, "FACE_OUTER_BOUND", "FACE_BOUND")
	if err != nil {
		return brep.Loop{}, err
	}
	loop, err := b.get(r.params[1], in)
	if err != nil {
		return brep.Loop{}, err
	}
	if vl := loop.find("VERTEX_LOOP"); vl != nil && len(vl.params) > 1 {
		p, err := b.vertex(vl.params[1], loop)
		return brep.Loop{Point: p}, err
	}
	var out brep.Loop
	if pl := loop.find("POLY_LOOP"); pl != nil && len(pl.params) > 1 {
		out, err = b.polyLoop(pl.params[1].list, loop)
	} else {
		out, err = b.edgeLoop(loop)
	}
	if err != nil {
		return out, err
	}
	if isTrue(r.params[2]) != same {
		out.Turn()
	}
	for i, c := range out.Coedges {
		c.Face = f
		c.Edge.Uses = append(c.Edge.Uses, c)
		_, end := c.Ends()
		start, _ := out.Coedges[(i+1)%len(out.Coedges)].Ends()
		if gap := end.Dist(start); gap > 0.05 {
			return out, b.topology(loop, "export the part as a closed solid", "the edge loop has a gap of %.3g mm after #%d", gap, c.Edge.ID)
		}
	}
	return out, nil
}

func (b *reader) edgeLoop(in *instance) (brep.Loop, error) {
	el := in.find("EDGE_LOOP")
	if el == nil || len(el.params) < 2 || len(el.params[1].list) == 0 {
		return brep.Loop{}, b.bad(in, "is not an EDGE_LOOP with edges")
	}
	var out brep.Loop
	for _, oe := range el.params[1].list {
		c, err := b.coedge(oe, in, true, 0)
		if err != nil {
			return out, err
		}
		if c.Edge != nil {
			out.Coedges = append(out.Coedges, c)
		}
	}
	return out, nil
}

// polyLoop chains straight edges between points.
func (b *reader) polyLoop(points []value, in *instance) (brep.Loop, error) {
	var out brep.Loop
	var verts []*brep.Vertex
	for _, v := range points {
		p := b.shape.vertex[v.ref]
		if p == nil {
			at, err := b.point(v, in)
			if err != nil {
				return out, err
			}
			p = &brep.Vertex{P: at}
			b.shape.vertex[v.ref] = p
		}
		if n := len(verts); n == 0 || verts[n-1].P.Dist(p.P) > 0 {
			verts = append(verts, p)
		}
	}
	if n := len(verts); n > 1 && verts[0].P == verts[n-1].P {
		verts = verts[:n-1]
	}
	if len(verts) < 3 {
		return out, b.bad(in, "has fewer than three corners")
	}
	for i, p := range verts {
		q := verts[(i+1)%len(verts)]
		e, forward := b.shape.poly[[2]*brep.Vertex{p, q}], true
		if e == nil {
			if e = b.shape.poly[[2]*brep.Vertex{q, p}]; e != nil {
				forward = false
			}
		}
		if e == nil {
			e = &brep.Edge{ID: in.id, Curve: brep.Line{P: p.P, D: q.P.Sub(p.P).Unit()}, T1: p.P.Dist(q.P), A: p, B: q}
			b.shape.poly[[2]*brep.Vertex{p, q}] = e
			b.shape.solid.Edges = append(b.shape.solid.Edges, e)
		}
		out.Coedges = append(out.Coedges, &brep.Coedge{Edge: e, Forward: forward})
	}
	return out, nil
}
