package fitting

import (
	"math"

	"arete/core/geom"
)

// cones joins strips to cones, after the cylinders. The axis is that of a round
// face beside them, or of the circle along which they meet a plane; the corners
// of one strip then tell the slope.
func (n *net) cones() {
	near := n.neighbours()
	taken := make([]bool, len(n.all))
	for i, r := range n.all {
		taken[i] = r.round != nil || len(r.tris) == 0
	}
	tried := make([]bool, len(n.all))
	for j := range n.all {
		if taken[j] || tried[j] || len(near[j]) == 0 {
			continue
		}
		cluster := n.cluster(j, near, taken)
		for _, k := range cluster {
			tried[k] = true
		}
		if len(cluster) < leastStrips {
			continue
		}
		for _, axis := range n.axesBeside(cluster) {
			for _, k := range cluster {
				c, ok := n.coned(k, axis)
				if taken[k] || !ok {
					continue
				}
				if strips := n.grow(k, c, near, taken); len(strips) >= leastStrips {
					for _, s := range strips {
						taken[s] = true
					}
					n.join(run{strips, c})
				}
			}
		}
	}
}

// cluster returns the regions that hang together with the seed by small turns.
func (n *net) cluster(seed int, near [][]int, taken []bool) []int {
	out, in := []int{seed}, map[int]bool{seed: true}
	for k := 0; k < len(out); k++ {
		for _, j := range near[out[k]] {
			if !in[j] && !taken[j] {
				in[j] = true
				out = append(out, j)
			}
		}
	}
	return out
}

// axesBeside returns frames along the axes that a cluster may turn about.
func (n *net) axesBeside(cluster []int) []geom.Frame {
	in := map[int32]bool{}
	for _, k := range cluster {
		in[int32(k)] = true
	}
	var out []geom.Frame
	rim := map[int32][]geom.V3{} // points shared with a plane
	var planes []int32
	add := func(f geom.Frame) {
		for _, g := range out {
			if math.Abs(g.Z.Dot(f.Z)) > 1-1e-9 && g.ToLocal(f.O).XY().Len() < tolerance {
				return
			}
		}
		out = append(out, f)
	}
	for _, k := range cluster {
		for _, t := range n.all[k].tris {
			for s, u := range n.across[t] {
				switch q := n.of[u]; {
				case in[q]:
				case n.all[q].round != nil:
					add(n.all[q].round.axis)
				default:
					if rim[q] == nil {
						planes = append(planes, q)
					}
					rim[q] = append(rim[q], n.m.Points[n.m.Tris[t][s]])
				}
			}
		}
	}
	for _, q := range planes {
		if f, ok := circleAxis(rim[q], n.all[q].normal); ok {
			add(f)
		}
	}
	return out
}

// circleAxis returns the axis of the circle that all points in a plane lie on.
func circleAxis(pts []geom.V3, normal geom.V3) (geom.Frame, bool) {
	if len(pts) < 6 {
		return geom.Frame{}, false
	}
	f := geom.NewFrame(pts[0], normal, normal.Perpendicular())
	at := func(i int) geom.V2 { return f.ToLocal(pts[i]).XY() }
	c, ok := circleThrough(at(0), at(len(pts)/3), at(2*len(pts)/3))
	if !ok {
		return f, false
	}
	r := c.Dist(at(0))
	for i := range pts {
		if math.Abs(at(i).Dist(c)-r) > tolerance {
			return f, false
		}
	}
	f.O = f.ToWorld(c.At(0))
	return f, true
}

// coned returns the cone about an axis on which the corners of a region lie.
func (n *net) coned(k int, axis geom.Frame) (*round, bool) {
	lo, hi := geom.V2{X: math.Inf(1)}, geom.V2{X: math.Inf(-1)} // height and radius
	for _, t := range n.all[k].tris {
		for _, v := range n.m.Tris[t] {
			q := axis.ToLocal(n.m.Points[v])
			p := geom.V2{X: q.Z, Y: q.XY().Len()}
			if p.X < lo.X {
				lo = p
			}
			if p.X > hi.X {
				hi = p
			}
		}
	}
	if hi.X-lo.X < 10*tolerance {
		return nil, false
	}
	f := axis
	f.O = axis.ToWorld(geom.V3{Z: (lo.X + hi.X) / 2})
	c := &round{f, (lo.Y + hi.Y) / 2, math.Atan2(hi.Y-lo.Y, hi.X-lo.X)}
	if c.half < 0 { // z runs from the tip
		c.axis = geom.NewFrame(f.O, f.Z.Mul(-1), f.X)
		c.half = -c.half
	}
	return c, c.half > 0.02 && n.lies(k, c)
}
