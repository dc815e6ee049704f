package brep

import (
	"errors"
	"fmt"
	"math"

	"arete/core/geom"
)

var errOpenWrap = errors.New("the boundary runs around the axis once and does not close")

// rings returns the outline of a face with its edges divided within chord, and
// the builder that holds its points.
func (f *Face) rings(chord float64) ([]ring, *builder, error) {
	b := newBuilder(within30(chord))
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			b.divideEdge(c.Edge)
		}
	}
	r, err := b.outline(f)
	return r, b, err
}

// outline returns the boundary of a face as rings of its parameters that do
// not run around: the outer one first, then holes inside it. Where the face
// runs all the way round, a seam is cut.
func (b *builder) outline(f *Face) ([]ring, error) {
	pu, pv := f.Surface.Periods()
	left := 1.0
	if !f.Same {
		left = -1
	}
	var flat, wrapped []ring
	closed := closedSurface(f.Surface)
	for _, l := range f.Loops {
		if closed && l.seamsOnly() {
			continue // all of the surface
		}
		r := b.ring(f, l)
		switch {
		case len(r.uv) < 2: // a vertex loop: a pole, or a stray point
		case r.wu != 0 || r.wv != 0:
			wrapped = append(wrapped, r)
		default:
			r.turnOver(pu, pv, left)
			flat = append(flat, r)
		}
	}
	if len(wrapped) > 0 {
		r, err := b.joinWrapped(f, wrapped, flat, left)
		if err != nil {
			return nil, err
		}
		flat = append([]ring{r}, flat...)
	} else if k := largest(flat); k < 0 || flat[k].area()*left < 0 && closed {
		r, err := b.whole(f.Surface, flat)
		if err != nil {
			return nil, err
		}
		flat = append([]ring{r}, flat...)
	}
	return arrange(flat, pu, pv), nil
}

// seamsOnly tells whether the loop runs along each of its edges both ways.
func (l Loop) seamsOnly() bool {
	for _, c := range l.Coedges {
		both := false
		for _, d := range l.Coedges {
			both = both || d.Edge == c.Edge && d.Forward != c.Forward
		}
		if !both {
			return false
		}
	}
	return true
}

// largest returns the ring of greatest area, −1 without any.
func largest(rings []ring) int {
	k := -1
	for i := range rings {
		if k < 0 || math.Abs(rings[i].area()) > math.Abs(rings[k].area()) {
			k = i
		}
	}
	return k
}

// arrange puts the outer ring first and moves the others by periods into it.
func arrange(rings []ring, pu, pv float64) []ring {
	k := largest(rings)
	rings[0], rings[k] = rings[k], rings[0]
	for i := 1; i < len(rings); i++ {
		if d, ok := inside(rings[0], rings[i], pu, pv); ok {
			rings[i].shift(0, len(rings[i].uv), d)
		}
	}
	return rings
}

// inside finds the shift by periods that puts a ring into the outer one.
func inside(outer, r ring, pu, pv float64) (geom.V2, bool) {
	for i := -2.0; i <= 2; i++ {
		for j := -2.0; j <= 2; j++ {
			d := geom.V2{X: i * pu, Y: j * pv}
			if pu == 0 && i != 0 || pv == 0 && j != 0 {
				continue
			}
			if outer.contains(r.uv[0].Add(d)) && outer.contains(r.uv[len(r.uv)/2].Add(d)) {
				return d, true
			}
		}
	}
	return geom.V2{}, false
}

// joinWrapped joins the rings that run around the surface into one that does
// not: two by a seam, one with the pole on the side of the face.
func (b *builder) joinWrapped(f *Face, wrapped, flat []ring, left float64) (ring, error) {
	pu, pv := f.Surface.Periods()
	swap := wrapped[0].wu == 0
	if swap { // the other way round: exchange the parameters
		left, pu = -left, pv
		for i := range wrapped {
			wrapped[i] = wrapped[i].swapped()
		}
		for i := range flat {
			flat[i] = flat[i].swapped()
		}
	}
	r, err := b.joinAround(f.Surface, wrapped, flat, left, pu, swap)
	if swap {
		r = r.swapped()
		for i := range flat {
			flat[i] = flat[i].swapped()
		}
	}
	return r, err
}

