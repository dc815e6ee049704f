package shop

import (
	"math"
	"time"

	"arete/core/brep"
	"arete/core/compare"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/removal"
	"arete/core/tooling"
	"arete/core/workplan"
)

// Version of the program.
const Version = "0.1.0"

type vec = [3]float64

// round9 keeps the last digits of a sum out of files, so that they compare.
func round9(v float64) float64 {
	r := math.Round(v*1e6) / 1e6
	if r == 0 {
		return 0
	}
	return r
}

func xyz(p geom.V3) vec { return vec{round9(p.X), round9(p.Y), round9(p.Z)} }

// BoxJSON is a box in a report.
type BoxJSON struct {
	Min vec `json:"min"`
	Max vec `json:"max"`
}

func boxJSON(b geom.Box) BoxJSON { return BoxJSON{xyz(b.Min), xyz(b.Max)} }

// PartJSON describes a body.
type PartJSON struct {
	Solids int            `json:"solids"`
	Volume float64        `json:"volume_mm3"`
	Area   float64        `json:"area_mm2"`
	Box    BoxJSON        `json:"box"`
	Faces  map[string]int `json:"faces"`
}

// DescribePart sums up solids as inspect and plan report them.
func DescribePart(bodies ...*brep.Solid) PartJSON {
	p := PartJSON{Solids: len(bodies), Faces: map[string]int{"plane": 0, "cylinder": 0, "cone": 0, "sphere": 0, "torus": 0, "bspline": 0, "other": 0}}
	box := geom.EmptyBox()
	for _, b := range bodies {
		v, a := b.Mass()
		p.Volume, p.Area = p.Volume+v, p.Area+a
		box = box.Union(b.Box())
		for _, f := range b.Faces {
			p.Faces[string(f.Surface.Kind())]++
		}
	}
	p.Volume, p.Area, p.Box = round9(p.Volume), round9(p.Area), boxJSON(box)
	return p
}

// FeatureJSON is a feature in part coordinates.
type FeatureJSON struct {
	ID        string         `json:"id"`
	Kind      feature.Kind   `json:"kind"`
	Name      string         `json:"name"`
	Approach  vec            `json:"approach"`
	Faces     []int          `json:"faces"`
	Params    map[string]any `json:"params"`
	Reachable bool           `json:"reachable"`
	Why       string         `json:"why"`
}

// DescribeFeatures lists features in part coordinates; faces are named by
// their entity numbers in the file. Reachable tells of the setup, or, when
// bySide is set, of any round tool from the feature's own side.
func DescribeFeatures(g *Geometry, bySide bool) []FeatureJSON {
	out := []FeatureJSON{}
	pattern := map[string]string{}
	for _, p := range g.Work.Features.Patterns {
		for _, id := range p.Features {
			pattern[id] = p.ID
		}
	}
	for _, f := range g.Work.Features.Features {
		p := f.Params
		up := g.Frame.Turn(f.Approach)
		// Levels are dot products with the approach: shift them to part coordinates.
		shift := g.Frame.O.Dot(up)
		j := FeatureJSON{ID: f.ID, Kind: f.Kind, Name: f.Title(), Approach: xyz(up), Faces: []int{}, Reachable: f.Reachable, Why: f.Why}
		if bySide {
			j.Reachable, j.Why = f.Tool.OK, f.Tool.Why
		}
		for _, i := range f.Faces {
			j.Faces = append(j.Faces, g.Solid.Faces[i].ID)
		}
		j.Params = map[string]any{
			"diameter": round9(p.Diameter), "depth": round9(p.Depth), "through": p.Through, "bottom": p.Bottom,
			"center":      xyz(g.Frame.ToWorld(p.Center)),
			"counterbore": map[string]float64{"diameter": round9(p.Counterbore.Diameter), "depth": round9(p.Counterbore.Depth)},
			"countersink": map[string]float64{"diameter": round9(p.Countersink.Diameter), "angle": round9(p.Countersink.Angle)},
			"floor_z":     round9(p.FloorZ + shift), "top_z": round9(p.TopZ + shift), "min_inside_radius": round9(p.MinInsideRadius),
			"open": p.Open, "islands": max(0, p.Islands), "width": round9(p.Width), "length": round9(p.Length),
			"floor_radius": round9(p.FloorRadius), "draft": round9(p.Draft), "radius": round9(p.Radius), "point_angle": round9(p.PointAngle),
			"back_counterbore": map[string]float64{"diameter": round9(p.Back.Diameter), "depth": round9(p.Back.Depth)},
			"thread":           p.Thread, "pattern": pattern[f.ID],
			"neighbours": append([]string{}, f.Neighbours...), "directions": directions(g, f),
		}
		out = append(out, j)
	}
	return out
}

