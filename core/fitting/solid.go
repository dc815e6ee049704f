package fitting

import (
	"fmt"
	"math"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
)

// What is worth recognising: more flat strips, or more faces after the fitting,
// are a scanned or free-formed shape.
const (
	maxStrips = 50_000
	maxFaces  = 4000
)

// Error says why a mesh cannot become a solid and what to do.
type Error struct{ What, Do string }

func (e *Error) Error() string { return e.What + "; " + e.Do }

// Solids returns the solids of a closed mesh: one for each connected piece,
// with the voids inside it. Their faces are planes and cylinders, their edges
// lines, circles and, between surfaces at an angle, polylines. Meshes that run
// inside out are turned.
func Solids(m *mesh.Mesh) ([]*brep.Solid, error) {
	n, err := newNet(m)
	if err != nil {
		return nil, err
	}
	n.planes()
	if len(n.all) > maxStrips {
		return nil, freeFormed(len(n.all))
	}
	n.cylinders()
	n.cones()
	faces := 0
	for _, r := range n.all {
		if len(r.tris) > 0 {
			faces++
		}
	}
	if faces > maxFaces {
		return nil, freeFormed(faces)
	}
	b := &builder{net: n, verts: map[int32]*brep.Vertex{}, edges: map[[2]int32]*brep.Edge{}}
	b.corners()
	for i, r := range n.all {
		if len(r.tris) > 0 {
			b.face(int32(i))
		}
	}
	return b.solids(), nil
}

func freeFormed(planes int) error {
	return &Error{fmt.Sprintf("the mesh falls into %d small planes: a free-formed shape", planes), "ask for a STEP file of the part"}
}

// newNet finds the neighbours; every side of a triangle must have one.
func newNet(m *mesh.Mesh) (*net, error) {
	n := &net{m: m, across: make([][3]int32, len(m.Tris))}
	side := make(map[[2]int32][2]int32, 3*len(m.Tris))
	for i, t := range m.Tris {
		for k := range 3 {
			key := [2]int32{t[k], t[(k+1)%3]}
			if _, twice := side[key]; twice {
				p := m.Points[t[k]]
				return nil, &Error{fmt.Sprintf("more than two triangles meet along a side at X%.3f Y%.3f Z%.3f", p.X, p.Y, p.Z), "export the part alone, or as STEP"}
			}
			side[key] = [2]int32{int32(i), int32(k)}
		}
	}
	open := 0
	var where geom.V3
	for key, at := range side {
		mate, ok := side[[2]int32{key[1], key[0]}]
		if !ok {
			if p := m.Points[key[0]]; open == 0 || p.X+p.Y+p.Z < where.X+where.Y+where.Z { // the same place whatever the order
				where = p
			}
			open++
			continue
		}
		n.across[at[0]][at[1]] = mate[0]
	}
	if open > 0 {
		return nil, &Error{fmt.Sprintf("the mesh is open: %d sides have no neighbour, one at X%.3f Y%.3f Z%.3f", open, where.X, where.Y, where.Z), "close it where it was made, or export the part as STEP"}
	}
	return n, nil
}

// builder makes faces of regions.
type builder struct {
	*net
	corner []bool // mesh points at which edges end
	verts  map[int32]*brep.Vertex
	edges  map[[2]int32]*brep.Edge // by each mesh side along them, both ways
	faces  []*brep.Face
	made   []*brep.Edge
}

// corners marks the points where three regions or more meet.
func (b *builder) corners() {
	first := make([][2]int32, len(b.m.Points))
	for i := range first {
		first[i] = [2]int32{-1, -1}
	}
	b.corner = make([]bool, len(b.m.Points))
	for t, c := range b.m.Tris {
		r := b.of[t]
		for _, v := range c {
			switch f := &first[v]; {
			case f[0] == r || f[1] == r:
			case f[0] < 0:
				f[0] = r
			case f[1] < 0:
				f[1] = r
			default:
				b.corner[v] = true
			}
		}
	}
}

