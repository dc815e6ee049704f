package read

import (
	"strings"
	"testing"

	"arete/core/geom"
	"arete/core/motion"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const start = "G21 G17 G90 G94\nT3 M6\nG54\nS1000 M3\nG0 X0 Y0\nG43 H3 Z5\n"

func TestProblemsAreNamedWithTheirLine(t *testing.T) {
	for name, c := range map[string]struct{ body, want string }{
		"no feed":         {start + "G1 X5\nM30", "line 7: a cutting move without a feed"},
		"spindle stands":  {strings.Replace(start, "S1000 M3\n", "", 1) + "G1 X5 F100\nM30", "spindle standing"},
		"no tool length":  {strings.Replace(start, "G43 H3 ", "", 1) + "G1 X5 F100\nM30", "without a tool length offset"},
		"no unit":         {strings.Replace(start, "G21 ", "", 1) + "G1 X5 F100\nM30", "before the unit"},
		"no end":          {start, "does not end"},
		"arc off":         {start + "G2 X5 Y0 I2 J0 F100\nM30", "off its circle"},
		"arc without ij":  {start + "G2 X5 Y0 F100\nM30", "without I or J"},
		"unknown G":       {start + "G187\nM30", "unknown word G187"},
		"unknown M":       {start + "M77\nM30", "unknown word M77"},
		"radius comp":     {start + "G41 D1\nM30", "G41 is not used"},
		"comment":         {start + "(open\nM30", "not closed"},
		"change turning":  {start + "T4 M6\nM5\nM30", "tool change with the spindle turning"},
		"nonsense":        {start + "G1 X#1\nM30", "cannot read"},
		"cycle without R": {start + "G81 Z-5 F100 X1\nM30", "R above Z"},
		"endless pecks":   {start + "G83 X1 Z-50000 R2 Q0.001 F100\nM30", "needs Q"},
	} {
		t.Run(name, func(t *testing.T) {
			var all []string
			for _, p := range Read(c.body).Problems {
				all = append(all, p.String())
			}
			assert.Contains(t, strings.Join(all, "\n"), c.want)
		})
	}
}

func TestCyclesExpand(t *testing.T) {
	p := Read(start + "G98 G83 X10 Y5 Z-7 R1 Q3 F200\nX20\nG80\nM5\nM30")
	require.Empty(t, p.Problems)
	var zs []float64
	for _, m := range p.Moves[2:] {
		zs = append(zs, m.To.Z)
	}
	hole := []float64{5, 1, -2, 1, -1.5, -5, 1, -4.5, -7, 5}
	assert.Equal(t, append(append([]float64{}, hole...), hole...), zs)
	assert.Equal(t, 20.0, p.Moves[len(p.Moves)-1].To.X)
}

func TestPecksShorterThanThePullBackDoNotStandStill(t *testing.T) {
	p := Read(start + "G98 G83 X10 Y5 Z0.2 R1 Q0.3 F200\nG80\nM5\nM30")
	require.Empty(t, p.Problems)
	var zs []float64
	for _, m := range p.Moves[2:] {
		zs = append(zs, m.To.Z)
	}
	assert.InDeltaSlice(t, []float64{5, 1, 0.7, 1, 0.4, 1, 0.9, 0.2, 5}, zs, 1e-9)
}

func TestInchAndIncremental(t *testing.T) {
	p := Read(strings.Replace(start, "G21", "G20", 1) + "G91 G1 X1 F10\nG90\nM5\nM30")
	require.Empty(t, p.Problems)
	assert.InDelta(t, 25.4, p.Moves[len(p.Moves)-1].To.X, 1e-9)
}

func TestModalMotionAndFeedCarryOn(t *testing.T) {
	p := Read(start + "G1 X5 F100\nY5\nG0 Z5\nM5\nM30")
	require.Empty(t, p.Problems)
	m := p.Moves[len(p.Moves)-2]
	assert.Equal(t, motion.Line, m.Kind)
	assert.Equal(t, 100.0, m.Feed)
	assert.Equal(t, 5.0, m.To.Y)
}

func FuzzRead(f *testing.F) {
	f.Add(start + "G1 X5 F100\nG83 X1 Z-5 R2 Q1\nM30")
	f.Add("G2 I1 J1\n(()\nX..Y--")
	f.Fuzz(func(t *testing.T, s string) {
		if p := Read(s); len(p.Problems) > mostProblems {
			t.Fatal("unbounded list of problems")
		}
	})
}

// Rounding may bring the ends of a short arc to change places: the control
// would run the rest of the circle. That does not read back equal.
func TestAnArcTurnedIntoACircleIsNoticed(t *testing.T) {
	from, to := geom.V3{X: 20}, geom.V3{X: 20, Y: 0.0004}
	plan := []Planned{{Tool: 1, RPM: 1000, Moves: []motion.Move{{Kind: motion.Line, To: from, Feed: 100}, {Kind: motion.CCW, To: to, Feed: 100}, {Kind: motion.Line, To: geom.V3{X: 30}, Feed: 100}}}}
	read := func(end geom.V3) Program {
		var p Program
		for _, m := range []motion.Move{{Kind: motion.Line, To: from, Feed: 100}, {Kind: motion.CCW, To: end, Feed: 100}, {Kind: motion.Line, To: geom.V3{X: 30}, Feed: 100}} {
			p.Moves = append(p.Moves, Move{Move: m, Tool: 1, RPM: 1000})
		}
		return p
	}
	assert.Empty(t, Equal(read(to), plan, 0.001))
	assert.NotEmpty(t, Equal(read(geom.V3{X: 20, Y: -0.0001}), plan, 0.001))
}
