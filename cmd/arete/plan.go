package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"arete/core/blank"
	"arete/core/exchange/stl"
	"arete/core/geom"
	"arete/core/workplan"
	"arete/shop"
)

func defaultSetup() workplan.Setup { return workplan.Default("", "").Setup }

type planFlags struct {
	out, machine, material, library, stock, up, dialect, plan string
	push, grip, setups                                        int
	fixtures                                                  []string
	part                                                      partFlags
}

func planCommand() *cobra.Command {
	var f planFlags
	c := &cobra.Command{
		Use:   "plan PART --out DIR",
		Short: "Plan, post, read back, simulate and compare, without a screen",
		Long:  "Plans a part by rules (or replays a saved plan), posts the code, reads it back and proves it. Writes report.json and the program to DIR.\nExit status: 0 done and proven; 1 done, but something is left or wrong; 2 the input cannot be used.",
		Args:  cobra.ExactArgs(1),
		RunE:  func(c *cobra.Command, args []string) error { return runPlan(c, args[0], f) },
	}
	p := c.Flags()
	p.StringVar(&f.out, "out", "", "folder for report.json and the programs")
	p.StringVar(&f.machine, "machine", "", "machine id (default: the first of the library)")
	p.StringVar(&f.material, "material", "", "material id (default: the first of the library)")
	p.StringVar(&f.library, "library", "", "shop library in JSON (default: the built-in one)")
	p.StringVar(&f.stock, "stock", "", "box:X-,X+,Y-,Y+,Z-,Z+ (margins) or box:=LX,LY,LZ (size), cylinder:D,L standing, mm; body:N of the model, or a file that is the stock")
	p.StringArrayVar(&f.fixtures, "fixture", nil, "body:N of the model or a file that holds the work; may be given again")
	p.StringVar(&f.up, "up", "AUTO", "which way points to the spindle: AUTO, X, -X, Y, -Y, Z, -Z or nx,ny,nz")
	p.IntVar(&f.push, "push", 50, "how hard to drive the tools, 0 to 100")
	p.IntVar(&f.grip, "grip", 50, "how firmly the work is held, 0 to 100")
	p.StringVar(&f.dialect, "dialect", "", "dialect id (default: the machine's)")
	p.IntVar(&f.setups, "setups", 1, "greatest number of setups (one, so far)")
	p.StringVar(&f.plan, "plan", "", "replay a saved workplan (JSON) instead of planning by rules")
	f.part.register(p)
	_ = c.MarkFlagRequired("out")
	return c
}

func runPlan(c *cobra.Command, path string, f planFlags) error {
	begin := time.Now()
	timing := map[string]int{}
	lap := func(name string, since time.Time) { timing[name] = shop.Millis(time.Since(since)) }
	if f.push < 0 || f.push > 100 || f.grip < 0 || f.grip > 100 {
		return unusable(fmt.Errorf("--push and --grip lie between 0 and 100"))
	}
	if f.setups < 1 {
		return unusable(fmt.Errorf("--setups is at least 1"))
	}
	if err := planDecides(c, f); err != nil {
		return unusable(err)
	}
	lib, err := openLibrary(f.library)
	if err != nil {
		return err
	}
	m, err := openModel(path)
	if err != nil {
		return err
	}
	lap("import", begin)
	plan, err := startPlan(c.Context(), m, lib, f)
	if err != nil {
		return unusable(err)
	}
	at := time.Now()
	e := shop.NewEngine()
	if _, err = e.Geometry(c.Context(), m, plan.Setup); err != nil {
		return unusable(fmt.Errorf("%s: %w", path, err))
	}
	lap("features", at)
	at = time.Now()
	var notes []string
	if f.plan == "" {
		if notes, err = e.Propose(c.Context(), m, plan, lib); err != nil {
			return unusable(err)
		}
	}
	if f.setups > 1 {
		notes = append(notes, fmt.Sprintf("--setups %d: one setup is planned so far", f.setups))
	}
	lap("plan", at)
	at = time.Now()
	show := progressBar(c.ErrOrStderr())
	r, err := e.Compute(c.Context(), m, *plan, lib, show)
	if err != nil {
		return unusable(err)
	}
	lap("toolpaths", at)
	proof, err := e.Prove(c.Context(), r, lib, shop.Options{Title: title(m, path)}, show)
	if err != nil {
		return unusable(err)
	}
	show(1, 1, "")
	timing["post"], timing["simulate"] = shop.Millis(proof.Times.Post), shop.Millis(proof.Times.Simulate)
	program := "setup-1." + proof.Dialect.Extension
	rep := shop.MakeReport(path, m, r, proof, program, notes)
	timing["total"] = shop.Millis(time.Since(begin))
	rep.Timing = timing
	if err := writeOut(f.out, program, proof.Text.Body, rep, r.Geometry.Work.Blank); err != nil {
		return unusable(err)
	}
	summary(c.OutOrStdout(), rep)
	if !proof.Clean() || failed(r) {
		return exit{1, nil}
	}
	return nil
}

