package removal

import (
	"context"
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
)

// Step is the motion of one step with its times.
type Step struct {
	ID    string
	Tool  tooling.Tool
	Start geom.V3 // where the tool is before the first move
	Moves []motion.Move
	T0    float64   // time of the start, s
	Times []float64 // of each move
}

// Collision is a contact that must not be.
type Collision struct {
	Step string  `json:"step"`
	Move int     `json:"move"`
	Time float64 `json:"time_s"`
	Kind string  `json:"kind"` // rapid, holder, shank, jaw, fixture
	At   geom.V3 `json:"at"`
	Say  string  `json:"say"`
}

// Jaw is a box that holds the work.
type Jaw struct{ Box geom.Box }

// Around is what the tool must stay clear of.
type Around struct {
	Jaws     []Jaw
	Fixtures []Fixture
}

// Report is what a simulation found.
type Report struct {
	Removed    []float64 // for each step, mm³
	Collisions []Collision
	Load       []float64 // volume removed in each slot of time, mm³/s
	Slot       float64   // s
}

// mostCollisions bounds the list of one step.
const mostCollisions = 20

// Simulate cuts all steps into the grid in order.
func Simulate(ctx context.Context, g *Grid, steps []Step, around Around, progress func(done, total int)) (Report, error) {
	end := 0.0
	for _, s := range steps {
		sum := s.T0
		for _, t := range s.Times {
			sum += t
		}
		end = math.Max(end, sum)
	}
	r := Report{Slot: math.Max(0.05, end/1200)}
	r.Load = make([]float64, int(end/r.Slot)+2)
	for k, s := range steps {
		if progress != nil {
			progress(k, len(steps))
		}
		removed, err := r.step(ctx, g, s, around)
		if err != nil {
			return r, err
		}
		r.Removed = append(r.Removed, removed)
	}
	return r, nil
}

func (r *Report) step(ctx context.Context, g *Grid, s Step, around Around) (float64, error) {
	total, found := 0.0, 0
	at, t := s.Start, s.T0
	checked := geom.V3{X: math.Inf(1)}
	for i, m := range s.Moves {
		if i%500 == 0 && ctx.Err() != nil {
			return 0, ctx.Err()
		}
		v := g.Cut(s.Tool, at, m, t, s.Times[i])
		total += v
		r.addLoad(t, s.Times[i], v)
		hit := func(kind, say string) {
			if found++; found <= mostCollisions {
				r.Collisions = append(r.Collisions, Collision{s.ID, i, t, kind, m.To, say})
			}
		}
		if m.Kind == motion.Rapid && v > rapidSlack(g) {
			hit("rapid", fmt.Sprintf("a rapid move goes through %.1f mm³ of stock", v))
		}
		if m.To.Dist(checked) > 1 || i == len(s.Moves)-1 {
			checked = m.To
			if kind, say := body(g, s.Tool, m.To); kind != "" {
				hit(kind, say)
			}
		}
		for _, j := range around.Jaws {
			if touches(s.Tool, at, m, j.Box) {
				hit("jaw", "the tool runs into a jaw of the vise")
			}
		}
		for k := range around.Fixtures {
			if f := &around.Fixtures[k]; f.met(s.Tool, at, m) {
				hit("fixture", "the tool runs into "+f.Name)
			}
		}
		t += s.Times[i]
		at = m.To
	}
	return total, nil
}

// rapidSlack is the volume a rapid may seem to cut through rounding: a
// micrometre over a few cells.
func rapidSlack(g *Grid) float64 { return 0.002 * 50 * g.DX * g.DY }

func (r *Report) addLoad(t, dt, v float64) {
	if v <= 0 {
		return
	}
	a, b := int(t/r.Slot), int((t+dt)/r.Slot)
	for k := a; k <= b && k < len(r.Load); k++ {
		from, to := math.Max(t, float64(k)*r.Slot), math.Min(t+dt, float64(k+1)*r.Slot)
		share := 1.0
		if dt > 0 {
			share = math.Max(0, to-from) / dt
		}
		r.Load[k] += v * share / r.Slot
	}
}

// body looks for stock above the cutting length (shank) or in the holder.
func body(g *Grid, t tooling.Tool, tip geom.V3) (kind, say string) {
	if t.Shank > t.DC+0.01 && tip.Z+t.APMX < g.Top && t.APMX < t.Stickout {
		if z := g.highest(tip.XY(), t.Shank/2); z > tip.Z+t.APMX+0.01 {
			return "shank", fmt.Sprintf("the shank meets stock %.2f mm above the cutting length", z-tip.Z-t.APMX)
		}
	}
	at := tip.Z + t.Stickout
	for _, h := range t.Holder {
		if at >= g.Top {
			break
		}
		if z := g.highest(tip.XY(), math.Max(h.D1, h.D2)/2); z > at+0.01 {
			return "holder", fmt.Sprintf("the holder meets stock: %.2f mm too deep for a stickout of %.1f mm", z-at, t.Stickout)
		}
		at += h.Length
	}
	return "", ""
}

// highest returns the greatest height of stock within r of p.
func (g *Grid) highest(p geom.V2, r float64) float64 {
	i0, i1 := span(p.X-r-g.Min.X, p.X+r-g.Min.X, g.DX, g.NX)
	j0, j1 := span(p.Y-r-g.Min.Y, p.Y+r-g.Min.Y, g.DY, g.NY)
	z := math.Inf(-1)
	for j := j0; j <= j1; j++ {
		for i := i0; i <= i1; i++ {
			if h := float64(g.Z[j*g.NX+i]); h > z && g.Center(i, j).Dist(p) <= r {
				z = h
			}
		}
	}
	return z
}

// touches tells whether the cutter sweeps a box.
func touches(t tooling.Tool, from geom.V3, m motion.Move, b geom.Box) bool {
	if math.Min(from.Z, m.To.Z) >= b.Max.Z {
		return false
	}
	n := 1
	if m.IsArc() {
		n = max(1, int(math.Ceil(math.Abs(m.Sweep(from))/0.2)))
	} else if l := m.To.Sub(from).Len(); l > 1 {
		n = min(200, int(l))
	}
	for k := 0; k <= n; k++ {
		p := m.At(from, float64(k)/float64(n))
		near := geom.V2{X: math.Max(b.Min.X, math.Min(b.Max.X, p.X)), Y: math.Max(b.Min.Y, math.Min(b.Max.Y, p.Y))}
		if d := near.Dist(p.XY()); d < t.R() && p.Z+t.Profile(d) < b.Max.Z-1e-6 {
			return true
		}
	}
	return false
}
