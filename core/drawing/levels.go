package drawing

import (
	"fmt"
	"sort"

	"arete/core/geom"
	"arete/core/planar"
)

// Level tells how the chains of a layer are made, or one of them alone: from
// top down by depth, mm.
type Level struct {
	Layer string  `json:"layer"`
	Chain int     `json:"chain,omitempty"` // from 1 in the order of the layer's chains; 0 for all without a level of their own
	Top   float64 `json:"top"`
	Depth float64 `json:"depth"`
	Off   bool    `json:"off,omitempty"` // not made
}

// Thickness is what a part is thick of which only the outline is known, mm.
const Thickness = 10

// DefaultLevels gives every layer with closed chains a level: the thickness,
// so that all but the outline goes right through.
func DefaultLevels(chains []Chain) []Level {
	var out []Level
	seen := map[string]bool{}
	for _, c := range chains {
		if !seen[c.Layer] {
			seen[c.Layer] = true
			out = append(out, Level{Layer: c.Layer, Depth: Thickness})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Layer < out[j].Layer })
	return out
}

// Place is where a chain is in a drawing: the how-manieth of its layer, from 1.
type Place struct {
	Layer string
	Chain int
}

// Places lists the places of chains.
func Places(chains []Chain) []Place {
	out := make([]Place, len(chains))
	count := map[string]int{}
	for i, c := range chains {
		count[c.Layer]++
		out[i] = Place{c.Layer, count[c.Layer]}
	}
	return out
}

// At finds the chain that runs through a point, to within a hundredth of a mm.
func At(chains []Chain, p geom.V2) (Place, bool) {
	for i, c := range chains {
		if _, _, d := c.Loop.Nearest(p); d < 0.01 {
			return Places(chains)[i], true
		}
	}
	return Place{}, false
}

// OutlineOnly switches all layers off but that of the largest chain.
func OutlineOnly(chains []Chain, levels []Level) {
	largest := chains[0]
	for _, c := range chains[1:] {
		if c.Loop.Area() > largest.Loop.Area() {
			largest = c
		}
	}
	for i := range levels {
		levels[i].Off = levels[i].Layer != largest.Layer
	}
}

// Problem says why a drawing makes no part and what to do.
type Problem struct{ Say string }

func (p Problem) Error() string { return p.Say }

func problem(format string, args ...any) error { return Problem{fmt.Sprintf(format, args...)} }

// node is a chain in the tree of chains in chains.
type node struct {
	Chain
	lo, hi  geom.V2 // the box around it
	level   Level
	own     bool    // its level is for it alone
	ground  float64 // the level inside it
	through bool    // nothing is inside it
	parent  *node
	kids    []*node
}

// maxChains bounds the chains of a part: each is held against each.
const maxChains = 5000

// touching is how near, mm, chains may come to each other.
const touching = 1e-3

// tree sorts the chains of layers that are made by what they lie in, and
// returns the outlines.
func tree(chains []Chain, levels []Level) ([]*node, error) {
	of := map[Place]Level{}
	for _, l := range levels {
		of[Place{l.Layer, l.Chain}] = l
	}
	var all, roots []*node
	places := Places(chains)
	for i, c := range chains {
		l, own := of[places[i]]
		ok := own
		if !own {
			l, ok = of[Place{c.Layer, 0}]
		}
		if ok && !l.Off {
			n := &node{Chain: c, level: l, own: own}
			n.lo, n.hi = planar.Region{c.Loop}.Bounds()
			all = append(all, n)
		}
	}
	if len(all) > maxChains {
		return nil, problem("the drawing has %d closed chains, more than %d: switch layers off that are not cut", len(all), maxChains)
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].Loop.Area() > all[j].Loop.Area() })
	for i, n := range all {
		for k := i - 1; k >= 0; k-- { // from the smallest that is larger
			o := all[k]
			if n.lo.X > o.hi.X+touching || n.hi.X < o.lo.X-touching || n.lo.Y > o.hi.Y+touching || n.hi.Y < o.lo.Y-touching {
				continue
			}
			if p, near := planar.Touch(n.Loop, o.Loop, touching); near {
				return nil, problem("chains of the layers %s and %s touch or cross near X%.3f Y%.3f: each must lie inside or outside the other; leave one layer out, or mend the drawing", o.Layer, n.Layer, p.X, p.Y)
			}
			if n.parent == nil && (planar.Region{o.Loop}).Contains(n.Loop[0].A) {
				n.parent = o
			}
		}
		if n.parent == nil {
			roots = append(roots, n)
		} else {
			n.parent.kids = append(n.parent.kids, n)
		}
	}
	if len(roots) == 0 {
		return nil, problem("no layer with a closed chain is made: switch on the one with the outline")
	}
	return roots, nil
}

// settle finds the level inside every chain below an outline. A chain on the
// layer of the one around it restores what is outside that one: an island. What
// lies in an opening is dropped.
func (n *node) settle(bottom float64) error {
	switch p := n.parent; {
	case p == nil:
		n.ground = n.level.Top
		if n.level.Depth <= 0 {
			return problem("layer %s bounds the part: its depth is the thickness and must be more than 0", n.Layer)
		}
	case p.parent != nil && p.Layer == n.Layer && !n.own:
		n.ground, n.through = p.parent.ground, p.parent.through
	case n.level.Depth < 0:
		return problem("layer %s: a depth is 0 or more, counted down from the top", n.Layer)
	default:
		n.ground = n.level.Top - n.level.Depth
		n.through = n.ground <= bottom+touching
	}
	kids := n.kids
	n.kids = nil
	for _, k := range kids {
		if err := k.settle(bottom); err != nil {
			return err
		}
		switch {
		case n.through:
		case !k.through && k.ground-n.ground < touching && n.ground-k.ground < touching: // no wall between
			n.kids = append(n.kids, k.kids...)
		default:
			n.kids = append(n.kids, k)
		}
	}
	return nil
}
