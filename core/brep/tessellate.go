package brep

import (
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/mesh"
)

// Tessellate returns a watertight mesh that departs from the solid by at most
// chord mm. Every edge is divided once, and both of its faces use the same
// points. An error names the face that could not be filled.
func (s *Solid) Tessellate(chord float64) (*mesh.Mesh, error) {
	b := builder{m: &mesh.Mesh{}, vertex: map[*Vertex]int32{}, edge: map[*Edge][]int32{}, chord: chord}
	b.divideAll(s)
	for i, f := range s.Faces {
		if err := b.fill(f, int32(i)); err != nil {
			return nil, fmt.Errorf("face #%d: %w", f.ID, err)
		}
	}
	return b.m, nil
}

type builder struct {
	m      *mesh.Mesh
	vertex map[*Vertex]int32
	edge   map[*Edge][]int32
	chord  float64
}

func (b *builder) point(v *Vertex) int32 {
	i, ok := b.vertex[v]
	if !ok {
		i = b.add(v.P)
		b.vertex[v] = i
	}
	return i
}

func (b *builder) add(p geom.V3) int32 {
	b.m.Points = append(b.m.Points, p)
	return int32(len(b.m.Points) - 1)
}

// divideAll places the points of all edges. Straight edges that touch a
// curved face need none: they lie on it.
func (b *builder) divideAll(s *Solid) {
	for _, e := range s.Edges {
		n := 1
		if c, round := e.Curve.(Circle); round {
			n = arcSteps(c.R, e.T1-e.T0, b.chord)
		}
		ids := []int32{b.point(e.A)}
		for k := 1; k < n; k++ {
			ids = append(ids, b.add(e.Curve.At(e.T0+(e.T1-e.T0)*float64(k)/float64(n))))
		}
		b.edge[e] = append(ids, b.point(e.B))
	}
}

// arcSteps returns how many chords keep within the distance of the arc; at
// least one for 30 degrees.
func arcSteps(r, sweep, chord float64) int {
	step := math.Pi / 6
	if chord < r {
		step = math.Min(step, 2*math.Acos(1-chord/r))
	}
	return max(1, int(math.Ceil(sweep/step-1e-9)))
}

// ring is a boundary loop in the parameters of its face.
type ring struct {
	uv    []geom.V2
	id    []int32
	wraps int // how often it runs around the period
}

// fill triangulates one face.
func (b *builder) fill(f *Face, index int32) error {
	rings := make([]ring, 0, len(f.Loops))
	for _, l := range f.Loops {
		rings = append(rings, b.ring(f, l))
	}
	if f.Surface.Periodic() {
		var err error
		if rings, err = unwrap(f, rings); err != nil {
			return err
		}
	}
	su, sv := f.Surface.aspect()
	for _, r := range rings {
		for i := range r.uv {
			r.uv[i].X *= su
			r.uv[i].Y *= sv
			if !f.Same {
				r.uv[i].X = -r.uv[i].X
			}
		}
	}
	tris, err := triangulate(rings)
	if err != nil {
		return err
	}
	for _, t := range tris {
		if t[0] != t[1] && t[1] != t[2] && t[2] != t[0] { // apex and seam doubles
			b.m.Tris = append(b.m.Tris, t)
			b.m.Face = append(b.m.Face, index)
		}
	}
	return nil
}

// ring maps a loop to the face's parameters; u of periodic surfaces runs on
// without jumps. At the apex of a cone u jumps by what closes the ring.
func (b *builder) ring(f *Face, l Loop) ring {
	var r ring
	if l.Point != nil {
		return ring{uv: []geom.V2{f.Surface.Param(l.Point.P)}, id: []int32{b.point(l.Point)}}
	}
	apex := -1
	for _, ce := range l.Coedges {
		ids := b.edge[ce.Edge]
		for k := 0; k < len(ids)-1; k++ {
			id := ids[k]
			if !ce.Forward {
				id = ids[len(ids)-1-k]
			}
			p := b.m.Points[id]
			uv := f.Surface.Param(p)
			if n := len(r.uv); f.Surface.Periodic() && n > 0 {
				if atApex(f.Surface, p) {
					uv.X = r.uv[n-1].X
					apex = n
				} else {
					uv.X = nearTurn(uv.X, r.uv[n-1].X)
				}
			}
			r.uv, r.id = append(r.uv, uv), append(r.id, id)
		}
	}
	if !f.Surface.Periodic() || len(r.uv) == 0 {
		return r
	}
	closing := nearTurn(r.uv[0].X, r.uv[len(r.uv)-1].X)
	r.wraps = int(math.Round((closing - r.uv[0].X) / (2 * math.Pi)))
	if apex >= 0 && r.wraps != 0 {
		r = r.splitApex(apex)
	}
	return r
}

