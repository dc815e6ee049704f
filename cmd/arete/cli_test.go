package main

import (
	"bytes"
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/exchange/stl"
)

var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "arete")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "arete")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

// run returns what the command prints and its exit status.
func run(t *testing.T, args ...string) (out, errs string, code int) {
	cmd := exec.Command(binary, args...)
	var o, e bytes.Buffer
	cmd.Stdout, cmd.Stderr = &o, &e
	err := cmd.Run()
	if x, ok := err.(*exec.ExitError); ok {
		return o.String(), e.String(), x.ExitCode()
	}
	require.NoError(t, err)
	return o.String(), e.String(), 0
}

const parts = "../../demo/parts/"

func TestPlanWritesAReportThatKeepsItsContract(t *testing.T) {
	dir := t.TempDir()
	out, _, code := run(t, "plan", parts+"gauge-lid.step", "--out", dir)
	require.Zero(t, code, out)
	data, err := os.ReadFile(filepath.Join(dir, "report.json"))
	require.NoError(t, err)
	var r map[string]any
	require.NoError(t, json.Unmarshal(data, &r))
	for _, key := range []string{"arete", "input", "part", "features", "setups", "proof", "time_s", "timing_ms"} {
		assert.Contains(t, r, key)
	}
	proof := r["proof"].(map[string]any)
	assert.Equal(t, true, proof["read_back_equal"])
	assert.LessOrEqual(t, proof["overcut_max_mm"], 0.01)
	assert.LessOrEqual(t, proof["excess_max_mm"], 0.05)
	assert.Empty(t, proof["collisions"])
	setup := r["setups"].([]any)[0].(map[string]any)
	program := setup["programs"].([]any)[0].(string)
	text, err := os.ReadFile(filepath.Join(dir, program))
	require.NoError(t, err)
	assert.Contains(t, string(text), "M30")
	for _, s := range setup["steps"].([]any) {
		step := s.(map[string]any)
		for _, key := range []string{"id", "kind", "name", "tool", "features", "time_s", "cut_length_mm", "removed_mm3", "n_rpm", "vf_mm_min", "ap_mm", "ae_mm", "peak_power_kw", "warnings"} {
			assert.Contains(t, step, key)
		}
	}
	// the saved plan replays to the same program
	again := t.TempDir()
	plan, err := json.Marshal(r["plan"])
	require.NoError(t, err)
	saved := filepath.Join(again, "plan.json")
	require.NoError(t, os.WriteFile(saved, plan, 0o644))
	_, errs, code := run(t, "plan", parts+"gauge-lid.step", "--out", again, "--plan", saved, "--up", "X")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "--up and --plan exclude each other")
	_, _, code = run(t, "plan", parts+"gauge-lid.step", "--out", again, "--plan", saved)
	require.Zero(t, code)
	replayed, err := os.ReadFile(filepath.Join(again, program))
	require.NoError(t, err)
	assert.Equal(t, string(text), string(replayed))
	// and proves again from the text alone; a changed text does not
	_, errs, code = run(t, "simulate", filepath.Join(dir, "report.json"))
	require.Zero(t, code, errs)
	require.NoError(t, os.WriteFile(filepath.Join(dir, program), []byte(strings.Replace(string(text), "Z-13.", "Z-13.5", 1)), 0o644))
	out, _, code = run(t, "simulate", filepath.Join(dir, "report.json"))
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "too deep")
}

func TestExitStatus(t *testing.T) {
	dir := t.TempDir()
	broken := filepath.Join(dir, "broken.step")
	require.NoError(t, os.WriteFile(broken, []byte("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=X("), 0o644))
	for name, c := range map[string]struct {
		args []string
		code int
		say  string
	}{
		"broken file":       {[]string{"plan", broken, "--out", dir}, 2, "cut off"},
		"no file":           {[]string{"plan", "nowhere.step", "--out", dir}, 2, "cannot be opened"},
		"no machine":        {[]string{"plan", parts + "gauge-lid.step", "--out", dir, "--machine", "x"}, 2, "not in the library"},
		"stock too small":   {[]string{"plan", parts + "gauge-lid.step", "--out", dir, "--stock", "box:=90,71,18"}, 2, "smaller than the part"},
		"stock nonsense":    {[]string{"plan", parts + "gauge-lid.step", "--out", dir, "--stock", "box:a"}, 2, "--stock"},
		"up nonsense":       {[]string{"plan", parts + "gauge-lid.step", "--out", dir, "--up", "left"}, 2, "--up"},
		"unknown flag":      {[]string{"plan", parts + "gauge-lid.step", "--nope"}, 2, "nope"},
		"levels of a solid": {[]string{"features", parts + "gauge-lid.step", "--levels", "A=0,5"}, 2, "for flat drawings"},
		"no such layer":     {[]string{"features", parts + "clamp-plate.dxf", "--levels", "A=0,5"}, 2, "no closed chain on a layer"},
		"no such body":      {[]string{"features", parts + "gauge-lid.step", "--body", "3"}, 2, "choose one of them"},
		"export to what":    {[]string{"export", parts + "gauge-lid.step", "--out", dir + "/lid.xyz"}, 2, "ends in .stl"},
		"a drawing":         {[]string{"plan", parts + "clamp-plate.dxf", "--out", dir, "--levels", "OUTLINE=0,16;POCKET=0,9;COUNTERBORE=0,6;THROUGH=0,16"}, 0, ""},
		"no benchmark":      {[]string{"bench", "nothing"}, 2, "no benchmark"},
		"upside down":       {[]string{"plan", parts + "gauge-lid.step", "--out", dir, "--up", "-Z"}, 0, ""},
		"stock by size":     {[]string{"plan", parts + "sensor-bracket.step", "--out", dir, "--stock", "box:=85,56,32"}, 0, ""},
		"the plain dialect": {[]string{"plan", parts + "sensor-bracket.step", "--out", dir, "--dialect", "iso-plain", "--material", "x5crni"}, 0, ""},
	} {
		t.Run(name, func(t *testing.T) {
			out, errs, code := run(t, c.args...)
			assert.Equal(t, c.code, code, out+errs)
			assert.Contains(t, errs, c.say)
			assert.LessOrEqual(t, strings.Count(errs, "\n"), 1, "one line")
		})
	}
}

