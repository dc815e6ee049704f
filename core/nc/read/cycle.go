package read

import (
	"math"

	"arete/core/geom"
	"arete/core/motion"
)

// hole expands one block of a cycle, G98: back to the height before.
func (r *reader) hole(axis map[byte]float64) {
	for l, p := range map[byte]*float64{'Z': &r.cycle.z, 'R': &r.cycle.r, 'Q': &r.cycle.q} {
		if v, ok := axis[l]; ok {
			*p = v * r.scale
		}
	}
	c := r.cycle
	if math.IsNaN(c.z) || math.IsNaN(c.r) || c.r < c.z || !r.absolute {
		r.problem("a cycle needs absolute Z and R with R above Z")
		return
	}
	xy := axis
	delete(xy, 'Z')
	to := r.target(xy)
	r.checkFeed()
	high := math.Max(r.initial, c.r)
	if to.X != r.at.X || to.Y != r.at.Y {
		r.emit(motion.Move{Kind: motion.Rapid, To: geom.V3{X: to.X, Y: to.Y, Z: r.at.Z}})
	}
	r.emit(motion.Move{Kind: motion.Rapid, To: geom.V3{X: to.X, Y: to.Y, Z: c.r}})
	down := func(z float64) {
		r.emit(motion.Move{Kind: motion.Line, To: geom.V3{X: to.X, Y: to.Y, Z: z}, Feed: r.feed})
	}
	up := func(z float64) {
		if z == r.at.Z {
			return // a peck shorter than the pull back
		}
		r.emit(motion.Move{Kind: motion.Rapid, To: geom.V3{X: to.X, Y: to.Y, Z: z}})
	}
	if r.motion == 81 {
		down(c.z)
	} else {
		if c.q <= 0 || (c.r-c.z)/c.q > mostPecks {
			r.problem("a peck cycle needs Q")
			return
		}
		for z := c.r; z > c.z; {
			next := math.Max(c.z, z-c.q)
			down(next)
			if next > c.z {
				if r.motion == 83 {
					up(c.r)
				}
				up(math.Min(c.r, next+pullBack))
			}
			z = next
		}
	}
	if r.toR {
		high = c.r
	}
	up(high)
}

// pullBack is how far a control lifts between pecks and stops short of the
// last depth, mm; a setting of the control, not a word.
const pullBack = 0.5
