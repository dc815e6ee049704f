package feature

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"sort"
	"sync"

	"arete/core/brep"
	"arete/core/geom"
)

// roughChord is the chord, mm, of the shadows of sides that are not cut now.
const roughChord = 0.05

// takeSides looks at the part from the other sides, for the faces that are
// not seen from the spindle: from where planar faces look to, largest first,
// and along the main axes for openings.
func (r *recogniser) takeSides(ctx context.Context) error {
	facets := r.s.Facets(roughChord)
	holes := r.set.Features[:0:0]
	for _, f := range r.set.Features {
		if f.Kind == RoundHole {
			holes = append(holes, f)
		}
	}
	dirs := r.sides()
	sights := make([]func() (*recogniser, error), len(dirs))
	for i, d := range dirs {
		sights[i] = sync.OnceValues(func() (*recogniser, error) { return r.sight(facets, holes, d) })
	}
	var ahead sync.WaitGroup
	defer ahead.Wait()
	for i, d := range dirs {
		if err := ctx.Err(); err != nil {
			return err
		}
		if !r.worthALook(d) {
			continue
		}
		for k := i + 1; k < min(len(dirs), i+runtime.GOMAXPROCS(0)); k++ {
			if r.worthALook(dirs[k]) { // likely to be needed next
				ahead.Go(func() { _, _ = sights[k]() })
			}
		}
		side, err := sights[i]()
		if err != nil {
			return err
		}
		if err := r.lookFrom(ctx, side, d); err != nil {
			return err
		}
	}
	return nil
}

// sideView lies with d up.
func sideView(d geom.V3) geom.Frame { return geom.NewFrame(geom.V3{}, d, d.Perpendicular()) }

// sight prepares to look from d: it casts the shadow, with the mouths of holes
// along d covered.
func (r *recogniser) sight(facets *brep.Facets, holes []*Feature, d geom.V3) (*recogniser, error) {
	view := sideView(d)
	side := newRecogniser(facets.View(view), r.taken)
	for _, f := range holes {
		if math.Abs(f.Approach.Dot(d)) < 1-1e-9 {
			continue
		}
		g := *f
		g.Approach, g.Params.Center = view.TurnLocal(f.Approach), view.ToLocal(f.Params.Center)
		side.cover(&g)
	}
	for _, e := range r.engravings {
		if e.f.Approach.Dot(d) > 1-1e-9 {
			side.coverMarks(e.f.Faces, e.region, e.f.Params.TopZ)
		}
	}
	return side, side.cast()
}

// sides returns the directions to look from: the normals of planar faces that
// are left, by area, then the main axes, then along the edges between faces
// that are left, which may be the walls of an opening.
func (r *recogniser) sides() []geom.V3 {
	type side struct {
		d    geom.V3
		area float64
	}
	var all []side
	for i, f := range r.s.Faces {
		p, ok := f.Surface.(brep.Plane)
		if !ok || r.taken[i] {
			continue
		}
		n, known := f.NormalAt(p.F.O), false
		for k := range all {
			if all[k].d.Dot(n) > 1-1e-9 {
				all[k].area += r.s.Area(i)
				known = true
			}
		}
		if !known {
			all = append(all, side{n, r.s.Area(i)})
		}
	}
	sort.SliceStable(all, func(a, b int) bool { return all[a].area > all[b].area*(1+1e-9) })
	var out []geom.V3
	add := func(d geom.V3) {
		for _, o := range out {
			if o.Dot(d) > 1-1e-9 {
				return
			}
		}
		out = append(out, d)
	}
	const most = 24
	for _, s := range all[:min(len(all), most)] {
		add(s.d)
	}
	for _, d := range [5]geom.V3{{Z: -1}, {X: 1}, {X: -1}, {Y: 1}, {Y: -1}} {
		add(d)
	}
	for _, e := range r.s.Edges {
		if _, straight := e.Curve.(brep.Line); !straight || len(e.Uses) != 2 || len(out) > 2*most {
			continue
		}
		if !r.taken[r.index[e.Uses[0].Face]] && !r.taken[r.index[e.Uses[1].Face]] {
			d := e.Curve.Tangent(0)
			add(d)
			add(d.Mul(-1))
		}
	}
	return out
}

// worthALook tells whether a face is left that looks along d, or a pair of
// walls along it that may be an opening's.
func (r *recogniser) worthALook(d geom.V3) bool {
	if d.Z > 1-1e-9 {
		return false
	}
	walls := 0
	for i, f := range r.s.Faces {
		if r.taken[i] {
			continue
		}
		switch s := f.Surface.(type) {
		case brep.Plane:
			n := f.NormalAt(s.F.O).Dot(d)
			if n > 1-1e-9 {
				return true
			}
			if math.Abs(n) < 1e-9 {
				walls++
			}
		case brep.Cylinder:
			if !f.Same && math.Abs(s.F.Z.Dot(d)) > 1-1e-9 {
				walls++
			}
		}
	}
	return walls > 1
}

// lookFrom takes the features that are seen from d and hold a face that is
// left. Their levels are along d, their regions are not kept: they belong to
// another setup.
func (r *recogniser) lookFrom(ctx context.Context, side *recogniser, d geom.V3) error {
	view := sideView(d)
	side.takeChamfers()
	if err := side.look(ctx); err != nil {
		return err
	}
	side.takeWalls()
	side.takeSlopes()
	for _, f := range side.set.Features {
		if len(f.Faces) == 0 {
			continue
		}
		f.Tool = Access{f.Reachable, f.Why}
		f.Approach = d
		f.Params.Center = view.ToWorld(f.Params.Center)
		f.Region, f.Floor, f.Bound, f.Edge.Rim = nil, nil, nil, nil
		f.Reachable, f.Why = false, "it is cut from "+Toward(d)+": it needs another setup"
		r.set.Features = append(r.set.Features, f)
	}
	return nil
}

// Toward names a direction: an axis where it is one.
func Toward(d geom.V3) string {
	for _, a := range []struct {
		name string
		d    geom.V3
	}{{"+X", geom.V3{X: 1}}, {"-X", geom.V3{X: -1}}, {"+Y", geom.V3{Y: 1}}, {"-Y", geom.V3{Y: -1}}, {"+Z", geom.V3{Z: 1}}, {"-Z", geom.V3{Z: -1}}} {
		if a.d.Dot(d) > 1-1e-9 {
			return a.name
		}
	}
	return fmt.Sprintf("(%.3g, %.3g, %.3g)", d.X, d.Y, d.Z)
}
