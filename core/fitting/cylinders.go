package fitting

import (
	"cmp"
	"math"
	"slices"

	"arete/core/geom"
)

// A run of strips is a cylinder when it has at least leastStrips, each turned
// from the one before by no more than most degrees: a shaft with eight flats is
// not one.
const (
	leastStrips = 3
	most        = 35 * math.Pi / 180
)

// run is a set of strips that lie on one cylinder.
type run struct {
	strips []int
	c      *round
}

// cylinders joins strips to cylinders. The longest runs come first: a flat wall
// between two equal rounds lies with one strip of each on a wide cylinder too,
// but each round has more strips of its own.
func (n *net) cylinders() {
	near := n.neighbours()
	taken := make([]bool, len(n.all))
	for _, r := range n.runs(near, taken) {
		if taken[r.strips[0]] {
			continue
		}
		r.strips = n.grown(r.strips[0], r.c, near, taken)
		if len(r.strips) < leastStrips || !n.even(r) {
			continue
		}
		for _, k := range r.strips {
			taken[k] = true
		}
		n.join(r)
	}
}

// runs finds the run of every pair of neighbours that could begin one, longest
// and then tightest first.
func (n *net) runs(near [][]int, taken []bool) []run {
	var out []run
	known := map[[2]int]bool{}
	for i := range n.all {
		for _, j := range near[i] {
			if j < i || known[[2]int{i, j}] {
				continue
			}
			c, ok := n.through(i, j)
			if !ok {
				continue
			}
			strips := n.grown(i, c, near, taken)
			if len(strips) < leastStrips {
				continue
			}
			out = append(out, run{strips, c})
			if len(strips) > leastStrips { // its other pairs would find it again
				in := map[int]bool{}
				for _, k := range strips {
					in[k] = true
				}
				for _, k := range strips {
					for _, l := range near[k] {
						known[[2]int{k, l}] = known[[2]int{k, l}] || in[l]
					}
				}
			}
		}
	}
	slices.SortStableFunc(out, func(a, b run) int {
		if len(a.strips) != len(b.strips) {
			return len(b.strips) - len(a.strips)
		}
		return cmp.Compare(a.c.r, b.c.r)
	})
	return out
}

// even tells whether no strip is much wider than most: mesh writers divide a
// round evenly.
func (n *net) even(r run) bool {
	const wider = 6
	var widths []float64
	for _, k := range r.strips {
		if p := n.spread(n.all[k], r.c.axis); len(p) == 2 {
			widths = append(widths, p[0].Dist(p[1]))
		}
	}
	slices.Sort(widths)
	return len(widths) > 0 && widths[len(widths)-1] < wider*widths[len(widths)/2]
}

// join makes one region of a run.
func (n *net) join(r run) {
	first := n.all[r.strips[0]]
	for _, k := range r.strips[1:] {
		first.tris = append(first.tris, n.all[k].tris...)
		n.all[k].tris = nil
	}
	first.round = r.c
	for _, t := range first.tris {
		n.of[t] = int32(r.strips[0])
	}
}

// neighbours lists for each region those beside it that lean by less than
// most.
func (n *net) neighbours() [][]int {
	out := make([][]int, len(n.all))
	seen := map[[2]int32]bool{}
	for t, sides := range n.across {
		for _, u := range sides {
			a, b := n.of[t], n.of[u]
			if a == b || seen[[2]int32{a, b}] {
				continue
			}
			seen[[2]int32{a, b}] = true
			if n.all[a].normal.Dot(n.all[b].normal) > math.Cos(most) {
				out[a] = append(out[a], int(b))
			}
		}
	}
	return out
}

// through returns the cylinder on which all corners of two strips lie.
func (n *net) through(i, j int) (*round, bool) {
	a, b := n.all[i], n.all[j]
	axis := a.normal.Cross(b.normal)
	if axis.Len() < 1e-4 {
		return nil, false
	}
	axis = squared(axis.Unit())
	f := geom.NewFrame(a.at, axis, a.normal)
	p, q := n.spread(a, f), n.spread(b, f)
	if len(p) != 2 || len(q) != 2 {
		return nil, false
	}
	var pts []geom.V2
	for _, v := range append(p, q...) {
		known := false
		for _, w := range pts {
			known = known || v.Dist(w) < 4*tolerance
		}
		if !known {
			pts = append(pts, v)
		}
	}
	if len(pts) != 3 {
		return nil, false
	}
	centre, ok := circleThrough(pts[0], pts[1], pts[2])
	if !ok {
		return nil, false
	}
	f.O = f.ToWorld(centre.At(0))
	return &round{axis: f, r: centre.Dist(pts[0])}, true
}

