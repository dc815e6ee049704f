package write_test

import (
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/nc"
	"arete/core/nc/read"
	"arete/core/nc/write"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var update = flag.Bool("update", false, "write the golden files anew")

var dialects = map[string]nc.Dialect{
	"cycles": {ID: "cycles", Name: "with cycles", Cycles: true, Percent: true, Numbers: true, Decimals: 3, HomeWord: "G53 G0 Z0.", ToolChange: "T%d M6", Extension: "nc", ProgramWord: "O"},
	"plain":  {ID: "plain", Name: "without", Decimals: 3, HomeWord: "G91 G28 Z0.|G90", ToolChange: "T%d M6", Extension: "tap"},
}

// sample is a program with every kind of motion.
func sample() nc.Program {
	mill := tooling.Tool{Name: "End mill 10", Kind: tooling.EndMill, DC: 10, Stickout: 36, Position: 4}
	drill := tooling.Tool{Name: "Drill 5", Kind: tooling.Drill, DC: 5, SIG: 118, Stickout: 62, Position: 15}
	b := motion.NewBuilder(5)
	b.Over(geom.V2{X: 10, Y: -8}, 1)
	b.Line(geom.V3{X: 10, Y: -8, Z: -2.5}, 300)
	b.Line(geom.V3{X: 10, Y: 20, Z: -2.5}, 1200)
	b.Arc(geom.V3{X: 20, Y: 30, Z: -2.5}, geom.V2{X: 20, Y: 20}, -1, 1200)
	b.Arc(geom.V3{X: 40, Y: 30, Z: -4}, geom.V2{X: 30, Y: 30}, 1, 1200)
	b.Line(geom.V3{X: 40.0004, Y: 30, Z: -4}, 1200) // below the resolution
	b.Line(geom.V3{X: 1.0 / 3, Y: -2.0 / 3, Z: -4}, 1200)
	b.Up()
	h := motion.NewBuilder(5)
	for _, x := range []float64{12, 30} {
		h.Rapid(geom.V3{X: x, Y: 15, Z: 5})
		from := len(h.Moves)
		h.Rapid(geom.V3{X: x, Y: 15, Z: 2})
		h.Line(geom.V3{X: x, Y: 15, Z: -3}, 250)
		h.Rapid(geom.V3{X: x, Y: 15, Z: 2})
		h.Rapid(geom.V3{X: x, Y: 15, Z: -2.5})
		h.Line(geom.V3{X: x, Y: 15, Z: -6.5}, 250)
		h.Rapid(geom.V3{X: x, Y: 15, Z: 5})
		h.Cycles = append(h.Cycles, motion.Cycle{Kind: motion.CyclePeck, From: from, To: len(h.Moves), XY: geom.V2{X: x, Y: 15}, R: 2, Z: -6.5, Peck: 5, Feed: 250, Initial: 5})
	}
	return nc.Program{Number: 7, Title: "Gauge lid (trial)", WorkOffset: "G54", Notes: []string{"stock 100 x 75 x 26"}, Steps: []nc.Step{
		{ID: "S1", Title: "1 Clear", Tool: mill, RPM: 9549, Path: b.Path}, {ID: "S2", Title: "2 Drill ⌀5", Tool: drill, RPM: 4000, Path: h.Path}}}
}

func planned(p nc.Program) []read.Planned {
	var out []read.Planned
	for _, s := range p.Steps {
		out = append(out, read.Planned{Tool: s.Tool.Position, RPM: s.RPM, Moves: s.Path.Moves})
	}
	return out
}

func TestGoldenPrograms(t *testing.T) {
	for name, d := range dialects {
		t.Run(name, func(t *testing.T) {
			text, err := write.Program(sample(), d)
			require.NoError(t, err)
			file := filepath.Join("testdata", name+".nc")
			if *update {
				require.NoError(t, os.WriteFile(file, []byte(text.Body), 0o644))
			}
			want, err := os.ReadFile(file)
			require.NoError(t, err)
			assert.Equal(t, string(want), text.Body)
			assert.Equal(t, strings.Count(text.Body, "\n"), len(text.Lines))
			back := read.Read(text.Body)
			assert.Empty(t, back.Problems)
			assert.Empty(t, read.Equal(back, planned(sample()), 0.001))
		})
	}
}

// Any number changed in the text, other than in comments and block numbers,
// must be noticed.
func TestTamperingIsNoticed(t *testing.T) {
	for name, d := range dialects {
		text, err := write.Program(sample(), d)
		require.NoError(t, err)
		lines := strings.Split(text.Body, "\n")
		for i, l := range lines {
			if strings.HasPrefix(l, "(") || strings.HasPrefix(l, "O") {
				continue
			}
			for _, w := range strings.Fields(l) {
				if len(w) < 2 || !strings.ContainsRune("XYZIJRQFSTH", rune(w[0])) || w == "Z0." && strings.Contains(l, "G53") || w == "Z0." && strings.Contains(l, "G28") {
					continue
				}
				bad := append([]string(nil), lines...)
				digit := w[len(w)-1:]
				changed := strings.TrimSuffix(w, digit) + "7"
				if digit == "." {
					changed = w + "7"
				} else if digit == "7" {
					changed = strings.TrimSuffix(w, digit) + "2"
				}
				bad[i] = strings.Replace(l, w, changed, 1)
				back := read.Read(strings.Join(bad, "\n"))
				assert.True(t, len(back.Problems) > 0 || read.Equal(back, planned(sample()), 0.001) != "", "%s: %q → %q goes unnoticed", name, l, bad[i])
			}
		}
	}
}

// Random paths of lines and arcs read back equal in every dialect.
func TestRandomPathsReadBackEqual(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := motion.NewBuilder(5)
		at := func() geom.V3 {
			return geom.V3{X: rapid.Float64Range(-200, 200).Draw(t, "x"), Y: rapid.Float64Range(-200, 200).Draw(t, "y"), Z: rapid.Float64Range(-40, 4).Draw(t, "z")}
		}
		b.Over(at().XY(), 1)
		for i, n := 0, rapid.IntRange(1, 40).Draw(t, "n"); i < n; i++ {
			switch rapid.IntRange(0, 3).Draw(t, "kind") {
			case 0:
				b.Rapid(at())
			case 1:
				b.Line(at(), float64(rapid.IntRange(1, 9000).Draw(t, "f")))
			default:
				r, w := rapid.Float64Range(0.0005, 80).Draw(t, "r"), rapid.Float64Range(0, 6.28).Draw(t, "w")
				c := b.At.XY().Add(geom.Polar(r, w))
				to := c.Add(geom.Polar(r, w+rapid.Float64Range(0.01, 3.1).Draw(t, "to")))
				turn := int8(1)
				if rapid.Bool().Draw(t, "cw") {
					turn = -1
				}
				b.Arc(to.At(b.At.Z), c, turn, 500)
			}
		}
		b.Path.Straighten() // as every step's path is
		p := sample()
		p.Steps = []nc.Step{{ID: "S1", Title: "x", Tool: p.Steps[0].Tool, RPM: 1000, Path: b.Path}}
		for name, d := range dialects {
			text, err := write.Program(p, d)
			require.NoError(t, err)
			back := read.Read(text.Body)
			require.Empty(t, back.Problems, name)
			require.Empty(t, read.Equal(back, planned(p), 0.001), name)
		}
	})
}