func (r ring) swapped() ring {
	out := r
	out.wu, out.wv = r.wv, r.wu
	out.uv = make([]geom.V2, len(r.uv))
	for i, p := range r.uv {
		out.uv[i] = geom.V2{X: p.Y, Y: p.X}
	}
	return out
}

func (b *builder) joinAround(s Surface, wrapped, flat []ring, left, period float64, swap bool) (ring, error) {
	for _, r := range wrapped {
		if r.wu != 1 && r.wu != -1 || r.wv != 0 {
			return ring{}, fmt.Errorf("a boundary runs around the axis %d times", r.wu)
		}
	}
	switch len(wrapped) {
	case 1:
		return b.toPole(s, wrapped[0], left*float64(wrapped[0].wu), period, swap)
	case 2:
		return seamed(wrapped[0], wrapped[1], flat, period), nil
	}
	return ring{}, fmt.Errorf("%d boundaries run around the axis, want 2", len(wrapped))
}

// toPole closes a ring over the pole that lies on the given side of it.
func (b *builder) toPole(s Surface, r ring, side, period float64, swap bool) (ring, error) {
	best, dist := -1, math.Inf(1)
	poles := s.Poles()
	for i, p := range poles {
		if d := (p.At - r.uv[0].Y) * side; p.U == swap && d > 0 && d < dist {
			best, dist = i, d
		}
	}
	if best < 0 {
		return ring{}, errOpenWrap
	}
	turn := float64(r.wu) * period
	id := b.add(poles[best].P)
	end := r.uv[0].X + turn
	r.add(geom.V2{X: end, Y: r.uv[0].Y}, r.id[0], step{})
	r.add(geom.V2{X: end, Y: poles[best].At}, id, step{})
	r.add(geom.V2{X: end - turn, Y: poles[best].At}, id, step{})
	r.wu = 0
	return r, nil
}

// seamed joins two rings that wrap in opposite senses into one, by a seam
// that crosses neither them nor the holes between.
func seamed(a, b ring, holes []ring, period float64) ring {
	best, at := 0, -1
	least := math.Inf(1)
	for i := range a.uv {
		j := nearestTurn(b, a.uv[i].X, period)
		gap := math.Abs(unroll(b.uv[j].X, a.uv[i].X, period) - a.uv[i].X)
		if gap < least && clear(a, b, holes, a.uv[i], geom.V2{X: unroll(b.uv[j].X, a.uv[i].X, period), Y: b.uv[j].Y}, period) {
			best, at, least = i, j, gap
		}
	}
	if at < 0 {
		best, at = 0, nearestTurn(b, a.uv[0].X, period)
	}
	turn := period * float64(a.wu)
	n, m := len(a.uv), len(b.uv)
	var out ring
	for k := 0; k <= n; k++ {
		i := (best + k) % n
		p := a.uv[i]
		if best+k >= n {
			p.X += turn
		}
		st := a.step[i]
		if k == n {
			st = step{}
		}
		out.add(p, a.id[i], st)
	}
	u := out.uv[n].X
	for k := 0; k <= m; k++ {
		i := (at + k) % m
		u = unroll(b.uv[i].X, u, period)
		st := b.step[i]
		if k == m {
			st = step{}
		}
		out.add(geom.V2{X: u, Y: b.uv[i].Y}, b.id[i], st)
	}
	return out
}

func nearestTurn(r ring, u, period float64) int {
	best, gap := 0, math.Inf(1)
	for i, q := range r.uv {
		if d := math.Abs(unroll(q.X, u, period) - u); d < gap {
			best, gap = i, d
		}
	}
	return best
}

