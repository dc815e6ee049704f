package brep

import (
	"math"

	"arete/core/geom"
)

// maxInside bounds the points added inside one face.
const maxInside = 200_000

// refine adds points inside a face until its triangles keep within the chord
// of the surface. Boundary sides stay as they are: the neighbour has them too.
func (b *builder) refine(n *net, f *Face, scale geom.V2) {
	queue := n.all()
	at := func(uv geom.V2) geom.V3 { return f.Surface.At(geom.V2{X: uv.X / scale.X, Y: uv.Y / scale.Y}) }
	for count := 0; len(queue) > 0 && count < maxInside; {
		i := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		side, uv, p, far := b.worst(n, i, at)
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
func (b *builder) worst(n *net, i int32, at func(geom.V2) geom.V3) (side int, uv geom.V2, p geom.V3, far bool) {
	t := n.tri[i]
	var q [3]geom.V3
	var w [3]geom.V2
	for k := range q {
		q[k], w[k] = b.m.Points[n.id[t[k]]], n.uv[t[k]]
	}
	side = -1
	most := b.chord
	for k := 0; k < 3; k++ {
		if n.adj[i][k] < 0 {
			continue
		}
		a, c := k, (k+1)%3
		mid := w[a].Lerp(w[c], 0.5)
		m := at(mid)
		length := q[a].Dist(q[c])
		if length < b.chord {
			continue
		}
		d := offChord(m, q[a], q[c])
		if d > most || !far && d > length/8 { // the second: turns by more than 30 degrees
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
