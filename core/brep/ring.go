package brep

import (
	"math"

	"arete/core/geom"
)

// ring is a boundary loop in the parameters of its face. Where the surface
// closes on itself the parameters run on without jumps; at a pole a straight
// step along the pole's line joins the parameters before and after.
type ring struct {
	uv     []geom.V2
	id     []int32
	step   []step // from this point to the next
	jumps  []int  // where steps along a pole begin
	wu, wv int    // how often it runs around the periods
}

// step is the way from one point of a ring to the next: along an edge from t0
// to t1, or, without an edge, straight in the parameters.
type step struct {
	edge   *Edge
	t0, t1 float64
}

func (r *ring) add(uv geom.V2, id int32, s step) {
	r.uv, r.id, r.step = append(r.uv, uv), append(r.id, id), append(r.step, s)
}

// division is an edge cut into chords.
type division struct {
	t  []float64
	id []int32
}

// steps lists the points of a loop and the ways between them.
func (b *builder) steps(l Loop) (ids []int32, way []step) {
	total := 0
	for _, ce := range l.Coedges {
		total += len(b.edge[ce.Edge].id) - 1
	}
	ids, way = make([]int32, 0, total), make([]step, 0, total)
	for _, ce := range l.Coedges {
		d := b.edge[ce.Edge]
		n := len(d.id) - 1
		for k := 0; k < n; k++ {
			if ce.Forward {
				ids, way = append(ids, d.id[k]), append(way, step{ce.Edge, d.t[k], d.t[k+1]})
			} else {
				ids, way = append(ids, d.id[n-k]), append(way, step{ce.Edge, d.t[n-k], d.t[n-k-1]})
			}
		}
	}
	return ids, way
}

// ring maps a loop to the face's parameters.
func (b *builder) ring(f *Face, l Loop) ring {
	s := f.Surface
	if l.Point != nil {
		var r ring
		r.add(s.Param(l.Point.P), b.point(l.Point), step{})
		return r
	}
	ids, way := b.steps(l)
	poles := s.Poles()
	n := len(ids)
	first := 0
	for first < n-1 && poleAt(poles, b.m.Points[ids[first]]) != nil {
		first++
	}
	pu, pv := s.Periods()
	r := ring{uv: make([]geom.V2, 0, n+2), id: make([]int32, 0, n+2), step: make([]step, 0, n+2)}
	var last geom.V2
	for k := 0; k < n; k++ {
		i := (first + k) % n
		p := b.m.Points[ids[i]]
		if pole := poleAt(poles, p); pole != nil && k > 0 {
			into, out := way[(i+n-1)%n], way[i]
			a := pole.on(near(s, into.at(0.98), last, pu, pv))
			c := pole.on(near(s, out.at(0.02), a, pu, pv))
			r.jumps = append(r.jumps, len(r.uv))
			r.add(a, ids[i], step{})
			r.add(c, ids[i], out)
			last = c
			continue
		}
		uv := s.Param
		if k > 0 {
			uv = func(p geom.V3) geom.V2 { return near(s, p, last, pu, pv) }
		}
		last = uv(p)
		r.add(last, ids[i], way[i])
	}
	r.close(pu, pv, poles)
	return r
}

// at returns a point of the way.
func (s step) at(f float64) geom.V3 { return s.edge.Curve.At(s.t0 + (s.t1-s.t0)*f) }

// on moves parameters to the line of the pole.
func (p *Pole) on(uv geom.V2) geom.V2 {
	if p.U {
		return geom.V2{X: p.At, Y: uv.Y}
	}
	return geom.V2{X: uv.X, Y: p.At}
}

func poleAt(poles []Pole, p geom.V3) *Pole {
	for i := range poles {
		if poles[i].P.Dist(p) < 1e-6 {
			return &poles[i]
		}
	}
	return nil
}

// near inverts the surface at p, on the sheet of parameters nearest to last.
func near(s Surface, p geom.V3, last geom.V2, pu, pv float64) geom.V2 {
	uv := paramNear(s, p, last)
	return geom.V2{X: unroll(uv.X, last.X, pu), Y: unroll(uv.Y, last.Y, pv)}
}

// unroll adds periods to u until it is nearest to v.
func unroll(u, v, period float64) float64 {
	if period == 0 {
		return u
	}
	return u + math.Round((v-u)/period)*period
}

// close counts how often the ring runs around, and lets the steps along poles
// take that up. A ring over two poles may run either way around; the way that
// has the face on its left is not known before its sense is, see turnOver.
func (r *ring) close(pu, pv float64, poles []Pole) {
	n := len(r.uv)
	if n == 0 {
		return
	}
	a, z := r.uv[0], r.uv[n-1]
	end := geom.V2{X: unroll(a.X, z.X, pu), Y: unroll(a.Y, z.Y, pv)}
	if pu > 0 {
		r.wu = int(math.Round((end.X - a.X) / pu))
	}
	if pv > 0 {
		r.wv = int(math.Round((end.Y - a.Y) / pv))
	}
	if len(r.jumps) == 0 || r.wu == 0 && r.wv == 0 {
		return
	}
	r.shift(r.jumps[0]+1, n, geom.V2{X: -float64(r.wu) * pu, Y: -float64(r.wv) * pv})
	r.wu, r.wv = 0, 0
}

// shift moves the points from i up to j.
func (r *ring) shift(i, j int, d geom.V2) {
	for ; i < j; i++ {
		r.uv[i] = r.uv[i].Add(d)
	}
}

// turnOver lets a ring over two poles run around the other side when it has
// the face on its right (left is +1 when the face lies left in parameters).
func (r *ring) turnOver(pu, pv, left float64) {
	if len(r.jumps) != 2 || r.area()*left > 1e-9*(pu*pu+pv*pv) {
		return
	}
	for _, d := range [4]geom.V2{{X: pu}, {X: -pu}, {Y: pv}, {Y: -pv}} {
		if d.Len() == 0 {
			continue
		}
		r.shift(r.jumps[0]+1, r.jumps[1]+1, d)
		if r.area()*left > 0 {
			return
		}
		r.shift(r.jumps[0]+1, r.jumps[1]+1, d.Mul(-1))
	}
}

func (r ring) area() float64 {
	a := 0.0
	for i, p := range r.uv {
		a += p.Sub(r.uv[0]).Cross(r.uv[(i+1)%len(r.uv)].Sub(r.uv[0])) / 2
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

// bounds returns the least and greatest parameters.
func (r ring) bounds() (lo, hi geom.V2) {
	lo, hi = r.uv[0], r.uv[0]
	for _, p := range r.uv {
		lo = geom.V2{X: math.Min(lo.X, p.X), Y: math.Min(lo.Y, p.Y)}
		hi = geom.V2{X: math.Max(hi.X, p.X), Y: math.Max(hi.Y, p.Y)}
	}
	return lo, hi
}

// crosses tells whether the segment a–b meets the inside of a side of the ring.
func (r ring) crosses(a, b geom.V2) bool {
	side := func(p, q, x geom.V2) float64 { return q.Sub(p).Cross(x.Sub(p)) }
	for i, c := range r.uv {
		d := r.uv[(i+1)%len(r.uv)]
		if r.wu != 0 && i == len(r.uv)-1 {
			break
		}
		if c == a || c == b || d == a || d == b {
			continue
		}
		if side(a, b, c)*side(a, b, d) <= 0 && side(c, d, a)*side(c, d, b) <= 0 {
			return true
		}
	}
	return false
}
