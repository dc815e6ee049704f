package feature

import (
	"fmt"
	"math"
	"sort"

	"arete/core/geom"
)

// Pattern is a group of equal holes of one approach.
type Pattern struct {
	ID       string
	Kind     string // circle, line, grid or same
	Features []string
	Center   geom.V3 // of a circle
	Diameter float64 // of a circle
	Pitch    [2]float64
}

// nameThreads names the likely thread of each hole.
func (r *recogniser) nameThreads() {
	for _, f := range r.set.Features {
		if f.Kind == RoundHole {
			f.Params.Thread = likelyThread(f.Params)
		}
	}
}

// tapDrills are the drills, D − P, of the coarse metric threads of first choice
// (ISO 261, ISO 2306).
var tapDrills = []struct {
	name  string
	drill float64
}{
	{"M2", 1.6}, {"M2.5", 2.05}, {"M3", 2.5}, {"M4", 3.3}, {"M5", 4.2}, {"M6", 5}, {"M8", 6.8}, {"M10", 8.5}, {"M12", 10.2},
	{"M16", 14}, {"M20", 17.5}, {"M24", 21},
}

// likelyThread names the thread whose tap drill the hole has; holes with a
// counterbore are for screws to pass.
func likelyThread(p Params) string {
	if p.Counterbore.Diameter > 0 {
		return ""
	}
	for _, t := range tapDrills {
		if math.Abs(p.Diameter-t.drill) < 0.03 {
			return t.name
		}
	}
	return ""
}

// patterns groups equal holes whose mouths lie in one plane, by number of the
// features in their final order.
func patterns(fs []*Feature) []Pattern {
	var out []Pattern
	done := map[*Feature]bool{}
	for _, f := range fs {
		if f.Kind != RoundHole || done[f] {
			continue
		}
		var group []*Feature
		for _, g := range fs {
			if g.Kind == RoundHole && !done[g] && equalHoles(f, g) {
				group = append(group, g)
			}
		}
		for _, g := range group {
			done[g] = true
		}
		if len(group) > 1 {
			p := arrange(group)
			p.ID = fmt.Sprintf("P%d", len(out)+1)
			for _, g := range group {
				p.Features = append(p.Features, g.ID)
			}
			out = append(out, p)
		}
	}
	return out
}

func equalHoles(f, g *Feature) bool {
	a, b := f.Params, g.Params
	near := func(x, y float64) bool { return math.Abs(x-y) < 1e-3 }
	return f.Approach.Dot(g.Approach) > 1-1e-9 && near(a.Diameter, b.Diameter) && near(a.Depth, b.Depth) && near(a.TopZ, b.TopZ) && a.Bottom == b.Bottom &&
		near(a.Counterbore.Diameter, b.Counterbore.Diameter) && near(a.Counterbore.Depth, b.Counterbore.Depth) && near(a.Countersink.Diameter, b.Countersink.Diameter)
}

// arrange names how the centres lie: on a line, on a circle, in a grid.
func arrange(group []*Feature) Pattern {
	frame := geom.NewFrame(group[0].Params.Center, group[0].Approach, geom.V3{X: 1})
	pts := make([]geom.V2, len(group))
	for i, f := range group {
		pts[i] = frame.ToLocal(f.Params.Center).XY()
	}
	if pitch, ok := evenLine(pts); ok {
		return Pattern{Kind: "line", Pitch: [2]float64{pitch, 0}}
	}
	if u, v, ok := evenGrid(pts); ok {
		return Pattern{Kind: "grid", Pitch: [2]float64{u, v}}
	}
	if c, r, ok := onCircle(pts); ok {
		return Pattern{Kind: "circle", Center: frame.ToWorld(c.At(0)), Diameter: 2 * r}
	}
	return Pattern{Kind: "same"}
}

// evenLine tells whether points lie on a line at one pitch.
func evenLine(pts []geom.V2) (float64, bool) {
	far := 0
	for i := range pts {
		if pts[i].Dist(pts[0]) > pts[far].Dist(pts[0]) {
			far = i
		}
	}
	d := pts[far].Sub(pts[0]).Unit()
	at := make([]float64, len(pts))
	for i, p := range pts {
		if math.Abs(d.Cross(p.Sub(pts[0]))) > 1e-3 {
			return 0, false
		}
		at[i] = d.Dot(p.Sub(pts[0]))
	}
	sort.Float64s(at)
	pitch := at[1] - at[0]
	for i := 2; i < len(at); i++ {
		if math.Abs(at[i]-at[i-1]-pitch) > 1e-3 {
			return 0, false
		}
	}
	return pitch, true
}

// onCircle tells whether at least three points lie on one circle at equal
// angles.
func onCircle(pts []geom.V2) (c geom.V2, r float64, ok bool) {
	if len(pts) < 3 {
		return c, 0, false
	}
	for _, p := range pts {
		c = c.Add(p.Mul(1 / float64(len(pts))))
	}
	r = pts[0].Dist(c)
	angles := make([]float64, len(pts))
	for i, p := range pts {
		if math.Abs(p.Dist(c)-r) > 1e-3 {
			return c, 0, false
		}
		d := p.Sub(c)
		angles[i] = math.Atan2(d.Y, d.X)
	}
	sort.Float64s(angles)
	for i := 1; i < len(angles); i++ {
		if math.Abs(angles[i]-angles[i-1]-2*math.Pi/float64(len(pts))) > 1e-3 {
			return c, 0, false
		}
	}
	return c, r, true
}

// evenGrid tells whether the points fill a grid of rows and columns, each at
// one pitch, along the line to the nearest neighbour.
func evenGrid(pts []geom.V2) (u, v float64, ok bool) {
	if len(pts) < 4 {
		return 0, 0, false
	}
	next := 1
	for i := range pts[1:] {
		if pts[i+1].Dist(pts[0]) < pts[next].Dist(pts[0]) {
			next = i + 1
		}
	}
	d := pts[next].Sub(pts[0]).Unit()
	xs, ys := distinct(pts, d), distinct(pts, d.Left())
	if len(xs)*len(ys) != len(pts) || len(xs) < 2 || len(ys) < 2 {
		return 0, 0, false
	}
	for _, list := range [2][]float64{xs, ys} {
		for i := 2; i < len(list); i++ {
			if math.Abs(list[i]-list[i-1]-(list[1]-list[0])) > 1e-3 {
				return 0, 0, false
			}
		}
	}
	return xs[1] - xs[0], ys[1] - ys[0], true
}

// distinct returns the different coordinates of points along d, in order.
func distinct(pts []geom.V2, d geom.V2) []float64 {
	var all, out []float64
	for _, p := range pts {
		all = append(all, d.Dot(p))
	}
	sort.Float64s(all)
	for _, x := range all {
		if n := len(out); n == 0 || x-out[n-1] > 1e-3 {
			out = append(out, x)
		}
	}
	return out
}
