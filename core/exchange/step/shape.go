package step

import (
	"fmt"
	"math"

	"arete/core/brep"
)

// shell adds the faces of a closed shell to the solid under construction.
func (b *reader) shell(v value, same bool) error {
	in, err := b.get(v, &instance{})
	if err != nil {
		return err
	}
	if r := in.find("ORIENTED_CLOSED_SHELL"); r != nil && len(r.params) >= 4 {
		return b.shell(r.params[2], same == (r.params[3].str == "T"))
	}
	r := in.find("CLOSED_SHELL")
	if r == nil || len(r.params) < 2 {
		return b.bad(in, "is not a CLOSED_SHELL")
	}
	for _, f := range r.params[1].list {
		if err := b.face(f, in, same); err != nil {
			return err
		}
	}
	return nil
}

func (b *reader) face(v value, from *instance, same bool) error {
	in, err := b.get(v, from)
	if err != nil {
		return err
	}
	r := in.find("ADVANCED_FACE", "FACE_SURFACE")
	if r == nil || len(r.params) < 4 {
		return b.bad(in, "is not an ADVANCED_FACE")
	}
	f := &brep.Face{ID: in.id, Name: r.params[0].str, Same: (r.params[3].str == "T") == same}
	if f.Surface, err = b.surface(r.params[2], in); err != nil {
		return err
	}
	for _, bound := range r.params[1].list {
		l, err := b.bound(bound, in, f, same)
		if err != nil {
			return err
		}
		f.Loops = append(f.Loops, l)
	}
	if len(f.Loops) == 0 {
		return b.bad(in, "has no boundary")
	}
	b.solid.Faces = append(b.solid.Faces, f)
	return nil
}

func (b *reader) bound(v value, from *instance, f *brep.Face, same bool) (brep.Loop, error) {
	in, err := b.get(v, from)
	if err != nil {
		return brep.Loop{}, err
	}
	r := in.find("FACE_OUTER_BOUND", "FACE_BOUND")
	if r == nil || len(r.params) < 3 {
		return brep.Loop{}, b.bad(in, "is not a FACE_BOUND")
	}
	forward := (r.params[2].str == "T") == same
	loop, err := b.get(r.params[1], in)
	if err != nil {
		return brep.Loop{}, err
	}
	if vl := loop.find("VERTEX_LOOP"); vl != nil && len(vl.params) > 1 {
		p, err := b.vertexPoint(vl.params[1], loop)
		return brep.Loop{Point: p}, err
	}
	if pl := loop.find("POLY_LOOP"); pl != nil {
		return brep.Loop{}, b.unsupported(loop)
	}
	el := loop.find("EDGE_LOOP")
	if el == nil || len(el.params) < 2 || len(el.params[1].list) == 0 {
		return brep.Loop{}, b.bad(loop, "is not an EDGE_LOOP with edges")
	}
	var out brep.Loop
	for _, oe := range el.params[1].list {
		c, err := b.coedge(oe, loop)
		if err != nil {
			return out, err
		}
		c.Face = f
		out.Coedges = append(out.Coedges, c)
	}
	if !forward {
		for i, j := 0, len(out.Coedges)-1; i < j; i, j = i+1, j-1 {
			out.Coedges[i], out.Coedges[j] = out.Coedges[j], out.Coedges[i]
		}
		for _, c := range out.Coedges {
			c.Forward = !c.Forward
		}
	}
	for i, c := range out.Coedges {
		c.Edge.Uses = append(c.Edge.Uses, c)
		_, end := c.Ends()
		start, _ := out.Coedges[(i+1)%len(out.Coedges)].Ends()
		if gap := end.Dist(start); gap > 1e-3 {
			return out, &Error{ErrTopology, loop.line, loop.id, fmt.Sprintf("the edge loop has a gap of %.3g mm after #%d", gap, c.Edge.ID), "export the part as a closed solid"}
		}
	}
	return out, nil
}

func (b *reader) coedge(v value, from *instance) (*brep.Coedge, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	r := in.find("ORIENTED_EDGE")
	if r == nil || len(r.params) < 5 {
		return nil, b.bad(in, "is not an ORIENTED_EDGE")
	}
	e, forward, err := b.edgeCurve(r.params[3], in)
	if err != nil {
		return nil, err
	}
	return &brep.Coedge{Edge: e, Forward: (r.params[4].str == "T") == forward}, nil
}

