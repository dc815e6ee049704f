package feature

import (
	"context"
	"fmt"
	"math"
	"sort"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/planar"
	"arete/core/section"
)

// Tolerance is the distance, mm, below which points of a model count as one.
const Tolerance = 1e-6

// Recognise finds the features of a solid given in setup coordinates. Groups
// say what somebody wants to be a feature of its own, or one with another.
func Recognise(ctx context.Context, s *brep.Solid, groups ...Group) (*Set, *section.Shadow, error) {
	r := newRecogniser(s.Facets(section.Chord).View(geom.Identity()), map[int]bool{})
	r.takeEngravings()
	r.takeHoles()
	r.takeChamfers()
	if err := r.cast(); err != nil {
		return nil, nil, err
	}
	if err := r.look(ctx); err != nil {
		return nil, nil, err
	}
	r.takeOutside()
	r.takeWalls()
	r.takeSlopes()
	r.corners()
	if err := r.takeSides(ctx); err != nil {
		return nil, nil, err
	}
	r.takeRounds()
	r.takeFree()
	r.takeRest()
	r.regroup(groups)
	r.takeBosses()
	r.nameThreads()
	r.finish()
	r.neighbours()
	r.set.Patterns = patterns(r.set.Features)
	return r.set, r.shadow, nil
}

// recogniser looks at a solid from +Z.
type recogniser struct {
	s      *brep.View
	set    *Set
	shadow *section.Shadow
	taken  map[int]bool // faces that belong to a feature
	skip   map[int]bool // faces left out of the shadow: inside of holes
	caps   []section.Cap
	index  map[*brep.Face]int
	open   map[float64][]planar.Region

	engravings []engraving
}

func newRecogniser(s *brep.View, taken map[int]bool) *recogniser {
	box := s.Box()
	r := &recogniser{s: s, taken: taken, skip: map[int]bool{}, index: make(map[*brep.Face]int, len(s.Faces)), open: map[float64][]planar.Region{}}
	r.set = &Set{Owner: make([]int, len(s.Faces)), Top: box.Max.Z, Bottom: box.Min.Z}
	for i, f := range s.Faces {
		r.index[f] = i
	}
	return r
}

// cast throws the shadow and finds the outline.
func (r *recogniser) cast() (err error) {
	if r.shadow, err = section.Of(r.s, r.skip, r.caps, planar.DefaultTolerance); err == nil {
		r.set.Outline = filled(r.shadow.Silhouette())
	}
	return err
}

// look finds the floors and openings that are seen.
func (r *recogniser) look(ctx context.Context) error {
	if err := r.takeLevels(ctx); err != nil {
		return err
	}
	r.takeOpenings()
	return nil
}

func (r *recogniser) take(f *Feature) {
	for _, i := range f.Faces {
		r.taken[i] = true
	}
	r.set.Features = append(r.set.Features, f)
}

// takeHoles claims the round holes. Those along Z are covered at their mouth,
// so that levels and pockets are found as if they were not there.
func (r *recogniser) takeHoles() {
	for _, f := range holes(r.s, 1e-3) {
		if r.taken[f.Faces[0]] {
			continue // the round of an engraved letter
		}
		r.placeHole(f)
		if math.Abs(f.Approach.Z) > 1-1e-9 {
			r.cover(f)
		}
		r.take(f)
	}
}

// placeHole tells whether a hole can be reached from the spindle.
func (r *recogniser) placeHole(f *Feature) {
	f.Tool.OK = true
	switch {
	case f.Approach.Z > 1-1e-9:
		f.Reachable = true
	case f.Approach.Z < -1+1e-9 && f.Params.Through:
		f.Reachable = f.Params.Counterbore.Diameter == 0 && f.Params.Countersink.Diameter == 0
		if !f.Reachable {
			f.Why = "its counterbore opens downward: it needs a second setup"
		}
	case f.Approach.Z < -1+1e-9:
		f.Why = "it opens downward: it needs a second setup"
	default:
		f.Why = "its axis is not along the spindle: it needs another setup"
	}
}