// directions lists where a feature can be cut from, in part coordinates.
func directions(g *Geometry, f *feature.Feature) [][3]float64 {
	var out [][3]float64
	for _, d := range f.Directions {
		out = append(out, xyz(g.Frame.Turn(d)))
	}
	return out
}

// PatternJSON is a group of equal holes in part coordinates.
type PatternJSON struct {
	ID       string     `json:"id"`
	Kind     string     `json:"kind"`
	Features []string   `json:"features"`
	Center   vec        `json:"center"`
	Diameter float64    `json:"diameter"`
	Pitch    [2]float64 `json:"pitch"`
}

// DescribePatterns lists the patterns of equal holes.
func DescribePatterns(g *Geometry) []PatternJSON {
	out := []PatternJSON{}
	for _, p := range g.Work.Features.Patterns {
		out = append(out, PatternJSON{p.ID, p.Kind, p.Features, xyz(g.Frame.ToWorld(p.Center)), round9(p.Diameter), [2]float64{round9(p.Pitch[0]), round9(p.Pitch[1])}})
	}
	return out
}

// ToolJSON is a tool in a report.
type ToolJSON struct {
	Number      int               `json:"number"`
	Name        string            `json:"name"`
	Kind        tooling.Kind      `json:"kind"`
	Diameter    float64           `json:"diameter"`
	CornerRad   float64           `json:"corner_radius"`
	PointAngle  float64           `json:"point_angle"`
	TipDiameter float64           `json:"tip_diameter"`
	FluteLength float64           `json:"flute_length"`
	Teeth       int               `json:"teeth"`
	Stickout    float64           `json:"stickout"`
	Shank       float64           `json:"shank_diameter"`
	Holder      []tooling.Segment `json:"holder"`
}

// StepJSON is a step in a report.
type StepJSON struct {
	ID        string   `json:"id"`
	Kind      string   `json:"kind"`
	Name      string   `json:"name"`
	Tool      int      `json:"tool"`
	Features  []string `json:"features"`
	Time      float64  `json:"time_s"`
	CutLength float64  `json:"cut_length_mm"`
	Removed   float64  `json:"removed_mm3"`
	N         float64  `json:"n_rpm"`
	Feed      float64  `json:"vf_mm_min"`
	AP        float64  `json:"ap_mm"`
	AE        float64  `json:"ae_mm"`
	Power     float64  `json:"peak_power_kw"`
	Warnings  []string `json:"warnings"`
}

// StockFile is the name of the mesh of stock that is no block.
const StockFile = "stock.stl"

// SetupJSON is a setup in a report.
type SetupJSON struct {
	Name       string      `json:"name"`
	WorkOffset string      `json:"work_offset"`
	ToPart     [16]float64 `json:"to_part"`
	Stock      BoxJSON     `json:"stock"`
	StockFile  string      `json:"stock_file,omitempty"` // of stock that is no block: its mesh in setup coordinates
	StockWords string      `json:"stock_words"`
	Programs   []string    `json:"programs"`
	Tools      []ToolJSON  `json:"tools"`
	Steps      []StepJSON  `json:"steps"`
}

// ProofJSON is the proof in a report.
type ProofJSON struct {
	Overcut    float64             `json:"overcut_max_mm"`
	Excess     float64             `json:"excess_max_mm"`
	Collisions []removal.Collision `json:"collisions"`
	Faces      map[string]int      `json:"faces"`
	ReadBack   bool                `json:"read_back_equal"`
	Findings   []string            `json:"findings"`
}

