package brep

import (
	"errors"
	"math"
	"sort"

	"arete/core/geom"
)

// triangulate fills a polygon with holes: the rings are bridged to one, ears
// are clipped, and edges are flipped until the triangles are Delaunay, which
// keeps them as round as the points allow (Meisters 1975; Lawson 1977).
// Triangles run counter-clockwise.
func triangulate(rings []ring) (*net, error) {
	outer := 0
	for i := range rings {
		if math.Abs(rings[i].area()) > math.Abs(rings[outer].area()) {
			outer = i
		}
	}
	if len(rings) == 0 || len(rings[outer].uv) < 3 {
		return nil, errors.New("the boundary has fewer than three points")
	}
	all := ring{}
	var poly []int32 // numbers into all
	appendRing := func(r ring, ccw bool) []int32 {
		out := make([]int32, len(r.uv))
		for i := range r.uv {
			out[i] = int32(len(all.uv) + i)
		}
		all.uv, all.id = append(all.uv, r.uv...), append(all.id, r.id...)
		if (r.area() > 0) != ccw {
			for i, j := 0, len(out)-1; i < j; i, j = i+1, j-1 {
				out[i], out[j] = out[j], out[i]
			}
		}
		return out
	}
	poly = appendRing(rings[outer], true)
	var holes [][]int32
	for i, r := range rings {
		if i != outer && len(r.uv) > 2 {
			holes = append(holes, appendRing(r, false))
		}
	}
	poly = bridgeHoles(all.uv, poly, holes)
	tris, err := clipEars(all.uv, poly)
	if err != nil {
		return nil, err
	}
	n := newNet(all.uv, all.id, tris)
	n.legalise(n.all())
	return n, nil
}

// bridgeHoles joins the holes to the polygon, rightmost first, each by the
// shortest bridge to a visible vertex to its right (Eberly 2002).
func bridgeHoles(uv []geom.V2, poly []int32, holes [][]int32) []int32 {
	right := func(h []int32) int {
		k := 0
		for i := range h {
			if uv[h[i]].X > uv[h[k]].X {
				k = i
			}
		}
		return k
	}
	sort.SliceStable(holes, func(a, b int) bool {
		return uv[holes[a][right(holes[a])]].X > uv[holes[b][right(holes[b])]].X
	})
	for _, h := range holes {
		k := right(h)
		at := visible(uv, poly, uv[h[k]])
		joined := make([]int32, 0, len(poly)+len(h)+2)
		joined = append(joined, poly[:at+1]...)
		joined = append(joined, h[k:]...)
		joined = append(joined, h[:k+1]...)
		joined = append(joined, poly[at:]...)
		poly = joined
	}
	return poly
}

// visible returns the position in poly of a vertex that p sees to its right.
func visible(uv []geom.V2, poly []int32, p geom.V2) int {
	best, x, direct := -1, math.Inf(1), false
	n := len(poly)
	for i := range poly {
		a, b := uv[poly[i]], uv[poly[(i+1)%n]]
		if a.Y == p.Y && a.X >= p.X && a.X < x && opensTo(uv[poly[(i+n-1)%n]], a, b, p) {
			best, x, direct = i, a.X, true // a vertex right on the ray
		}
		if a.Y >= p.Y || b.Y <= p.Y { // only edges that run upward: their left is inside
			continue
		}
		if c := a.X + (b.X-a.X)*(p.Y-a.Y)/(b.Y-a.Y); c >= p.X && c < x {
			best, x, direct = i, c, false
		}
	}
	if best < 0 {
		return nearestVertex(uv, poly, p)
	}
	if direct {
		return best
	}
	j := (best + 1) % n
	if uv[poly[best]].X > uv[poly[j]].X {
		j = best
	}
	m, hit := uv[poly[j]], geom.V2{X: x, Y: p.Y}
	slope := math.Inf(1)
	pick := j
	for i := range poly { // a reflex vertex inside the triangle p, hit, m hides m
		q := uv[poly[i]]
		if q == m || q.X < p.X || !inTriangle(p, hit, m, q) {
			continue
		}
		prev, next := uv[poly[(i+n-1)%n]], uv[poly[(i+1)%n]]
		if q.Sub(prev).Cross(next.Sub(q)) > 0 || !opensTo(prev, q, next, p) {
			continue
		}
		if s := math.Abs(q.Y-p.Y) / math.Max(q.X-p.X, 1e-300); s < slope {
			slope, pick = s, i
		}
	}
	return pick
}