// splitApex doubles the apex point so that the ring closes without wrapping.
func (r ring) splitApex(at int) ring {
	shift := float64(r.wraps) * 2 * math.Pi
	out := ring{}
	for i := range r.uv {
		if i == at {
			out.uv, out.id = append(out.uv, r.uv[i]), append(out.id, r.id[i])
		}
		q := r.uv[i]
		if i >= at {
			q.X -= shift
		}
		out.uv, out.id = append(out.uv, q), append(out.id, r.id[i])
	}
	return out
}

func atApex(s Surface, p geom.V3) bool {
	c, ok := s.(Cone)
	return ok && p.Dist(c.Apex()) < 1e-7*(1+c.R)
}

// nearTurn adds full turns to u until it is nearest to v.
func nearTurn(u, v float64) float64 {
	return u + math.Round((v-u)/(2*math.Pi))*2*math.Pi
}

// unwrap cuts a face that runs all the way round into one that does not: two
// wrapping rings, or one and the apex, are joined by a seam.
func unwrap(f *Face, rings []ring) ([]ring, error) {
	var wrap, flat []ring
	for _, r := range rings {
		switch {
		case r.wraps != 0 || len(r.uv) == 1:
			wrap = append(wrap, r)
		default:
			flat = append(flat, r)
		}
	}
	if len(wrap) == 1 && wrap[0].wraps != 0 {
		return nil, fmt.Errorf("the boundary runs around the axis once and does not close")
	}
	if len(wrap) > 2 {
		return nil, fmt.Errorf("%d boundaries run around the axis, want 2", len(wrap))
	}
	if len(wrap) == 2 {
		if len(wrap[0].uv) == 1 {
			wrap[0], wrap[1] = wrap[1], wrap[0]
		}
		flat = append([]ring{seamed(wrap[0], wrap[1])}, flat...)
	}
	outer := 0
	for i := range flat {
		if math.Abs(flat[i].area()) > math.Abs(flat[outer].area()) {
			outer = i
		}
	}
	for i := range flat {
		if i == outer {
			continue
		}
		for k := -2.0; k <= 2; k++ {
			shift := k * 2 * math.Pi
			if flat[outer].contains(geom.V2{X: flat[i].uv[0].X + shift, Y: flat[i].uv[0].Y}) {
				for j := range flat[i].uv {
					flat[i].uv[j].X += shift
				}
				break
			}
		}
	}
	return flat, nil
}

// seamed joins two rings that wrap in opposite senses (the second may be the
// single point of an apex) into one.
func seamed(a, b ring) ring {
	turn := 2 * math.Pi * float64(a.wraps)
	u0 := a.uv[0].X
	a.uv = append(a.uv, geom.V2{X: u0 + turn, Y: a.uv[0].Y})
	a.id = append(a.id, a.id[0])
	if len(b.uv) == 1 {
		a.uv = append(a.uv, geom.V2{X: u0 + turn, Y: b.uv[0].Y}, geom.V2{X: u0, Y: b.uv[0].Y})
		a.id = append(a.id, b.id[0], b.id[0])
		return a
	}
	best, gap := 0, math.Inf(1)
	for i, q := range b.uv {
		if d := math.Abs(nearTurn(q.X, u0+turn) - u0 - turn); d < gap {
			best, gap = i, d
		}
	}
	n := len(b.uv)
	at := u0 + turn
	for k := 0; k <= n; k++ {
		i := (best + k) % n
		at = nearTurn(b.uv[i].X, at)
		a.uv = append(a.uv, geom.V2{X: at, Y: b.uv[i].Y})
		a.id = append(a.id, b.id[i])
	}
	return a
}

func (r ring) area() float64 {
	a := 0.0
	for i, p := range r.uv {
		a += p.Cross(r.uv[(i+1)%len(r.uv)]) / 2
	}
	return a
}

func (r ring) contains(p geom.V2) bool {
	in := false
	for i, a := range r.uv {
		b := r.uv[(i+1)%len(r.uv)]
		if (a.Y > p.Y) != (b.Y > p.Y) && p.X < a.X+(p.Y-a.Y)/(b.Y-a.Y)*(b.X-a.X) {
			in = !in
		}
	}
	return in
}