// planDecides refuses flags that a saved plan answers already.
func planDecides(c *cobra.Command, f planFlags) error {
	if f.plan == "" {
		return nil
	}
	for _, name := range []string{"machine", "material", "stock", "fixture", "up", "push", "grip", "dialect", "body", "levels"} {
		if c.Flags().Changed(name) {
			return fmt.Errorf("--%s and --plan exclude each other: the saved plan says it; change it there or leave --plan out", name)
		}
	}
	return nil
}

func title(m *shop.Model, path string) string {
	if m.Name != "" {
		return m.Name
	}
	return filepath.Base(path)
}

// startPlan returns the plan to begin with: empty with a setup, or a saved one.
func startPlan(ctx context.Context, m *shop.Model, lib *shop.Library, f planFlags) (*workplan.Plan, error) {
	if f.plan != "" {
		data, err := os.ReadFile(f.plan)
		if err != nil {
			return nil, err
		}
		var p workplan.Plan
		if err := json.Unmarshal(data, &p); err != nil {
			return nil, fmt.Errorf("%s is not a saved plan: %w", f.plan, err)
		}
		if err := attach(m, p.Setup); err != nil {
			return nil, err
		}
		return &p, p.Setup.Validate()
	}
	mc, err := lib.Machine(f.machine)
	if err != nil {
		return nil, err
	}
	mat, err := lib.Material(f.material)
	if err != nil {
		return nil, err
	}
	p := workplan.Default(mc.ID, mat.ID)
	p.Push, p.Grip, p.Dialect = f.push, f.grip, f.dialect
	if err := f.part.apply(m, &p.Setup); err != nil {
		return nil, err
	}
	if p.Setup.Up, err = chooseUp(ctx, m, p.Setup, f.up); err != nil {
		return nil, err
	}
	body, _, err := m.Target(p.Setup)
	if err != nil {
		return nil, err
	}
	var size geom.V3
	p.Setup.Frame(func(fr geom.Frame) (part, stock geom.Box) {
		part = body.Transform(fr.Inverse()).Box()
		size = part.Size()
		return part, part
	})
	if err := parseStock(f.stock, size, m, &p.Setup); err != nil {
		return nil, err
	}
	for _, name := range f.fixtures {
		it, err := parseItem(name, m)
		if err != nil {
			return nil, fmt.Errorf("--fixture %q: write body:N or a file: %w", name, err)
		}
		p.Setup.Fixtures = append(p.Setup.Fixtures, it)
	}
	return &p, p.Setup.Validate()
}

func failed(r *shop.Result) bool {
	for i := range r.Steps {
		if r.Steps[i].Fail != "" {
			return true
		}
	}
	return false
}

func writeOut(dir, program, text string, rep *shop.Report, stock *blank.Blank) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if stock != nil {
		var b bytes.Buffer
		if err := stl.WriteBinary(&b, stock.Mesh, "stock"); err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(dir, shop.StockFile), b.Bytes(), 0o644); err != nil {
			return err
		}
	}
	if err := os.WriteFile(filepath.Join(dir, program), []byte(text), 0o644); err != nil {
		return err
	}
	f, err := os.Create(filepath.Join(dir, "report.json"))
	if err != nil {
		return err
	}
	defer f.Close()
	return printJSON(f, rep)
}

func summary(w io.Writer, rep *shop.Report) {
	fmt.Fprintf(w, "%d features, %d steps, %.0f s; overcut %.4f mm, excess %.4f mm, %d contacts, read back equal: %v\n",
		len(rep.Features), len(rep.Setups[0].Steps), rep.Time, rep.Proof.Overcut, rep.Proof.Excess, len(rep.Proof.Collisions), rep.Proof.ReadBack)
	for _, s := range rep.Setups[0].Steps {
		for _, warn := range s.Warnings {
			fmt.Fprintf(w, "  %s %s: %s\n", s.ID, s.Name, warn)
		}
	}
	for _, n := range append(append([]string{}, rep.Notes...), rep.Proof.Findings...) {
		fmt.Fprintln(w, "  "+n)
	}
}

// progressBar draws on a terminal; elsewhere it is silent.
func progressBar(w io.Writer) shop.Progress {
	f, ok := w.(*os.File)
	if !ok {
		return func(int, int, string) {}
	}
	if st, err := f.Stat(); err != nil || st.Mode()&os.ModeCharDevice == 0 {
		return func(int, int, string) {}
	}
	return func(done, total int, what string) {
		n := 30 * done / max(1, total)
		bar := ""
		for i := 0; i < 30; i++ {
			if i < n {
				bar += "="
			} else {
				bar += " "
			}
		}
		fmt.Fprintf(f, "\r[%s] %-40.40s", bar, what)
		if what == "" {
			fmt.Fprint(f, "\r\033[K")
		}
	}
}