// cover leaves the faces of a vertical hole out of the shadow and closes its
// upper mouth, at the lowest level of its rim. Where parts of the rim stand
// higher, beside a slot across the mouth, the segments of the circle behind
// them are closed at their own level.
func (r *recogniser) cover(f *Feature) {
	for _, i := range f.Faces {
		r.skip[i] = true
	}
	p := f.Params
	if f.Approach.Z < 0 && !p.Through {
		return
	}
	top, d := p.Center.Z, math.Max(p.Diameter, math.Max(p.Counterbore.Diameter, p.Countersink.Diameter))
	if f.Approach.Z < 0 { // claimed from below: its upper end
		top, d = p.Center.Z+p.Depth, p.Diameter
	}
	low := top
	for _, i := range f.Faces {
		for _, l := range r.s.Faces[i].Loops {
			for _, c := range l.Coedges {
				if arc, z, ok := r.rim(c, d/2, p.Center.XY()); ok && z > f.Params.FloorZ+1e-3 && (f.Approach.Z > 0) {
					low = math.Min(low, z)
					if z > top-1e-6 {
						segment := append(planar.Loop{}, arc...)
						segment = append(segment, planar.Line(arc[len(arc)-1].B, arc[0].A))
						r.caps = append(r.caps, section.Cap{Region: planar.Normalize(planar.Region{segment}, planar.DefaultTolerance), Z: z})
					}
				}
			}
		}
	}
	r.caps = append(r.caps, section.Cap{Region: planar.Region{planar.Circle(p.Center.XY(), d/2)}, Z: low})
}

// rim returns the edge as an arc counter-clockwise if it is a part, not the
// whole, of the mouth: level, of its radius, with a face beyond that is not
// the hole's.
func (r *recogniser) rim(c *brep.Coedge, radius float64, centre geom.V2) (arc []planar.Segment, z float64, ok bool) {
	k, round := c.Edge.Curve.(brep.Circle)
	m := c.Mate()
	if !round || m == nil || math.Abs(k.F.Z.Z) < 1-1e-9 || math.Abs(k.R-radius) > 1e-4 || k.F.O.XY().Dist(centre) > 1e-4 ||
		r.skip[r.index[m.Face]] || c.Edge.T1-c.Edge.T0 > 2*math.Pi-1e-6 || m.Face.NormalAt(k.At(c.Edge.T0)).Z < 0.5 {
		return nil, 0, false
	}
	a, b := c.Edge.A.P.XY(), c.Edge.B.P.XY()
	if k.F.Z.Z < 0 {
		a, b = b, a
	}
	return planar.Arc(a, b, k.F.O.XY(), 1), k.F.O.Z, true
}

// takeLevels makes a feature of each floor: the piece of the outline that is
// open down to its level around it.
func (r *recogniser) takeLevels(ctx context.Context) error {
	levels, faces := section.Levels(r.s.Solid, r.skip)
	for k, z := range levels {
		if err := ctx.Err(); err != nil {
			return err
		}
		floors := r.floors(faces[k])
		if len(floors) == 0 {
			continue
		}
		for _, part := range r.openAt(z) {
			f := &Feature{Approach: geom.V3{Z: 1}, Reachable: true, Region: part, Bound: planar.Region{part[0]}}
			var own []planar.Region
			for _, fl := range floors {
				if part.Contains(fl.at) {
					f.Faces, own = append(f.Faces, fl.face), append(own, fl.region)
				}
			}
			if len(own) == 0 {
				continue
			}
			f.Floor = planar.UnionAll(own, planar.DefaultTolerance)
			f.Params.FloorZ = z
			f.Params.TopZ = r.topOf(f.Bound, levels[:k])
			r.classify(f)
			r.take(f)
		}
	}
	return nil
}

// floor is a level face that no feature has.
type floor struct {
	face   int
	region planar.Region
	at     geom.V2 // a point inside
}

func (r *recogniser) floors(faces []int) []floor {
	var out []floor
	for _, i := range faces {
		if !r.taken[i] {
			region := section.FaceRegion(r.s, i, planar.DefaultTolerance)
			out = append(out, floor{i, region, region.Within()})
		}
	}
	return out
}

// openAt returns the pieces of the outline that are open down to a level.
func (r *recogniser) openAt(z float64) []planar.Region {
	parts, known := r.open[z]
	if !known {
		parts = planar.Difference(r.set.Outline, r.shadow.Above(z), planar.DefaultTolerance).Parts()
		r.open[z] = parts
	}
	return parts
}

