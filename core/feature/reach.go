package feature

import (
	"fmt"
	"math"
	"slices"

	"arete/core/geom"
)

// The greatest depths, in diameters, that tools are made for: end mills with a
// relieved neck, and gun drills.
const (
	deepestMill  = 12
	deepestDrill = 50
)

// tooDeep returns why no round tool that fits a feature reaches its floor, ""
// when one does.
func (f *Feature) tooDeep() string {
	p := f.Params
	switch f.Kind {
	case RoundHole:
		if p.Diameter > 0 && p.Depth > deepestDrill*p.Diameter {
			return fmt.Sprintf("too deep for its width: %.4g diameters, drills reach %d", p.Depth/p.Diameter, deepestDrill)
		}
	case ClosedPocket, OpenPocket, Slot:
		d := p.Width
		if p.MinInsideRadius > 0 {
			d = math.Min(d, 2*p.MinInsideRadius)
		}
		if p.Open && p.Through || d <= 0 {
			return ""
		}
		if p.Depth > deepestMill*d {
			return fmt.Sprintf("too deep for its width: a tool of ⌀%.4g would have to reach %.4g diameters, end mills reach %d", d, p.Depth/d, deepestMill)
		}
	}
	return ""
}

// neighbours enters for every feature the features whose faces meet its own,
// and the directions that it can be cut from.
func (r *recogniser) neighbours() {
	fs := r.set.Features
	for i, face := range r.s.Faces {
		for _, l := range face.Loops {
			for _, c := range l.Coedges {
				m := c.Mate()
				if m == nil {
					continue
				}
				a, b := r.set.Owner[i], r.set.Owner[r.index[m.Face]]
				if a >= 0 && b >= 0 && a != b && !slices.Contains(fs[a].Neighbours, fs[b].ID) {
					fs[a].Neighbours = append(fs[a].Neighbours, fs[b].ID)
				}
			}
		}
	}
	for _, f := range fs {
		f.Directions = []geom.V3{f.Approach}
		if p := f.Params; p.Through && (f.Kind != RoundHole || p.Counterbore.Diameter+p.Countersink.Diameter+p.Back.Diameter == 0) {
			f.Directions = append(f.Directions, f.Approach.Mul(-1))
		}
		slices.SortFunc(f.Neighbours, func(a, b string) int { return number(a) - number(b) })
	}
}

func number(id string) (n int) {
	_, _ = fmt.Sscanf(id, "F%d", &n)
	return n
}
