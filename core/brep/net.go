package brep

import (
	"math"

	"arete/core/geom"
)

// net is a triangulation in the plane whose triangles know their neighbours.
type net struct {
	uv  []geom.V2
	id  []int32    // numbers of the points elsewhere
	tri [][3]int32 // counter-clockwise, into uv
	adj [][3]int32 // neighbour across the side k, k+1; −1 at the boundary

	fresh, changed []int32 // kept for reuse
}

func newNet(uv []geom.V2, id []int32, tri [][3]int32) *net {
	n := &net{uv: uv, id: id, tri: tri, adj: make([][3]int32, len(tri))}
	owner := make(map[[2]int32]int32, 3*len(tri))
	for i, t := range tri {
		n.adj[i] = [3]int32{-1, -1, -1}
		for k := 0; k < 3; k++ {
			owner[[2]int32{t[k], t[(k+1)%3]}] = int32(i)
		}
	}
	for i, t := range tri {
		for k := 0; k < 3; k++ {
			if o, ok := owner[[2]int32{t[(k+1)%3], t[k]}]; ok && o != int32(i) {
				n.adj[i][k] = o
			}
		}
	}
	return n
}

func (n *net) all() []int32 {
	out := make([]int32, len(n.tri))
	for i := range out {
		out[i] = int32(len(out) - 1 - i)
	}
	return out
}

// side returns which side of triangle i runs from a to b, −1 if none.
func (n *net) side(i, a, b int32) int {
	for k := 0; k < 3; k++ {
		if n.tri[i][k] == a && n.tri[i][(k+1)%3] == b {
			return k
		}
	}
	return -1
}

// relink tells neighbour j that across its side a→b now lies triangle i.
func (n *net) relink(j, a, b, i int32) {
	if j < 0 {
		return
	}
	if k := n.side(j, a, b); k >= 0 {
		n.adj[j][k] = i
	}
}

// legalise flips sides until no circumcircle holds the point across (Lawson
// 1977), beginning with the queued triangles; it returns those it changed.
// Each flip raises the smallest angle, so that it ends; the bound on the work
// is for rounding alone.
// The list holds until the next call.
func (n *net) legalise(queue []int32) []int32 {
	changed := append(n.changed[:0], queue...)
	for work := 0; len(queue) > 0 && work < 100*len(n.tri)+1000; work++ {
		i := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		for k := 0; k < 3; k++ {
			if j := n.adj[i][k]; j >= 0 && n.flip(i, j, k) {
				queue = append(queue, j, i)
				changed = append(changed, j, i)
				break
			}
		}
	}
	n.changed = changed
	return changed
}

// flip turns the side k of triangle i, shared with j, if that helps.
func (n *net) flip(i, j int32, k int) bool {
	t := n.tri[i]
	a, b, c := t[k], t[(k+1)%3], t[(k+2)%3]
	m := n.side(j, b, a)
	if m < 0 {
		return false
	}
	d := n.tri[j][(m+2)%3]
	if d == c || !convexQuad(n.uv[a], n.uv[d], n.uv[b], n.uv[c]) || !inCircle(n.uv[a], n.uv[b], n.uv[c], n.uv[d]) {
		return false
	}
	ca, ad, db, bc := n.adj[i][(k+2)%3], n.adj[j][(m+1)%3], n.adj[j][(m+2)%3], n.adj[i][(k+1)%3]
	n.tri[i], n.adj[i] = [3]int32{c, a, d}, [3]int32{ca, ad, j}
	n.tri[j], n.adj[j] = [3]int32{d, b, c}, [3]int32{db, bc, i}
	n.relink(ad, d, a, i)
	n.relink(bc, c, b, j)
	return true
}

// insert adds a point inside triangle i, or on its side k (k ≥ 0), and makes
// the net Delaunay again; it returns the triangles that changed.
func (n *net) insert(i int32, k int, uv geom.V2, id int32) []int32 {
	q := int32(len(n.uv))
	n.uv, n.id = append(n.uv, uv), append(n.id, id)
	n.fresh = append(n.fresh[:0], i)
	if k < 0 {
		n.splitInside(i, q)
	} else {
		n.splitSide(i, k, q)
	}
	return n.legalise(n.fresh)
}

func (n *net) grow(t, adj [3]int32) int32 {
	n.tri, n.adj = append(n.tri, t), append(n.adj, adj)
	return int32(len(n.tri) - 1)
}

func (n *net) splitInside(i, q int32) {
	t, ad := n.tri[i], n.adj[i]
	a, b, c := t[0], t[1], t[2]
	j := n.grow([3]int32{b, c, q}, [3]int32{ad[1], -1, i})
	k := n.grow([3]int32{c, a, q}, [3]int32{ad[2], i, j})
	n.adj[j][1] = k
	n.tri[i], n.adj[i] = [3]int32{a, b, q}, [3]int32{ad[0], j, k}
	n.relink(ad[1], c, b, j)
	n.relink(ad[2], a, c, k)
	n.fresh = append(n.fresh, j, k)
}

func (n *net) splitSide(i int32, k int, q int32) {
	t, ad := n.tri[i], n.adj[i]
	a, b, c := t[k], t[(k+1)%3], t[(k+2)%3]
	bc, ca, j := ad[(k+1)%3], ad[(k+2)%3], ad[k]
	m := n.side(j, b, a)
	d := n.tri[j][(m+2)%3]
	da, db := n.adj[j][(m+1)%3], n.adj[j][(m+2)%3]
	r := n.grow([3]int32{q, b, c}, [3]int32{j, bc, i})
	s := n.grow([3]int32{a, d, q}, [3]int32{da, j, i})
	n.tri[i], n.adj[i] = [3]int32{a, q, c}, [3]int32{s, r, ca}
	n.tri[j], n.adj[j] = [3]int32{b, q, d}, [3]int32{r, s, db}
	n.relink(bc, c, b, r)
	n.relink(da, d, a, s)
	n.fresh = append(n.fresh, j, r, s)
}

func convexQuad(a, d, b, c geom.V2) bool {
	eps := 1e-9 * a.Dist(b) * c.Dist(d)
	return d.Sub(c).Cross(a.Sub(c)) < -eps && d.Sub(c).Cross(b.Sub(c)) > eps
}

// inCircle tells whether d lies inside the circle through a, b, c (ccw).
func inCircle(a, b, c, d geom.V2) bool {
	p, q, r := a.Sub(d), b.Sub(d), c.Sub(d)
	det := p.Dot(p)*q.Cross(r) + q.Dot(q)*r.Cross(p) + r.Dot(r)*p.Cross(q)
	scale := math.Max(p.Dot(p), math.Max(q.Dot(q), r.Dot(r)))
	return det > 1e-13*scale*scale
}