// clear tells whether the seam p–q is free of all rings.
func clear(a, b ring, holes []ring, p, q geom.V2, period float64) bool {
	for k := -2.0; k <= 2; k++ {
		d := geom.V2{X: k * period}
		if a.crosses(p.Add(d), q.Add(d)) || b.crosses(p.Add(d), q.Add(d)) {
			return false
		}
		for _, h := range holes {
			if h.crosses(p.Add(d), q.Add(d)) {
				return false
			}
		}
	}
	return true
}

// closedSurface tells whether a surface bounds a space by itself.
func closedSurface(s Surface) bool {
	pu, pv := s.Periods()
	return (pu > 0 || len(s.Poles()) == 2) && (pv > 0 || len(s.Poles()) == 2)
}

// whole returns the ring around all of a closed surface, its seam clear of
// the holes.
func (b *builder) whole(s Surface, holes []ring) (ring, error) {
	if !closedSurface(s) {
		return ring{}, errors.New("the face has no boundary")
	}
	pu, pv := s.Periods()
	if pu == 0 {
		return ring{}, errors.New("the face has no boundary")
	}
	u0, v0 := gap(holes, pu, func(p geom.V2) float64 { return p.X }), 0.0
	v1 := 0.0
	if pv > 0 {
		v0 = gap(holes, pv, func(p geom.V2) float64 { return p.Y })
		v1 = v0 + pv
	} else {
		v0, v1 = s.Poles()[0].At, s.Poles()[1].At
		if v0 > v1 {
			v0, v1 = v1, v0
		}
	}
	du, dv := s.Diff(geom.V2{X: u0, Y: (v0 + v1) / 2})
	nu := 4 * arcSteps(du.Len()*pu/(2*math.Pi), math.Pi/2, b.fineness)
	nv := 4 * arcSteps(dv.Len()*(v1-v0)/math.Pi, math.Pi/2, b.fineness)
	side := make([]int32, nv+1) // along v at u0, the same as at u0 + pu
	for k := range side {
		if pv > 0 && k == nv {
			side[k] = side[0]
			continue
		}
		side[k] = b.add(s.At(geom.V2{X: u0, Y: v0 + (v1-v0)*float64(k)/float64(nv)}))
	}
	low, high := make([]int32, nu+1), make([]int32, nu+1) // along u at v0 and v1
	for k := range low {
		low[k], high[k] = side[0], side[nv]
		if pv > 0 && k > 0 && k < nu {
			low[k] = b.add(s.At(geom.V2{X: u0 + pu*float64(k)/float64(nu), Y: v0}))
			high[k] = low[k]
		}
	}
	n := 2 * (nu + nv)
	r := ring{uv: make([]geom.V2, 0, n), id: make([]int32, 0, n), step: make([]step, 0, n)}
	at := func(i, j int) geom.V2 {
		return geom.V2{X: u0 + pu*float64(i)/float64(nu), Y: v0 + (v1-v0)*float64(j)/float64(nv)}
	}
	for k := 0; k < nu; k++ {
		r.add(at(k, 0), low[k], step{})
	}
	for k := 0; k < nv; k++ {
		r.add(at(nu, k), side[k], step{})
	}
	for k := nu; k > 0; k-- {
		r.add(at(k, nv), high[k], step{})
	}
	for k := nv; k > 0; k-- {
		r.add(at(0, k), side[k], step{})
	}
	return r, nil
}

// gap returns the middle of the widest stretch of a period free of the rings.
func gap(rings []ring, period float64, get func(geom.V2) float64) float64 {
	const n = 360
	var used [n]bool
	for _, r := range rings {
		lo, hi := r.bounds()
		for x := get(lo); x <= get(hi)+period/n; x += period / n / 2 {
			used[((int(math.Floor(x/period*n))%n)+n)%n] = true
		}
	}
	best, length := 0, 0
	for i := 0; i < n; i++ {
		k := 0
		for k < n && !used[(i+k)%n] {
			k++
		}
		if k > length {
			best, length = i, k
		}
	}
	return (float64(best) + float64(length)/2) / n * period
}
