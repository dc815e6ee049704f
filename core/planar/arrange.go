package planar

import (
	"cmp"
	"math"
	"slices"

	"arete/core/geom"
)

// piece is a stretch of boundary between two vertices that no other piece
// crosses. It is stored from the lower vertex number to the higher; w counts
// how often each operand runs along it in that direction.
type piece struct {
	a, b int32
	c    geom.V2
	turn int8
	w    [2]int
}

// arrangement is the plane cut up by all segments of the operands.
type arrangement struct {
	tol    float64
	verts  vertices
	pieces []piece
}

// arrange cuts the segments of up to two operands where they meet.
func arrange(ops [2]Region, tol float64) *arrangement {
	var segs []Segment
	var owner []uint8
	for k, r := range ops {
		for _, l := range r {
			for _, s := range l {
				for _, q := range quadrants(s) {
					segs = append(segs, q)
					owner = append(owner, uint8(k))
				}
			}
		}
	}
	ar := &arrangement{tol: tol, verts: newVertices(tol)}
	cuts := crossAll(segs, tol)
	seen := make(map[[2]int32][]int32, len(segs))
	for i, s := range segs {
		ar.addCut(s, cuts[i], owner[i], seen)
	}
	kept := ar.pieces[:0]
	for _, p := range ar.pieces {
		if p.w != [2]int{} {
			kept = append(kept, p)
		}
	}
	ar.pieces = kept
	return ar
}

// quadrants splits an arc where its tangent is parallel to an axis, so that
// every piece is monotone in x and in y.
func quadrants(s Segment) []Segment {
	if s.Turn == 0 {
		return []Segment{s}
	}
	out := []Segment{s}
	r := s.Radius()
	k0 := int(math.Floor(math.Atan2(s.A.Y-s.C.Y, s.A.X-s.C.X)/(math.Pi/2))) + 8
	for i := 0; i < 4; i++ {
		k := k0 + 1 + i
		if s.Turn < 0 {
			k = k0 - i
		}
		e := s.C.Add(quarter[k&3].Mul(r))
		last := &out[len(out)-1]
		if e.Dist(last.A) < 1e-9*r || e.Dist(last.B) < 1e-9*r || !last.spans(e) {
			continue
		}
		rest := *last
		last.B, rest.A = e, e
		out = append(out, rest)
	}
	return out
}

// addCut turns one segment and the points where others meet it into pieces.
func (ar *arrangement) addCut(s Segment, cuts []geom.V2, owner uint8, seen map[[2]int32][]int32) {
	if len(cuts) == 0 {
		if a, b := ar.verts.id(s.A), ar.verts.id(s.B); a != b {
			ar.addPiece(a, b, s, owner, seen)
		}
		return
	}
	type stop struct {
		at float64
		id int32
	}
	stops := make([]stop, 0, len(cuts)+2)
	along := func(p geom.V2) float64 {
		if s.Turn == 0 {
			return p.Sub(s.A).Dot(s.B.Sub(s.A).Unit())
		}
		u, v := s.A.Sub(s.C), p.Sub(s.C)
		return math.Atan2(u.Cross(v), u.Dot(v)) * float64(s.Turn)
	}
	end := along(s.B)
	stops = append(stops, stop{0, ar.verts.id(s.A)}, stop{end, ar.verts.id(s.B)})
	for _, p := range cuts {
		if t := along(p); t > 0 && t < end {
			stops = append(stops, stop{t, ar.verts.id(p)})
		}
	}
	slices.SortStableFunc(stops, func(a, b stop) int { return cmp.Compare(a.at, b.at) })
	for i := 1; i < len(stops); i++ {
		if stops[i].id != stops[i-1].id {
			ar.addPiece(stops[i-1].id, stops[i].id, s, owner, seen)
		}
	}
}

// addPiece records a piece, or adds to one that runs along the same curve.
func (ar *arrangement) addPiece(a, b int32, s Segment, owner uint8, seen map[[2]int32][]int32) {
	p := piece{a: a, b: b, c: s.C, turn: s.Turn}
	dir := 1
	if a > b {
		p.a, p.b, p.turn, dir = b, a, -s.Turn, -1
	}
	key := [2]int32{p.a, p.b}
	mid := ar.seg(p).At(0.5)
	for _, k := range seen[key] {
		if ar.seg(ar.pieces[k]).At(0.5).Dist(mid) <= 4*ar.tol {
			ar.pieces[k].w[owner] += dir
			return
		}
	}
	p.w[owner] = dir
	seen[key] = append(seen[key], int32(len(ar.pieces)))
	ar.pieces = append(ar.pieces, p)
}

// seg returns the geometry of a piece with its ends at the shared vertices.
func (ar *arrangement) seg(p piece) Segment {
	return Segment{ar.verts.at[p.a], ar.verts.at[p.b], p.c, p.turn}
}

// vertices merges points nearer than tol.
type vertices struct {
	tol  float64
	at   []geom.V2
	cell map[[2]int64][]int32
}

func newVertices(tol float64) vertices {
	return vertices{tol: tol, cell: map[[2]int64][]int32{}}
}

func (v *vertices) id(p geom.V2) int32 {
	w := 4 * v.tol
	x, y := p.X/w, p.Y/w
	fx, fy := math.Floor(x), math.Floor(y)
	kx, ky := int64(fx), int64(fy)
	for i := kx - 1; i <= kx+1; i++ {
		if (i < kx && x-fx > 0.5) || (i > kx && x-fx < 0.5) {
			continue
		}
		for j := ky - 1; j <= ky+1; j++ {
			if (j < ky && y-fy > 0.5) || (j > ky && y-fy < 0.5) {
				continue
			}
			for _, n := range v.cell[[2]int64{i, j}] {
				if v.at[n].Dist(p) <= v.tol*1.5 {
					return n
				}
			}
		}
	}
	n := int32(len(v.at))
	v.at = append(v.at, p)
	v.cell[[2]int64{kx, ky}] = append(v.cell[[2]int64{kx, ky}], n)
	return n
}

// crossAll finds for each segment the points where others meet it. Candidate
// pairs come from a sweep over x with the boxes of the segments.
func crossAll(segs []Segment, tol float64) [][]geom.V2 {
	type entry struct {
		lo, hi geom.V2
		i      int
	}
	es := make([]entry, len(segs))
	for i, s := range segs {
		lo, hi := s.Bounds()
		es[i] = entry{geom.V2{X: lo.X - tol, Y: lo.Y - tol}, geom.V2{X: hi.X + tol, Y: hi.Y + tol}, i}
	}
	slices.SortStableFunc(es, func(a, b entry) int { return cmp.Compare(a.lo.X, b.lo.X) })
	cuts := make([][]geom.V2, len(segs))
	var active []entry
	var buf []geom.V2
	for _, e := range es {
		kept := active[:0]
		for _, f := range active {
			if f.hi.X < e.lo.X {
				continue
			}
			kept = append(kept, f)
			if f.hi.Y < e.lo.Y || f.lo.Y > e.hi.Y {
				continue
			}
			buf = meet(buf[:0], segs[e.i], segs[f.i], tol)
			cuts[e.i] = append(cuts[e.i], buf...)
			cuts[f.i] = append(cuts[f.i], buf...)
		}
		active = append(kept, e)
	}
	return cuts
}