// opensTo tells whether p lies in the inner angle of the corner prev, q, next:
// a vertex may stand in the polygon several times, once for each bridge.
func opensTo(prev, q, next, p geom.V2) bool {
	before, after := q.Sub(prev).Cross(p.Sub(q)) >= 0, next.Sub(q).Cross(p.Sub(q)) >= 0
	if q.Sub(prev).Cross(next.Sub(q)) > 0 {
		return before && after
	}
	return before || after
}

func nearestVertex(uv []geom.V2, poly []int32, p geom.V2) int {
	k := 0
	for i := range poly {
		if uv[poly[i]].Dist(p) < uv[poly[k]].Dist(p) {
			k = i
		}
	}
	return k
}

func inTriangle(a, b, c, p geom.V2) bool {
	if b.Sub(a).Cross(c.Sub(a)) < 0 {
		b, c = c, b
	}
	return b.Sub(a).Cross(p.Sub(a)) >= 0 && c.Sub(b).Cross(p.Sub(b)) >= 0 && a.Sub(c).Cross(p.Sub(c)) >= 0
}

// clipEars cuts a simple polygon into triangles, of neighbouring ears the one
// with the shorter cut, so that strips become zigzags and not fans. When
// rounding leaves no clean ear the least bad corner is cut, so that the result
// always closes.
func clipEars(uv []geom.V2, poly []int32) ([][3]int32, error) {
	p := append([]int32(nil), poly...)
	tris := make([][3]int32, 0, len(p))
	corner := func(i int) (a, b, c int32) {
		n := len(p)
		return p[(i+n-1)%n], p[(i+n)%n], p[(i+1)%n]
	}
	turn := func(a, b, c int32) float64 { return uv[b].Sub(uv[a]).Cross(uv[c].Sub(uv[b])) }
	i, since := 0, 0
	for len(p) > 3 {
		n := len(p)
		i %= n
		a, b, c := corner(i)
		t := turn(a, b, c)
		clean := t > 0 && isEar(uv, p, a, b, c)
		if !clean && since <= n && !(since > n/2 && t == 0) {
			i, since = i+1, since+1
			continue
		}
		if since > 3*n {
			return nil, errors.New("the boundary crosses itself")
		}
		k, cut := i, uv[a].Dist(uv[c])
		for _, j := range [2]int{i + n - 1, i + 1} {
			d, e, f := corner(j % n)
			if clean && uv[d].Dist(uv[f]) < cut && turn(d, e, f) > 0 && isEar(uv, p, d, e, f) {
				k, cut, a, b, c = j%n, uv[d].Dist(uv[f]), d, e, f
			}
		}
		tris = append(tris, [3]int32{a, b, c})
		p = append(p[:k], p[k+1:]...)
		i, since = max(0, k-1), 0
	}
	return append(tris, [3]int32{p[0], p[1], p[2]}), nil
}

func isEar(uv []geom.V2, p []int32, a, b, c int32) bool {
	ua, ub, uc := uv[a], uv[b], uv[c]
	lo := geom.V2{X: math.Min(ua.X, math.Min(ub.X, uc.X)), Y: math.Min(ua.Y, math.Min(ub.Y, uc.Y))}
	hi := geom.V2{X: math.Max(ua.X, math.Max(ub.X, uc.X)), Y: math.Max(ua.Y, math.Max(ub.Y, uc.Y))}
	for _, k := range p {
		q := uv[k]
		if q.X < lo.X || q.X > hi.X || q.Y < lo.Y || q.Y > hi.Y || q == ua || q == ub || q == uc {
			continue
		}
		if inTriangle(ua, ub, uc, q) {
			return false
		}
	}
	return true
}
