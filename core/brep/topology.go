// Package brep holds solids by their boundary: faces on surfaces, bounded by
// loops of edges on curves (the terms of ISO 10303-42). It tessellates them
// watertight and integrates area and volume over the exact surfaces.
//
// Lengths are mm, angles radians. Face normals point out of the material.
package brep

import (
	"math"

	"arete/core/geom"
)

// Vertex is a corner point of a solid.
type Vertex struct {
	P geom.V3
}

// Edge is a bounded stretch of a curve between two vertices, run in the
// direction of growing parameter from T0 to T1.
type Edge struct {
	ID     int // number of the entity in the file
	Curve  Curve
	T0, T1 float64
	A, B   *Vertex
	Uses   []*Coedge // the coedges on it: two in a closed solid
}

// Coedge is the use of an edge by a loop.
type Coedge struct {
	Edge    *Edge
	Forward bool // along the edge's own direction
	Face    *Face
}

// Loop is a closed chain of coedges, the face on its left seen from outside.
// A loop without coedges is a single vertex (the apex of a cone).
type Loop struct {
	Coedges []*Coedge
	Point   *Vertex
}

// Face is a bounded piece of a surface.
type Face struct {
	ID      int // number of the entity in the file
	Name    string
	Colour  uint32 // 0xffRRGGBB, 0 for none
	Layer   string
	Surface Surface
	Same    bool // the outward normal is the surface's own
	Loops   []Loop
}

// Solid is a closed set of faces.
type Solid struct {
	ID     int
	Name   string
	Colour uint32 // 0xffRRGGBB, 0 for none
	Layer  string
	Faces  []*Face
	Edges  []*Edge
}

// Shape tells how two faces meet along an edge.
type Shape int

// The ways two faces can meet.
const (
	Smooth  Shape = iota // tangent within a degree
	Convex               // an outside edge: less than half the space is material
	Concave              // an inside edge
)

// Ends returns the points where the coedge starts and ends.
func (c *Coedge) Ends() (a, b geom.V3) {
	if c.Forward {
		return c.Edge.A.P, c.Edge.B.P
	}
	return c.Edge.B.P, c.Edge.A.P
}

// Mate returns the other use of the edge, nil on an open one.
func (c *Coedge) Mate() *Coedge {
	for _, u := range c.Edge.Uses {
		if u != c {
			return u
		}
	}
	return nil
}

// Mid returns the middle of the edge and its direction there.
func (e *Edge) Mid() (p, dir geom.V3) {
	t := (e.T0 + e.T1) / 2
	return e.Curve.At(t), e.Curve.Tangent(t)
}

// Len returns the length of the edge.
func (e *Edge) Len() float64 {
	switch c := e.Curve.(type) {
	case Line:
		return e.T1 - e.T0
	case Circle:
		return (e.T1 - e.T0) * c.R
	}
	sum := 0.0
	ts := e.divide(within30(math.Inf(1)))
	for i := 1; i < len(ts); i++ {
		for k, x := range gauss8.node {
			sum += gauss8.weight[k] / 2 * (ts[i] - ts[i-1]) * e.Curve.Tangent(ts[i-1]+(ts[i]-ts[i-1])*(x+1)/2).Len()
		}
	}
	return sum
}

// Shape classifies the edge by the faces on both sides at its middle.
func (e *Edge) Shape() Shape {
	if len(e.Uses) != 2 {
		return Smooth
	}
	p, dir := e.Mid()
	if !e.Uses[0].Forward {
		dir = dir.Mul(-1)
	}
	n0, n1 := e.Uses[0].Face.NormalAt(p), e.Uses[1].Face.NormalAt(p)
	turn := n0.Cross(n1).Dot(dir.Unit())
	switch limit := math.Sin(math.Pi / 180); {
	case turn > limit:
		return Convex
	case turn < -limit:
		return Concave
	}
	return Smooth
}

// NormalAt returns the outward unit normal at a point of the face.
func (f *Face) NormalAt(p geom.V3) geom.V3 {
	n := normal(f.Surface, f.Surface.Param(p))
	if !f.Same {
		return n.Mul(-1)
	}
	return n
}

// Transform returns a copy of the solid moved by the frame (local → world).
// Identifiers and the order of faces and edges are kept.
func (s *Solid) Transform(f geom.Frame) *Solid {
	out := &Solid{ID: s.ID, Name: s.Name, Colour: s.Colour, Layer: s.Layer}
	verts := map[*Vertex]*Vertex{}
	vertex := func(v *Vertex) *Vertex {
		if v == nil {
			return nil
		}
		if verts[v] == nil {
			verts[v] = &Vertex{f.ToWorld(v.P)}
		}
		return verts[v]
	}
	edges := map[*Edge]*Edge{}
	for _, e := range s.Edges {
		c := &Edge{ID: e.ID, Curve: e.Curve.Transform(f), T0: e.T0, T1: e.T1, A: vertex(e.A), B: vertex(e.B)}
		edges[e] = c
		out.Edges = append(out.Edges, c)
	}
	for _, face := range s.Faces {
		c := &Face{ID: face.ID, Name: face.Name, Colour: face.Colour, Layer: face.Layer, Surface: face.Surface.Transform(f), Same: face.Same}
		for _, l := range face.Loops {
			m := Loop{Point: vertex(l.Point)}
			for _, ce := range l.Coedges {
				u := &Coedge{Edge: edges[ce.Edge], Forward: ce.Forward, Face: c}
				u.Edge.Uses = append(u.Edge.Uses, u)
				m.Coedges = append(m.Coedges, u)
			}
			c.Loops = append(c.Loops, m)
		}
		out.Faces = append(out.Faces, c)
	}
	return out
}