// face makes the face of a region.
func (b *builder) face(id int32) {
	r := b.all[id]
	f := &brep.Face{ID: len(b.faces) + 1, Same: true}
	switch c := r.round; {
	case c == nil:
		f.Surface = brep.Plane{F: geom.NewFrame(r.at, r.normal, r.normal.Perpendicular())}
	case c.half == 0:
		f.Surface = brep.Cylinder{F: c.axis, R: c.r}
		f.Same = b.outward(int(id), c)
	default:
		f.Surface = brep.Cone{F: c.axis, R: c.r, Half: c.half}
		f.Same = b.outward(int(id), c)
		b.tip(f, r)
	}
	for _, ring := range b.rings(id) {
		f.Loops = append(f.Loops, b.loop(f, id, ring))
	}
	b.faces = append(b.faces, f)
}

// tip adds the tip of a cone that reaches to it.
func (b *builder) tip(f *brep.Face, r *region) {
	apex := f.Surface.(brep.Cone).Apex()
	for _, t := range r.tris {
		for _, v := range b.m.Tris[t] {
			if b.m.Points[v].Dist(apex) < 10*tolerance {
				f.Loops = append(f.Loops, brep.Loop{Point: &brep.Vertex{P: apex}})
				return
			}
		}
	}
}

// rings returns the boundary of a region as closed chains of mesh points, the
// region on their left.
func (b *builder) rings(id int32) [][]int32 {
	next := map[int32][]int32{}
	var order []int32
	for _, t := range b.all[id].tris {
		for k := range 3 {
			if b.of[b.across[t][k]] != id {
				a := b.m.Tris[t][k]
				if next[a] == nil {
					order = append(order, a)
				}
				next[a] = append(next[a], b.m.Tris[t][(k+1)%3])
			}
		}
	}
	var out [][]int32
	for _, start := range order {
		for len(next[start]) > 0 {
			var ring []int32
			for at := start; len(next[at]) > 0; {
				l := next[at]
				to := l[len(l)-1]
				next[at] = l[:len(l)-1]
				ring = append(ring, at)
				if at = to; at == start {
					break
				}
			}
			out = append(out, ring)
		}
	}
	return out
}

// loop divides a ring into edges at the corners.
func (b *builder) loop(f *brep.Face, id int32, ring []int32) brep.Loop {
	var l brep.Loop
	first := 0
	for i, v := range ring {
		if b.corner[v] {
			first = i
			break
		}
	}
	ring = append(append([]int32{}, ring[first:]...), ring[:first]...)
	ring = append(ring, ring[0])
	for from := 0; from < len(ring)-1; {
		to := from + 1
		for to < len(ring)-1 && !b.corner[ring[to]] {
			to++
		}
		b.use(f, &l, id, ring[from:to+1])
		from = to
	}
	return l
}

// use appends the edge along a chain of points to a loop, made if the face
// beyond has not made it.
func (b *builder) use(f *brep.Face, l *brep.Loop, id int32, chain []int32) {
	e, known := b.edges[[2]int32{chain[1], chain[0]}]
	forward := !known
	if !known {
		e = b.edge(chain, id)
		b.made = append(b.made, e)
	}
	c := &brep.Coedge{Edge: e, Forward: forward, Face: f}
	e.Uses = append(e.Uses, c)
	l.Coedges = append(l.Coedges, c)
}

// edge makes the edge along a chain that starts in region id.
func (b *builder) edge(chain []int32, id int32) *brep.Edge {
	e := &brep.Edge{ID: len(b.made) + 1, A: b.vertex(chain[0]), B: b.vertex(chain[len(chain)-1])}
	pts := make([]geom.V3, len(chain))
	for i, v := range chain {
		pts[i] = b.m.Points[v]
		if i > 0 {
			b.edges[[2]int32{chain[i-1], v}] = e
		}
	}
	e.Curve, e.T0, e.T1 = b.curve(pts, b.beside(chain, id))
	return e
}