// Report is report.json.
type Report struct {
	Arete string `json:"arete"`
	Input struct {
		File   string `json:"file"`
		SHA256 string `json:"sha256"`
		Unit   string `json:"unit"`
	} `json:"input"`
	Part     PartJSON       `json:"part"`
	Features []FeatureJSON  `json:"features"`
	Setups   []SetupJSON    `json:"setups"`
	Proof    ProofJSON      `json:"proof"`
	Notes    []string       `json:"notes"`
	Time     float64        `json:"time_s"`
	Timing   map[string]int `json:"timing_ms"`
	Plan     workplan.Plan  `json:"plan"`
}

// MakeReport describes a computed and proven plan.
func MakeReport(file string, m *Model, r *Result, p *Proof, program string, notes []string) *Report {
	body, _, err := m.Target(r.Plan.Setup)
	if err != nil { // it has been computed with it
		body = r.Geometry.Solid
	}
	out := &Report{Arete: Version, Part: DescribePart(body), Features: DescribeFeatures(r.Geometry, false),
		Notes: append([]string{}, notes...), Time: math.Round(r.Total*10) / 10, Plan: r.Plan}
	out.Part.Solids = len(m.Bodies)
	out.Input.File, out.Input.SHA256, out.Input.Unit = file, m.Hash, m.Unit
	s := SetupJSON{Name: r.Plan.Setup.Name, WorkOffset: r.Plan.Setup.WorkOffset, Stock: boxJSON(r.Geometry.Work.Stock), StockWords: StockWords(r),
		Programs: []string{program}, Tools: []ToolJSON{}, Steps: []StepJSON{}}
	for i, v := range r.Geometry.Frame.Matrix() {
		s.ToPart[i] = round9(v)
	}
	if r.Geometry.Work.Blank != nil {
		s.StockFile = StockFile
	}
	seen := map[int]bool{}
	for i := range r.Steps {
		st := &r.Steps[i]
		if t := st.Tool; t.Position > 0 && !seen[t.Position] {
			seen[t.Position] = true
			s.Tools = append(s.Tools, ToolJSON{t.Position, t.Name, t.Kind, t.DC, t.RE, t.SIG, t.Tip, t.APMX, t.ZEFF, t.Stickout, t.Shank, t.Holder})
		}
		s.Steps = append(s.Steps, stepJSON(st, &r.Shop, p.Removed[i]))
	}
	out.Setups = []SetupJSON{s}
	out.Proof = DescribeProof(p)
	return out
}

func stepJSON(st *StepResult, shop *workplan.Shop, removed float64) StepJSON {
	w := st.Warnings(shop)
	if w == nil {
		w = []string{}
	}
	return StepJSON{ID: st.Step.ID, Kind: string(st.Step.Op), Name: st.Step.Name, Tool: st.Step.Tool, Features: st.Step.Features,
		Time: math.Round(st.Time*100) / 100, CutLength: math.Round(st.CutLen*10) / 10, Removed: math.Round(removed*10) / 10,
		N: st.Numbers.Get("n"), Feed: st.Numbers.Get("vf"), AP: st.Numbers.Get("ap"), AE: st.Numbers.Get("ae"),
		Power: math.Round(st.Load.Power*1000) / 1000, Warnings: w}
}

// DescribeProof is the proof as reported.
func DescribeProof(p *Proof) ProofJSON {
	j := ProofJSON{Overcut: math.Max(0, math.Round(p.Overcut*1e5)/1e5), Excess: math.Round(p.Excess*1e5) / 1e5, Collisions: p.Collisions,
		Faces: map[string]int{}, ReadBack: p.ReadBack == "", Findings: p.Findings()}
	if j.Collisions == nil {
		j.Collisions = []removal.Collision{}
	}
	if j.Findings == nil {
		j.Findings = []string{}
	}
	for _, k := range []compare.State{compare.Finished, compare.Left, compare.Overcut, compare.Unreachable, compare.Uncut} {
		j.Faces[string(k)] = p.Counts[k]
	}
	j.Faces["left"] += j.Faces["uncut"]
	return j
}

// Millis is a duration in whole milliseconds.
func Millis(d time.Duration) int { return int(d.Milliseconds()) }