// edgeCurve builds an edge; forward tells whether it runs as the file's edge
// does (our edges always run along their curve).
func (b *reader) edgeCurve(v value, from *instance) (*brep.Edge, bool, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, false, err
	}
	r := in.find("EDGE_CURVE")
	if r == nil || len(r.params) < 5 {
		return nil, false, b.bad(in, "is not an EDGE_CURVE")
	}
	forward := r.params[4].str == "T"
	if e := b.edge[in.id]; e != nil {
		return e, forward, nil
	}
	p, err := b.vertexPoint(r.params[1], in)
	if err != nil {
		return nil, false, err
	}
	q, err := b.vertexPoint(r.params[2], in)
	if err != nil {
		return nil, false, err
	}
	if !forward {
		p, q = q, p
	}
	c, err := b.curve(r.params[3], in, 0)
	if err != nil {
		return nil, false, err
	}
	e := &brep.Edge{ID: in.id, Curve: c, A: p, B: q, T0: c.Param(p.P), T1: c.Param(q.P)}
	if _, round := c.(brep.Circle); round && e.T1 <= e.T0+1e-9 {
		e.T1 += 2 * math.Pi
	}
	if d := math.Max(c.At(e.T0).Dist(p.P), c.At(e.T1).Dist(q.P)); d > 0.01 {
		return nil, false, &Error{ErrTopology, in.line, in.id, fmt.Sprintf("the edge's ends lie %.3g mm off its curve", d), "export the part again with a finer tolerance"}
	}
	b.edge[in.id] = e
	b.solid.Edges = append(b.solid.Edges, e)
	return e, forward, nil
}

func (b *reader) vertexPoint(v value, from *instance) (*brep.Vertex, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	if p := b.vertex[in.id]; p != nil {
		return p, nil
	}
	r := in.find("VERTEX_POINT")
	if r == nil || len(r.params) < 2 {
		return nil, b.bad(in, "is not a VERTEX_POINT")
	}
	p, err := b.point(r.params[1], in)
	if err != nil {
		return nil, err
	}
	b.vertex[in.id] = &brep.Vertex{P: p}
	return b.vertex[in.id], nil
}

func (b *reader) curve(v value, from *instance, depth int) (brep.Curve, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	switch r := in.records[0]; {
	case depth < 8 && (r.name == "SURFACE_CURVE" || r.name == "SEAM_CURVE" || r.name == "INTERSECTION_CURVE" || r.name == "TRIMMED_CURVE") && len(r.params) > 1:
		return b.curve(r.params[1], in, depth+1)
	case r.name == "LINE" && len(r.params) > 2:
		return b.line(in, r)
	case r.name == "CIRCLE" && len(r.params) > 2:
		f, err := b.frame(r.params[1], in)
		radius := r.params[2].num * b.m.ToMM
		if err == nil && !(radius > 0) {
			err = b.bad(in, "has no positive radius")
		}
		return brep.Circle{F: f, R: radius}, err
	}
	return nil, b.unsupported(in)
}

func (b *reader) line(in *instance, r record) (brep.Curve, error) {
	p, err := b.point(r.params[1], in)
	if err != nil {
		return nil, err
	}
	vec, err := b.get(r.params[2], in)
	if err != nil {
		return nil, err
	}
	vr := vec.find("VECTOR")
	if vr == nil || len(vr.params) < 2 {
		return nil, b.bad(vec, "is not a VECTOR")
	}
	d, err := b.direction(vr.params[1], vec)
	return brep.Line{P: p, D: d}, err
}

func (b *reader) surface(v value, from *instance) (brep.Surface, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	r := in.records[0]
	if len(r.params) < 2 {
		return nil, b.unsupported(in)
	}
	switch r.name {
	case "PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE":
	default:
		return nil, b.unsupported(in)
	}
	f, err := b.frame(r.params[1], in)
	if err != nil || r.name == "PLANE" {
		return brep.Plane{F: f}, err
	}
	if len(r.params) < 3 {
		return nil, b.bad(in, "has no radius")
	}
	radius := r.params[2].num * b.m.ToMM
	if r.name == "CYLINDRICAL_SURFACE" {
		if !(radius > 0) {
			return nil, b.bad(in, "has no positive radius")
		}
		return brep.Cylinder{F: f, R: radius}, nil
	}
	if len(r.params) < 4 {
		return nil, b.bad(in, "has no angle")
	}
	half := r.params[3].num * b.angle
	if !(radius >= 0) || !(math.Abs(half) > 1e-9) || math.Abs(half) >= math.Pi/2 {
		return nil, b.bad(in, "has an impossible radius or angle")
	}
	return brep.Cone{F: f, R: radius, Half: half}, nil
}