// topOf returns the level at which a region's outer loop opens: the lowest
// level above at which the piece around it is larger.
func (r *recogniser) topOf(bound planar.Region, above []float64) float64 {
	p, area := bound.Within(), bound.Area()
	for k := len(above) - 1; k >= 0; k-- {
		for _, part := range r.openAt(above[k]) {
			outer := planar.Region{part[0]}
			if outer.Contains(p) && outer.Area() > area*(1+1e-6)+1e-3 {
				return above[k]
			}
		}
	}
	return r.set.Top
}

// takeOpenings makes features of the openings that go right through.
func (r *recogniser) takeOpenings() {
	hollow := planar.Difference(r.set.Outline, r.shadow.Silhouette(), planar.DefaultTolerance)
	levels, _ := section.Levels(r.s.Solid, r.skip)
	for _, part := range hollow.Parts() {
		if part.Area() < 1e-3 {
			continue
		}
		f := &Feature{Approach: geom.V3{Z: 1}, Reachable: true, Region: part, Bound: planar.Region{part[0]}}
		f.Params.Through = true
		f.Params.FloorZ = r.set.Bottom
		f.Params.TopZ = r.topOf(f.Bound, levels)
		r.classify(f)
		r.take(f)
	}
}

// takeOutside makes the outside profile.
func (r *recogniser) takeOutside() {
	f := &Feature{Kind: OutsideProfile, Approach: geom.V3{Z: 1}, Reachable: true, Region: r.set.Outline, Bound: r.set.Outline}
	f.Params.FloorZ, f.Params.TopZ = r.set.Bottom, r.set.Top
	f.Params.Through, f.Params.Open = true, true
	f.Params.Length, f.Params.Width = extent(r.set.Outline)
	outlineCorners(f)
	r.set.Features = append(r.set.Features, f)
}

// finish numbers the features in the order of work: from the top down, holes
// after milled features, what is out of reach last.
func (r *recogniser) finish() {
	rank := func(f *Feature) int {
		switch {
		case !f.Reachable && f.Region.Empty():
			return 4
		case f.Kind == OutsideProfile:
			return 1
		case f.Kind == RoundHole:
			return 2
		case f.Kind == Chamfer:
			return 3
		}
		return 0
	}
	fs := r.set.Features
	sort.SliceStable(fs, func(i, j int) bool {
		a, b := fs[i], fs[j]
		if rank(a) != rank(b) {
			return rank(a) < rank(b)
		}
		if a.Kind == RoundHole && a.Params.Diameter != b.Params.Diameter {
			return a.Params.Diameter > b.Params.Diameter
		}
		if math.Abs(a.Params.FloorZ-b.Params.FloorZ) > 1e-6 {
			return a.Params.FloorZ > b.Params.FloorZ
		}
		return before(a, b)
	})
	for i := range r.set.Owner {
		r.set.Owner[i] = -1
	}
	for _, f := range fs {
		if f.Tool == (Access{}) {
			f.Tool = Access{f.Reachable, f.Why}
		}
		if why := f.tooDeep(); why != "" && f.Tool.OK {
			f.Tool = Access{false, why}
		}
	}
	for k, f := range fs {
		f.ID = fmt.Sprintf("F%d", k+1)
		sort.Ints(f.Faces)
		for _, i := range f.Faces {
			if f.Kind != Boss || r.set.Owner[i] < 0 { // its walls are those of the clearing around it
				r.set.Owner[i] = k
			}
		}
	}
}

// before orders features of one level by place.
func before(a, b *Feature) bool {
	p, q := a.Params.Center, b.Params.Center
	if a.Kind != RoundHole && !a.Bound.Empty() && !b.Bound.Empty() {
		p, q = a.Bound.Within().At(0), b.Bound.Within().At(0)
	}
	if math.Abs(p.Y-q.Y) > 1e-6 {
		return p.Y < q.Y
	}
	return p.X < q.X
}

// filled returns the region without its openings.
func filled(r planar.Region) planar.Region {
	var out planar.Region
	for _, l := range r {
		if l.Area() > 0 {
			out = append(out, l)
		}
	}
	return planar.Normalize(out, planar.DefaultTolerance)
}