// spread returns the distinct places of a region's corners seen along an axis,
// at most three.
func (n *net) spread(r *region, f geom.Frame) []geom.V2 {
	var out []geom.V2
	for _, t := range r.tris {
		for _, v := range n.m.Tris[t] {
			p := f.ToLocal(n.m.Points[v]).XY()
			known := false
			for _, q := range out {
				known = known || p.Dist(q) < 4*tolerance
			}
			if !known {
				if out = append(out, p); len(out) > 2 {
					return out
				}
			}
		}
	}
	return out
}

// circleThrough returns the centre of the circle through three points.
func circleThrough(a, b, c geom.V2) (geom.V2, bool) {
	u, v := b.Sub(a), c.Sub(a)
	d := 2 * u.Cross(v)
	if math.Abs(d) < 1e-9*u.Len()*v.Len() {
		return geom.V2{}, false
	}
	uu, vv := u.Dot(u), v.Dot(v)
	return a.Add(geom.V2{X: (v.Y*uu - u.Y*vv) / d, Y: (u.X*vv - v.X*uu) / d}), true
}

// grown grows a run and fits the cylinder to it until it grows no more: two
// short strips alone tell the radius roughly.
func (n *net) grown(seed int, c *round, near [][]int, taken []bool) []int {
	strips := n.grow(seed, c, near, taken)
	for had := 0; len(strips) >= leastStrips && len(strips) > had; {
		had = len(strips)
		n.refine(c, strips)
		strips = n.grow(seed, c, near, taken)
	}
	return strips
}

// grow returns the strips around seed that lie on the cylinder.
func (n *net) grow(seed int, c *round, near [][]int, taken []bool) []int {
	run := []int{seed}
	in := map[int]bool{seed: true}
	side := n.outward(seed, c)
	for k := 0; k < len(run); k++ {
		for _, j := range near[run[k]] {
			if !in[j] && !taken[j] && n.lies(j, c) && n.outward(j, c) == side {
				in[j] = true
				run = append(run, j)
			}
		}
	}
	return run
}

// outward tells whether a strip's material lies towards the axis.
func (n *net) outward(i int, c *round) bool {
	r := n.all[i]
	t := n.m.Tris[r.tris[0]]
	p := c.axis.ToLocal(n.m.Points[t[0]].Add(n.m.Points[t[1]]).Add(n.m.Points[t[2]]).Mul(1. / 3))
	p.Z = 0
	return c.axis.Turn(p).Dot(r.normal) > 0
}

// lies tells whether all corners of a region are on the cylinder or cone, and
// the region itself is along it: triangles between odd corners lean a little.
func (n *net) lies(i int, c *round) bool {
	r, lean := n.all[i], math.Sin(c.half)
	if n.outward(i, c) {
		lean = -lean
	}
	if math.Abs(r.normal.Dot(c.axis.Z)-lean) > 0.25 {
		return false
	}
	for _, t := range r.tris {
		for _, v := range n.m.Tris[t] {
			if c.off(n.m.Points[v]) > tolerance+1e-5*c.r {
				return false
			}
		}
	}
	return true
}

// refine fits centre and radius to all corners of a run by least squares
// (Kåsa 1976: the circle x² + y² + ax + by + c = 0 is linear in a, b, c).
func (n *net) refine(c *round, run []int) {
	var s [3][4]float64 // normal equations
	for _, k := range run {
		for _, t := range n.all[k].tris {
			for _, v := range n.m.Tris[t] {
				p := c.axis.ToLocal(n.m.Points[v])
				row := [3]float64{p.X, p.Y, 1}
				for i := range 3 {
					for j := range 3 {
						s[i][j] += row[i] * row[j]
					}
					s[i][3] -= row[i] * (p.X*p.X + p.Y*p.Y)
				}
			}
		}
	}
	x, ok := solve(s)
	if !ok {
		return
	}
	r2 := (x[0]*x[0]+x[1]*x[1])/4 - x[2]
	if r2 <= 0 || math.Abs(math.Sqrt(r2)-c.r) > tolerance+0.01*c.r {
		return
	}
	c.axis.O = c.axis.ToWorld(geom.V3{X: -x[0] / 2, Y: -x[1] / 2})
	c.r = math.Sqrt(r2)
	if round := math.Round(c.r*1e3) / 1e3; math.Abs(round-c.r) < 1e-5+1e-6*c.r { // only single precision kept it off
		c.r = round
	}
}

// solve eliminates with pivots.
func solve(s [3][4]float64) (x [3]float64, ok bool) {
	for i := range 3 {
		p := i
		for k := i + 1; k < 3; k++ {
			if math.Abs(s[k][i]) > math.Abs(s[p][i]) {
				p = k
			}
		}
		s[i], s[p] = s[p], s[i]
		if math.Abs(s[i][i]) < 1e-12 {
			return x, false
		}
		for k := range 3 {
			if k != i {
				f := s[k][i] / s[i][i]
				for j := i; j < 4; j++ {
					s[k][j] -= f * s[i][j]
				}
			}
		}
	}
	for i := range 3 {
		x[i] = s[i][3] / s[i][i]
	}
	return x, true
}
