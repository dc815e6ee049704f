package brep

import (
	"math"
	"slices"

	"arete/core/geom"
)

// maxInside bounds the points added inside one face.
const maxInside = 200_000

// refine adds points inside a face until its triangles keep within the chord
// of the surface. Boundary sides stay as they are: the neighbour has them too.
func (b *builder) refine(n *net, f *Face, to plan) {
	more := len(n.tri) + 64 // about what comes: grown once, not often
	n.tri, n.adj, n.uv, n.id = slices.Grow(n.tri, 2*more), slices.Grow(n.adj, 2*more), slices.Grow(n.uv, more), slices.Grow(n.id, more)
	b.m.Points = slices.Grow(b.m.Points, more)
	queue := n.all()
	at := func(q geom.V2) geom.V3 { return f.Surface.At(to.back(q)) }
	for count := 0; len(queue) > 0 && count < maxInside; {
		i := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		side, uv, p, far := b.worst(n, i, at, f, to)
		if !far {
			continue
		}
		count++
		if side >= 0 && n.side(n.adj[i][side], n.tri[i][(side+1)%3], n.tri[i][side]) < 0 {
			continue
		}
		queue = append(queue, n.insert(i, side, uv, b.add(p))...)
	}
}

// worst finds where a triangle departs most from the surface: on a side
// (0, 1, 2) or inside (−1), and whether that is too far.
func (b *builder) worst(n *net, i int32, at func(geom.V2) geom.V3, f *Face, to plan) (side int, uv geom.V2, p geom.V3, far bool) {
	t := n.tri[i]
	var q [3]geom.V3
	var w [3]geom.V2
	for k := range q {
		q[k], w[k] = b.m.Points[n.id[t[k]]], n.uv[t[k]]
	}
	side = -1
	most := b.chord
	least := b.chord // sides too short to look at
	if b.turn < maxTurn {
		least = math.Min(b.chord, 1e-3)
	}
	for k := 0; k < 3; k++ {
		if n.adj[i][k] < 0 {
			continue
		}
		a, c := k, (k+1)%3
		mid := w[a].Lerp(w[c], 0.5)
		m := at(mid)
		length := q[a].Dist(q[c])
		if length < least || flatAt(w[a], w[c], w[(k+2)%3]) {
			continue
		}
		d := offChord(m, q[a], q[c])
		if d > most || !far && d > length/8 || !far && b.turns(f, to, w[a], w[c]) { // the second: turns by more than 30 degrees
			side, uv, p, far = k, mid, m, true
			most = math.Max(most, d)
		}
	}
	mid := w[0].Add(w[1]).Add(w[2]).Mul(1.0 / 3)
	normal := q[1].Sub(q[0]).Cross(q[2].Sub(q[0]))
	if l := normal.Len(); l > b.chord*b.chord {
		m := at(mid)
		if d := math.Abs(m.Sub(q[0]).Dot(normal)) / l; d > most {
			return -1, mid, m, true
		}
	}
	return side, uv, p, far
}

// turns tells whether the surface turns by more than was asked for between two
// points of the net.
func (b *builder) turns(f *Face, to plan, u, v geom.V2) bool {
	return b.turn < maxTurn && turned(normal(f.Surface, to.back(u)), normal(f.Surface, to.back(v))) > b.turn
}

// flatAt tells whether c hardly stands off the side a–b, so that a point on
// the side would fall on c.
func flatAt(a, b, c geom.V2) bool {
	d := b.Sub(a)
	return math.Abs(d.Cross(c.Sub(a))) < 1e-6*d.Dot(d)
}