func TestInspectAndFeatures(t *testing.T) {
	out, _, code := run(t, "inspect", parts+"gauge-lid.step", "--json")
	require.Zero(t, code)
	var i struct {
		Part struct {
			Volume float64        `json:"volume_mm3"`
			Faces  map[string]int `json:"faces"`
		} `json:"part"`
	}
	require.NoError(t, json.Unmarshal([]byte(out), &i))
	assert.InDelta(t, 90880.999, i.Part.Volume, 0.01)
	assert.Equal(t, 19, i.Part.Faces["plane"])
	out, _, code = run(t, "features", parts+"gauge-lid.step", "--up", "-Z", "--json")
	require.Zero(t, code)
	assert.Contains(t, out, `"approach": [`)
	mesh := filepath.Join(t.TempDir(), "lid.stl")
	_, errs, code := run(t, "export", parts+"gauge-lid.step", "--out", mesh)
	require.Zero(t, code, errs)
	before, _, _ := run(t, "features", parts+"gauge-lid.step", "--up", "Z")
	after, _, code := run(t, "features", mesh, "--up", "Z")
	require.Zero(t, code)
	assert.Equal(t, before, after, "the same is found in the mesh")
	for _, c := range []string{"plan", "features", "inspect", "export", "simulate", "bench", "demo", "serve"} {
		out, _, code := run(t, c, "--help")
		assert.Zero(t, code)
		assert.Contains(t, out, "Usage:")
	}
}

// Stock that is no block, and what holds the work, by the command line; the
// program is proven again from the report.
func TestStockAndFixturesByFlags(t *testing.T) {
	dir := t.TempDir()
	out, errs, code := run(t, "plan", parts+"gauge-lid.step", "--stock", "cylinder:126,30", "--out", dir)
	require.Zero(t, code, out+errs)
	_, errs, code = run(t, "simulate", filepath.Join(dir, "report.json"))
	require.Zero(t, code, errs)
	var report struct {
		Setups []struct {
			StockFile  string `json:"stock_file"`
			StockWords string `json:"stock_words"`
		}
	}
	data, err := os.ReadFile(filepath.Join(dir, "report.json"))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &report))
	assert.Equal(t, "round bar ⌀126 × 30 mm", report.Setups[0].StockWords)
	data, err = os.ReadFile(filepath.Join(dir, report.Setups[0].StockFile))
	require.NoError(t, err)
	mesh, err := stl.Read(data)
	require.NoError(t, err)
	assert.InEpsilon(t, math.Pi*63*63*30, mesh.Volume(), 1e-3)

	part := filepath.Join(dir, "part.stl") // as its own stock: nothing is left to do
	out, errs, code = run(t, "export", parts+"gauge-lid.step", "--out", part)
	require.Zero(t, code, out+errs)
	out, errs, code = run(t, "plan", part, "--stock", part, "--out", dir)
	require.Zero(t, code, out+errs)
	assert.Contains(t, out, " 0 steps")
	_, errs, code = run(t, "simulate", filepath.Join(dir, "report.json"))
	require.Zero(t, code, errs)
	for _, bad := range []string{"cylinder:5", "body:x", "nowhere.stl", "cone:3"} {
		_, errs, code = run(t, "plan", parts+"gauge-lid.step", "--stock", bad, "--out", dir)
		assert.Equal(t, 2, code)
		assert.Equal(t, 1, strings.Count(strings.TrimSpace(errs), "\n")+1, errs)
	}
	_, errs, code = run(t, "plan", parts+"gauge-lid.step", "--fixture", "body:1", "--out", dir)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "not the one to cut")
}