// beside returns the cylinder or cone on one side of a chain, if there is one.
func (b *builder) beside(chain []int32, id int32) *round {
	if c := b.all[id].round; c != nil {
		return c
	}
	for _, t := range b.all[id].tris {
		for k := range 3 {
			if b.m.Tris[t][k] == chain[0] && b.m.Tris[t][(k+1)%3] == chain[1] {
				return b.all[b.of[b.across[t][k]]].round
			}
		}
	}
	return nil
}

func (b *builder) vertex(v int32) *brep.Vertex {
	if b.verts[v] == nil {
		b.verts[v] = &brep.Vertex{P: b.m.Points[v]}
	}
	return b.verts[v]
}

// curve returns the line, the circle about a round face's axis, or the polyline
// through the points.
func (b *builder) curve(pts []geom.V3, c *round) (brep.Curve, float64, float64) {
	a, z := pts[0], pts[len(pts)-1]
	if d := z.Sub(a); d.Len() > tolerance {
		u := d.Unit()
		straight := true
		for _, p := range pts {
			off := p.Sub(a)
			straight = straight && off.Sub(u.Mul(off.Dot(u))).Len() < 2*tolerance
		}
		if straight {
			return brep.Line{P: a, D: u}, 0, d.Len()
		}
	}
	if c != nil && level(pts, c) {
		q := c.axis.ToLocal(a)
		o := c.axis.ToWorld(geom.V3{Z: q.Z})
		f := geom.NewFrame(o, c.axis.Z, a.Sub(o))
		if f.TurnLocal(pts[1].Sub(o)).Y < 0 { // runs the other way round
			f = geom.NewFrame(o, c.axis.Z.Mul(-1), a.Sub(o))
		}
		k := brep.Circle{F: f, R: c.r + q.Z*math.Tan(c.half)}
		end := 2 * math.Pi
		if a != z {
			end = k.Param(z)
		}
		return k, 0, end
	}
	knots := []float64{0}
	at := 0.0
	for i := range pts {
		if i > 0 {
			at += pts[i].Dist(pts[i-1])
		}
		knots = append(knots, at)
	}
	knots = append(knots, at)
	s, err := brep.NewSpline(1, knots, pts, nil)
	if err != nil { // points that fall together: as good as straight
		return brep.Line{P: a, D: z.Sub(a).Unit()}, 0, z.Dist(a)
	}
	return s, 0, at
}

// level tells whether the points lie at one height along the axis.
func level(pts []geom.V3, c *round) bool {
	h := c.axis.ToLocal(pts[0]).Z
	for _, p := range pts {
		if math.Abs(c.axis.ToLocal(p).Z-h) > 2*tolerance {
			return false
		}
	}
	return len(pts) > 2 || len(pts) == 2 && pts[0] != pts[1]
}

// solids puts faces that hang together into shells, shells inside out into
// the solid around them.
func (b *builder) solids() []*brep.Solid {
	whole := &brep.Solid{Faces: b.faces, Edges: b.made}
	var outer, voids []*brep.Solid
	parts := whole.Split()
	for _, s := range parts {
		if v, err := s.SignedVolume(); err == nil && v < 0 && len(parts) > 1 {
			voids = append(voids, s)
			continue
		} else if v < 0 {
			s.TurnInsideOut()
		}
		outer = append(outer, s)
	}
	for _, v := range voids {
		if home := around(outer, v); home != nil {
			home.Faces, home.Edges = append(home.Faces, v.Faces...), append(home.Edges, v.Edges...)
			continue
		}
		v.TurnInsideOut()
		outer = append(outer, v)
	}
	return outer
}

// around returns the solid whose box holds that of a void.
func around(outer []*brep.Solid, v *brep.Solid) *brep.Solid {
	in := v.Box()
	for _, s := range outer {
		if b := s.Box(); b.Union(in) == b {
			return s
		}
	}
	return nil
}
