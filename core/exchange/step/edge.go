package step

import (
	"math"

	"arete/core/brep"
)

// coedge reads the use of an edge; one that is a single point has no Edge.
func (b *reader) coedge(v value, from *instance, forward bool, depth int) (*brep.Coedge, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	if r := in.find("ORIENTED_EDGE"); r != nil && len(r.params) >= 5 && depth < 4 {
		return b.coedge(r.params[3], in, forward == isTrue(r.params[4]), depth+1)
	}
	r := in.find("EDGE_CURVE", "SUBEDGE")
	if r == nil || len(r.params) < 4 {
		return nil, b.bad(in, "is not an EDGE_CURVE")
	}
	if r.name == "SUBEDGE" {
		return nil, b.unsupported(in)
	}
	if len(r.params) < 5 {
		return nil, b.bad(in, "has too few parameters")
	}
	along := isTrue(r.params[4])
	e, known := b.shape.edge[in.id]
	if !known {
		if e, err = b.edgeCurve(in, r, along); err != nil {
			return nil, err
		}
		b.shape.edge[in.id] = e
		if e != nil {
			b.shape.solid.Edges = append(b.shape.solid.Edges, e)
		}
	}
	return &brep.Coedge{Edge: e, Forward: forward == along}, nil
}

// edgeCurve builds an edge that runs along its curve.
func (b *reader) edgeCurve(in *instance, r *record, along bool) (*brep.Edge, error) {
	p, err := b.vertex(r.params[1], in)
	if err != nil {
		return nil, err
	}
	q, err := b.vertex(r.params[2], in)
	if err != nil {
		return nil, err
	}
	if !along {
		p, q = q, p
	}
	c, err := b.curve(r.params[3], in, 0)
	if err != nil {
		return nil, err
	}
	e := &brep.Edge{ID: in.id, Curve: c, A: p, B: q, T0: c.Param(p.P), T1: c.Param(q.P)}
	period := c.Period()
	switch {
	case p == q && period == 0 && p.P.Dist(q.P) == 0:
		br := c.Breaks()
		if len(br) < 2 || c.At(br[0]).Dist(c.At(br[len(br)-1])) > 10*b.unit.tol {
			return nil, nil // an edge without length
		}
		e.T0, e.T1 = br[0], br[len(br)-1]
	case period > 0 && e.T1 <= e.T0+1e-9*period:
		e.T1 += period
	case period > 0 && p != q && e.T1-e.T0 > period*(1-1e-9) && p.P.Dist(q.P) < b.unit.tol:
		e.T1 = e.T0 + period*1e-9 // both ends at one place: a tiny edge
	case period == 0 && e.T1 < e.T0: // written against its curve
		e.Curve = c.Reverse()
		e.T0, e.T1 = e.Curve.Param(p.P), e.Curve.Param(q.P)
	}
	off := math.Max(e.Curve.At(e.T0).Dist(p.P), e.Curve.At(e.T1).Dist(q.P))
	if off > 0.5 || math.IsNaN(off) {
		return nil, b.topology(in, "export the part again with a finer tolerance", "the edge's ends lie %.3g mm off its curve", off)
	}
	b.shape.gap = math.Max(b.shape.gap, off)
	return e, nil
}

func (b *reader) vertex(v value, from *instance) (*brep.Vertex, error) {
	if p := b.shape.vertex[v.ref]; p != nil && v.kind == kRef {
		return p, nil
	}
	in, r, err := b.want(v, from, 2, "VERTEX_POINT")
	if err != nil {
		return nil, err
	}
	p, err := b.point(r.params[1], in)
	if err != nil {
		return nil, err
	}
	b.shape.vertex[in.id] = &brep.Vertex{P: p}
	return b.shape.vertex[in.id], nil
}
