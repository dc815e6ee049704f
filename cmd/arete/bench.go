package main

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"time"

	"github.com/spf13/cobra"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
	"arete/core/removal"
	"arete/core/tooling"
	"arete/core/workplan"
	"arete/demo"
	"arete/shop"
)

// figure is one line of the benchmarks.
type figure struct {
	Name  string  `json:"name"`
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
	Note  string  `json:"note,omitempty"`
}

var benches = []struct {
	name, what string
	run        func(ctx context.Context) ([]figure, error)
}{
	{"plan", "from file to proof for each demo part: time by stage, memory", benchPlan},
	{"edit", "an edit of a step to its new path", benchEdit},
	{"features", "recognition, and the way back from a mesh, against the number of faces", benchFeatures},
	{"prepare", "changes of a part, and a body as stock, against the number of faces", benchPrepare},
	{"offset", "offsets of a region: work per second, scaling with size", benchOffset},
	{"removal", "dexels cut per second against a naive simulation", benchRemoval},
}

func benchCommand() *cobra.Command {
	var asJSON bool
	long := "Benchmarks:\n"
	for _, b := range benches {
		long += fmt.Sprintf("  %-8s %s\n", b.name, b.what)
	}
	c := &cobra.Command{
		Use:   "bench [NAME]",
		Short: "The project's own benchmarks",
		Long:  long,
		Args:  cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			var out []figure
			found := false
			for _, b := range benches {
				if len(args) > 0 && args[0] != b.name {
					continue
				}
				found = true
				f, err := b.run(c.Context())
				if err != nil {
					return err
				}
				if !asJSON {
					fmt.Fprintln(c.OutOrStdout(), b.name+": "+b.what)
					for _, l := range f {
						fmt.Fprintf(c.OutOrStdout(), "  %-44s %12.4g %-12s %s\n", l.Name, l.Value, l.Unit, l.Note)
					}
				}
				out = append(out, f...)
			}
			if !found {
				return unusable(fmt.Errorf("there is no benchmark %q; see arete bench --help", args[0]))
			}
			if asJSON {
				return printJSON(c.OutOrStdout(), out)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return c
}

func heapMB() float64 {
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return float64(m.Sys) / (1 << 20)
}

func demoPart(name string) (*shop.Model, *shop.Library, workplan.Plan, error) {
	data, err := demo.Parts.ReadFile("parts/" + name + ".step")
	if err != nil {
		return nil, nil, workplan.Plan{}, err
	}
	lib, err := shop.ReadLibrary(demo.Library)
	if err != nil {
		return nil, nil, workplan.Plan{}, err
	}
	m, err := shop.Import(data)
	return m, lib, workplan.Default(lib.Machines[0].ID, lib.Materials[0].ID), err
}

func benchPlan(ctx context.Context) ([]figure, error) {
	var out []figure
	for _, b := range demo.Bench {
		begin := time.Now()
		m, lib, p, err := demoPart(b.File)
		if err != nil {
			return nil, err
		}
		imported := time.Since(begin)
		e := shop.NewEngine()
		if _, err := e.Propose(ctx, m, &p, lib); err != nil {
			return nil, err
		}
		planned := time.Since(begin)
		r, err := e.Compute(ctx, m, p, lib, nil)
		if err != nil {
			return nil, err
		}
		computed := time.Since(begin)
		proof, err := e.Prove(ctx, r, lib, shop.Options{}, nil)
		if err != nil {
			return nil, err
		}
		ms := func(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
		out = append(out,
			figure{b.File + ": import", ms(imported), "ms", ""},
			figure{b.File + ": features and plan", ms(planned - imported), "ms", ""},
			figure{b.File + ": tool paths", ms(computed - planned), "ms", fmt.Sprintf("%d steps", len(r.Steps))},
			figure{b.File + ": post, read back, simulate, compare", ms(time.Since(begin) - computed), "ms", ""},
			figure{b.File + ": in total", ms(time.Since(begin)), "ms", "limit 3000"},
			figure{b.File + ": overcut", proof.Overcut, "mm", "limit 0.01"},
			figure{b.File + ": excess", proof.Excess, "mm", "limit 0.05"},
			figure{"memory taken from the system so far", heapMB(), "MB", "limit 500"})
	}
	return out, nil
}

func benchEdit(ctx context.Context) ([]figure, error) {
	var out []figure
	for _, b := range demo.Bench {
		m, lib, p, err := demoPart(b.File)
		if err != nil {
			return nil, err
		}
		e := shop.NewEngine()
		if _, err := e.Propose(ctx, m, &p, lib); err != nil {
			return nil, err
		}
		if _, err := e.Compute(ctx, m, p, lib, nil); err != nil {
			return nil, err
		}
		slowest, steps := 0.0, 0
		for i := range p.Steps {
			q := p.Clone()
			if err := q.Steps[i].Type("vf", 777); err != nil {
				continue
			}
			if q.Steps[i].Op.Has("ae") {
				if err := q.Steps[i].Type("ae", 1.7); err != nil {
					return nil, err
				}
			}
			count := 0
			e.Computed = func(string) { count++ }
			begin := time.Now()
			if _, err := e.Compute(ctx, m, q, lib, nil); err != nil {
				return nil, err
			}
			if d := float64(time.Since(begin).Microseconds()) / 1000; d > slowest {
				slowest, steps = d, count
			}
		}
		out = append(out, figure{b.File + ": slowest edit of a step", slowest, "ms", fmt.Sprintf("%d of %d steps computed anew; limit 500", steps, len(p.Steps))})
	}
	return out, nil
}

// flower is a region of n overlapping discs around a ring.
func flower(n int) planar.Region {
	var parts []planar.Region
	for i := 0; i < n; i++ {
		c := geom.Polar(float64(n), 2*math.Pi*float64(i)/float64(n))
		parts = append(parts, planar.Region{planar.Circle(c, 4+float64(i%3))})
	}
	return planar.UnionAll(parts, planar.DefaultTolerance)
}

func benchOffset(context.Context) ([]figure, error) {
	var out []figure
	last := 0.0
	for _, n := range []int{25, 100, 400, 1600} {
		r := flower(n)
		segs := 0
		for _, l := range r {
			segs += len(l)
		}
		begin, rounds := time.Now(), 0
		for time.Since(begin) < 300*time.Millisecond {
			planar.Offset(r, -1, planar.DefaultTolerance)
			rounds++
		}
		per := time.Since(begin).Seconds() / float64(rounds)
		note := ""
		if last > 0 {
			note = fmt.Sprintf("× %.1f for 4 × the size", per/last)
		}
		last = per
		out = append(out, figure{fmt.Sprintf("offset of %d segments", segs), per * 1000, "ms", note},
			figure{fmt.Sprintf("segments a second at %d", segs), float64(segs) / per, "1/s", ""})
	}
	return out, nil
}

// benchRemoval cuts a spiral of arcs with exact sweeps and with the tool
// stamped down every 0.02 mm, which leaves cusps of about 2 µm.
func benchRemoval(context.Context) ([]figure, error) {
	tool := tooling.Tool{Kind: tooling.EndMill, DC: 10, APMX: 20, Stickout: 30, Shank: 10}
	box := geom.Box{Max: geom.V3{X: 80, Y: 80, Z: 20}}
	var moves []motion.Move
	centre := geom.V2{X: 40, Y: 40}
	for k := 0; k < 16; k++ {
		r := 2 + 2*float64(k)
		a, b := centre.Add(geom.V2{X: r}), centre.Sub(geom.V2{X: r})
		moves = append(moves, motion.Move{Kind: motion.Line, To: a.At(15)}, motion.Move{Kind: motion.CCW, To: b.At(15), C: centre}, motion.Move{Kind: motion.CCW, To: a.At(15), C: centre})
	}
	run := func(cut func(g *removal.Grid)) (seconds, volume float64) {
		g := removal.NewGrid(box, 0.25)
		before := g.Volume()
		begin := time.Now()
		cut(g)
		return time.Since(begin).Seconds(), before - g.Volume()
	}
	start := centre.At(15)
	exact, v := run(func(g *removal.Grid) {
		at := start
		for _, m := range moves {
			g.Cut(tool, at, m, 0, 1)
			at = m.To
		}
	})
	naive, w := run(func(g *removal.Grid) {
		at := start
		for _, m := range moves {
			n := max(1, int(m.Len(at)/0.02))
			for k := 0; k <= n; k++ {
				p := m.At(at, float64(k)/float64(n))
				g.Cut(tool, p, motion.Move{Kind: motion.Line, To: p}, 0, 1)
			}
			at = m.To
		}
	})
	want := math.Pi * 37 * 37 * 5
	return []figure{
		{"exact sweeps", exact * 1000, "ms", fmt.Sprintf("volume off by %.3f %%", 100*(v/want-1))},
		{"tool stamped every 0.02 mm", naive * 1000, "ms", fmt.Sprintf("volume off by %.3f %%", 100*(w/want-1))},
		{"naive / exact", naive / exact, "×", "same run"},
	}, nil
}
