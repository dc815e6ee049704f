package planar

import (
	"errors"
	"math"

	"arete/core/geom"
)

// DefaultTolerance is a good tolerance for parts between 1 mm and 10 m:
// a hundred times finer than a control's resolution, a thousand times coarser
// than the rounding of the coordinates.
const DefaultTolerance = 1e-7

// errOpen says that the kept pieces did not close to loops.
var errOpen = errors.New("planar: boundary does not close")

// Union returns what is in a or in b.
func Union(a, b Region, tol float64) Region {
	return combine(a, b, tol, func(a, b int) bool { return a > 0 || b > 0 })
}

// UnionAll returns what is in any of the regions.
func UnionAll(rs []Region, tol float64) Region {
	var all Region
	for _, r := range rs {
		all = append(all, r...)
	}
	return combine(all, nil, tol, func(a, _ int) bool { return a > 0 })
}

// Difference returns what is in a but not in b.
func Difference(a, b Region, tol float64) Region {
	return combine(a, b, tol, func(a, b int) bool { return a > 0 && b <= 0 })
}

// Intersection returns what is in both.
func Intersection(a, b Region, tol float64) Region {
	return combine(a, b, tol, func(a, b int) bool { return a > 0 && b > 0 })
}

// Normalize returns the region of positive winding of loops that may cross
// each other and themselves.
func Normalize(r Region, tol float64) Region { return UnionAll([]Region{r}, tol) }

// combine builds the region in which the rule holds for the winding numbers.
// Should rounding leave the boundary open, the same is tried turned by a few
// angles and with a wider tolerance; the last try closes what it can.
func combine(a, b Region, tol float64, inside func(a, b int) bool) Region {
	if len(a) == 0 && len(b) == 0 {
		return nil
	}
	for try := 0; ; try++ {
		angle := 0.37 * float64(try)
		out, err := combineTurned(a, b, tol*math.Pow(2, float64(try)), angle, inside, try == 5)
		if err == nil {
			return out
		}
	}
}

func combineTurned(a, b Region, tol, angle float64, inside func(a, b int) bool, force bool) (Region, error) {
	ops := [2]Region{a, b}
	if angle != 0 {
		ops = [2]Region{a.turned(angle), b.turned(angle)}
	}
	ar := arrange(ops, tol)
	left, right := ar.sides()
	var kept []Segment
	var ids [][2]int32
	for i, p := range ar.pieces {
		l, r := inside(left[i][0], left[i][1]), inside(right[i][0], right[i][1])
		if l == r {
			continue
		}
		s, id := ar.seg(p), [2]int32{p.a, p.b}
		if r {
			s, id = s.Reverse(), [2]int32{p.b, p.a}
		}
		kept = append(kept, s)
		ids = append(ids, id)
	}
	out, err := chain(kept, ids, force)
	if err != nil {
		return nil, err
	}
	out = out.tidy(tol)
	if angle != 0 {
		out = out.turned(-angle)
	}
	return out, nil
}

// turned rotates the region about the origin.
func (r Region) turned(angle float64) Region {
	sin, cos := math.Sincos(angle)
	return r.Map(func(p geom.V2) geom.V2 { return p.Rotate(cos, sin) })
}

// Map moves every point by a motion that keeps lengths and orientation.
func (r Region) Map(f func(geom.V2) geom.V2) Region {
	out := make(Region, len(r))
	for i, l := range r {
		out[i] = make(Loop, len(l))
		for j, s := range l {
			out[i][j] = Segment{f(s.A), f(s.B), f(s.C), s.Turn}
		}
	}
	return out
}

// chain joins directed pieces to loops. Where several leave a vertex the one
// that turns most to the left is taken, so that loops touch but do not cross.
func chain(segs []Segment, ids [][2]int32, force bool) (Region, error) {
	from := map[int32][]int{}
	degree := map[int32]int{}
	for i, id := range ids {
		from[id[0]] = append(from[id[0]], i)
		degree[id[0]]++
		degree[id[1]]--
	}
	open := false
	for _, d := range degree {
		open = open || d != 0
	}
	if open && !force {
		return nil, errOpen
	}
	used := make([]bool, len(segs))
	var out Region
	for i := range segs {
		if used[i] {
			continue
		}
		l, closed := follow(i, segs, ids, from, used)
		if !closed { // only when forced: close the gap if it is one of rounding
			gap := Line(l[len(l)-1].B, l[0].A)
			if gap.Len() > 1e-3 {
				continue
			}
			l = append(l, gap)
		}
		out = append(out, l)
	}
	return out, nil
}

func follow(start int, segs []Segment, ids [][2]int32, from map[int32][]int, used []bool) (Loop, bool) {
	var l Loop
	for i := start; ; {
		used[i] = true
		l = append(l, segs[i])
		if ids[i][1] == ids[start][0] {
			return l, true
		}
		next := -1
		for _, j := range from[ids[i][1]] {
			if !used[j] && (next < 0 || lefter(segs[i], segs[j], segs[next])) {
				next = j
			}
		}
		if next < 0 {
			return l, false
		}
		i = next
	}
}

// lefter tells whether, coming along s, t turns more to the left than u.
func lefter(s, t, u Segment) bool {
	d := s.TangentB()
	at := func(x Segment) float64 { e := x.TangentA(); return math.Atan2(d.Cross(e), d.Dot(e)) }
	a, b := at(t), at(u)
	if math.Abs(a-b) > 1e-6 {
		return a > b
	}
	return t.Curvature() > u.Curvature()
}
