package feature

import (
	"context"
	"math"
	"runtime"

	"arete/core/brep"
	"arete/core/geom"
	"golang.org/x/sync/errgroup"
)

// BestUp returns the direction that should point to the spindle first: the
// one from which most is made, lying as flat as possible, where the model's
// own +Z counts as best when it comes near.
func BestUp(ctx context.Context, s *brep.Solid) (geom.V3, error) {
	const own = 0.6 // how much of the best is near: models are mostly drawn as they lie
	facets := s.Facets(roughChord)
	all := upCandidates(facets.View(geom.Identity()))
	worths := make([]float64, len(all))
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i, d := range all {
		g.Go(func() (err error) {
			worths[i], err = worth(ctx, facets, d)
			return err
		})
	}
	if err := g.Wait(); err != nil {
		return geom.V3{Z: 1}, err
	}
	best, most := geom.V3{Z: 1}, 0.0
	if liesFlat(s) {
		most = worths[0] / own
	}
	for i, w := range worths[1:] {
		if w > most*(1+1e-6) {
			best, most = all[i+1], w
		}
	}
	return best, nil
}

// liesFlat tells whether a planar face of the model is level.
func liesFlat(s *brep.Solid) bool {
	for _, f := range s.Faces {
		if p, ok := f.Surface.(brep.Plane); ok && math.Abs(p.F.Z.Z) > 1-1e-9 {
			return true
		}
	}
	return false
}

// upCandidates returns +Z, the other main axes and the directions that large
// planar faces look to.
func upCandidates(s *brep.View) []geom.V3 {
	out := []geom.V3{{Z: 1}}
	known := func(d geom.V3) bool {
		for _, o := range out {
			if o.Dot(d) > 1-1e-9 {
				return true
			}
		}
		return false
	}
	total := 0.0
	area := map[int]float64{}
	for i, f := range s.Faces {
		if _, ok := f.Surface.(brep.Plane); ok {
			area[i] = s.Area(i)
			total += area[i]
		}
	}
	for i, f := range s.Faces {
		p, ok := f.Surface.(brep.Plane)
		if !ok || area[i] < 0.05*total {
			continue
		}
		if n := f.NormalAt(p.F.O); !known(n) {
			out = append(out, n)
		}
	}
	for _, d := range [5]geom.V3{{Z: -1}, {X: 1}, {X: -1}, {Y: 1}, {Y: -1}} {
		if len(out) < 3 && !known(d) {
			out = append(out, d)
		}
	}
	return out[:min(len(out), 12)]
}

// worth weighs a direction: the area of the faces of pockets, slots, steps,
// holes and chamfers that tools from d make; half of what looks up to d
// otherwise; a quarter of the shadow, since low parts are held better; little
// of the planar faces, which any side can have.
func worth(ctx context.Context, facets *brep.Facets, d geom.V3) (float64, error) {
	view := sideView(d)
	if d.Z > 1-1e-12 {
		view = geom.Identity()
	}
	s := facets.View(view)
	r := newRecogniser(s, map[int]bool{})
	r.takeHoles()
	r.takeChamfers()
	if err := r.cast(); err != nil {
		return 0, err
	}
	if err := r.look(ctx); err != nil {
		return 0, err
	}
	r.takeOutside()
	r.takeWalls()
	r.takeSlopes()
	sum := 0.25 * math.Abs(r.set.Outline.Area())
	for _, f := range r.set.Features {
		weight := 1.0
		switch {
		case !f.Reachable && f.Why != sharpCorner, f.Kind == OutsideProfile:
			continue
		case f.Kind == PlanarFace:
			weight = 0.05
		}
		for _, i := range f.Faces {
			sum += weight * s.Area(i)
		}
	}
	for i, f := range s.Faces {
		if !r.taken[i] {
			sum += 0.5 * s.Area(i) * math.Max(0, meanNormal(f).Z)
		}
	}
	return sum, nil
}

// meanNormal returns the mean of the normals at the middles of the edges.
func meanNormal(f *brep.Face) geom.V3 {
	var sum geom.V3
	n := 0.0
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			p, _ := c.Edge.Mid()
			sum = sum.Add(f.NormalAt(p))
			n++
		}
	}
	return sum.Mul(1 / math.Max(1, n))
}
