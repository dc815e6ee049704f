package web

import (
	"bytes"
	"encoding/binary"
	"math"
	"net/http"

	"github.com/labstack/echo/v5"

	"arete/core/brep"
	"arete/core/compare"
	"arete/core/geom"
	"arete/core/motion"
	"arete/report"
	"arete/shop"
)

// packer writes little-endian binary, every block aligned to four bytes.
type packer struct{ b bytes.Buffer }

func (p *packer) u32(v ...uint32) {
	for _, x := range v {
		_ = binary.Write(&p.b, binary.LittleEndian, x)
	}
}

func (p *packer) f32(v ...float64) {
	var buf [4]byte
	for _, x := range v {
		binary.LittleEndian.PutUint32(buf[:], math.Float32bits(float32(x)))
		p.b.Write(buf[:])
	}
}

func (p *packer) send(c *echo.Context) error {
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.Blob(http.StatusOK, "application/octet-stream", p.b.Bytes())
}

func (s *Server) ready(c *echo.Context) (shop.Part, *shop.State, error) {
	p, err := s.part(c)
	if err != nil {
		return p, nil, err
	}
	st, err := s.desk.Ready(c.Request().Context(), p.ID)
	return p, st, err
}

// computed returns what was computed of the part, and its model.
func (s *Server) computed(c *echo.Context) (*shop.Result, *shop.Model, error) {
	p, st, err := s.ready(c)
	if err != nil {
		return nil, nil, err
	}
	m, err := s.desk.Model(c.Request().Context(), p)
	return st.Result, m, err
}

// provenState waits for the proof of the current plan.
func (s *Server) provenState(c *echo.Context) (*shop.State, error) {
	part, err := s.part(c)
	if err != nil {
		return nil, err
	}
	st, err := s.desk.Proven(c.Request().Context(), part.ID)
	if err == nil && st.Proof == nil {
		err = shop.ErrNotFound
	}
	return st, err
}

// model sends the part's mesh: counts, points, triangles with their face, and
// the edges as polylines.
func (s *Server) model(c *echo.Context) error {
	_, st, err := s.ready(c)
	if err != nil {
		return err
	}
	g := st.Result.Geometry
	lines := edgeLines(g.Solid)
	var p packer
	p.u32(uint32(len(g.Mesh.Points)), uint32(len(g.Mesh.Tris)), uint32(len(lines)))
	for _, q := range g.Mesh.Points {
		p.f32(q.X, q.Y, q.Z)
	}
	for i, t := range g.Mesh.Tris {
		p.u32(uint32(t[0]), uint32(t[1]), uint32(t[2]), uint32(g.Mesh.Face[i]))
	}
	for _, l := range lines {
		p.f32(l.X, l.Y, l.Z)
	}
	return p.send(c)
}

// edgeLines returns pairs of points along all edges between two faces.
func edgeLines(s *brep.Solid) []geom.V3 {
	var out []geom.V3
	for _, e := range drawnEdges(s) {
		points := e.Points(edgeChord)
		for k := 1; k < len(points); k++ {
			out = append(out, points[k-1], points[k])
		}
	}
	return out
}

// stock sends the log of the dexels: for each cell the times and heights of
// its cuts in order of time.
func (s *Server) stock(c *echo.Context) error {
	st, err := s.provenState(c)
	if err != nil {
		return err
	}
	g := st.Proof.Grid
	var p packer
	p.u32(uint32(g.NX), uint32(g.NY), uint32(len(g.Log.Time)), uint32(st.Proven))
	p.f32(g.Min.X, g.Min.Y, g.DX, g.DY, g.Top, g.Bottom)
	var times, heights packer
	var order []int32
	for cell := range g.Z {
		order = order[:0]
		for e := g.Log.Head[cell]; e >= 0; e = g.Log.Prev[e] {
			order = append(order, e)
		}
		p.u32(uint32(len(order)))
		for i := len(order) - 1; i >= 0; i-- {
			times.f32(float64(g.Log.Time[order[i]]))
			heights.f32(float64(g.Log.Z[order[i]]))
		}
	}
	p.b.Write(times.b.Bytes())
	p.b.Write(heights.b.Bytes())
	for _, z := range g.Start { // of stock that is no block
		p.f32(float64(z))
	}
	return p.send(c)
}

// path sends the moves as a polyline: x, y, z, time of arrival, line of the
// code, and kind + 4·step.
func (s *Server) path(c *echo.Context) error {
	_, st, err := s.ready(c)
	if err != nil {
		return err
	}
	lines := lineOf(st)
	var p packer
	for k, step := range st.Result.Steps {
		at, t := step.Start, step.T0
		posted := lines[step.Step.ID]
		for i, m := range step.Path.Moves {
			n := 1
			if m.IsArc() {
				n = max(1, int(math.Ceil(math.Abs(m.Sweep(at))/0.15)))
			}
			line := 0
			if i < len(posted) {
				line = posted[i]
			}
			kind := 0
			if m.Kind != motion.Rapid {
				kind = 1
			}
			for j := 1; j <= n; j++ {
				q := m.At(at, float64(j)/float64(n))
				p.f32(q.X, q.Y, q.Z, t+step.Times[i]*float64(j)/float64(n), float64(line), float64(kind+4*k))
			}
			t += step.Times[i]
			at = m.To
		}
	}
	return p.send(c)
}

// lineOf returns for each step the 1-based line of code of each move; moves
// that were folded into another block take that block's line.
func lineOf(st *shop.State) map[string][]int {
	out := map[string][]int{}
	if st.Proof == nil || st.Proven != st.Version {
		return out
	}
	var ids []string
	for _, s := range st.Result.Steps {
		if n := len(s.Path.Moves); n > 0 {
			ids = append(ids, s.Step.ID)
			out[s.Step.ID] = make([]int, n)
		}
	}
	for i, l := range st.Proof.Text.Lines {
		if l.Step >= 0 && l.Step < len(ids) && l.Move >= 0 {
			if list := out[ids[l.Step]]; l.Move < len(list) {
				list[l.Move] = i + 1
			}
		}
	}
	for _, list := range out {
		last := 0
		for i := len(list) - 1; i >= 0; i-- {
			if list[i] == 0 {
				list[i] = last
			}
			last = list[i]
		}
	}
	return out
}

// compare sends the part's surface in small triangles, each with its
// deviation from the stock as cut.
func (s *Server) compare(c *echo.Context) error {
	st, err := s.provenState(c)
	if err != nil {
		return err
	}
	g := st.Result.Geometry
	var p packer
	put := func(a, b, c geom.V3, face int32, dev float64) {
		p.f32(a.X, a.Y, a.Z, b.X, b.Y, b.Z, c.X, c.Y, c.Z, float64(face), dev)
	}
	near := samplesByFace(st.Proof.Faces)
	for i, t := range g.Mesh.Tris {
		split(g.Mesh.Points[t[0]], g.Mesh.Points[t[1]], g.Mesh.Points[t[2]], 3, func(a, b, c geom.V3) {
			f := g.Mesh.Face[i]
			put(a, b, c, f, near[f].at(a.Add(b).Add(c).Mul(1.0/3)))
		})
	}
	return p.send(c)
}

// split cuts a triangle at its longest side until no side is longer.
func split(a, b, c geom.V3, longest float64, f func(a, b, c geom.V3)) {
	ab, bc, ca := a.Dist(b), b.Dist(c), c.Dist(a)
	switch l := math.Max(ab, math.Max(bc, ca)); {
	case l <= longest:
		f(a, b, c)
	case l == ab:
		m := a.Lerp(b, 0.5)
		split(a, m, c, longest, f)
		split(m, b, c, longest, f)
	case l == bc:
		m := b.Lerp(c, 0.5)
		split(a, b, m, longest, f)
		split(a, m, c, longest, f)
	default:
		m := c.Lerp(a, 0.5)
		split(a, b, m, longest, f)
		split(m, b, c, longest, f)
	}
}

// samples finds the measured point nearest to a place on a face.
type samples struct {
	cell float64
	bins map[[3]int][]compare.Sample
}

func samplesByFace(faces []compare.Face) []samples {
	out := make([]samples, len(faces))
	for i, f := range faces {
		s := samples{cell: 2, bins: map[[3]int][]compare.Sample{}}
		for _, q := range f.Samples {
			k := s.key(q.P)
			s.bins[k] = append(s.bins[k], q)
		}
		out[i] = s
	}
	return out
}

func (s samples) key(p geom.V3) [3]int {
	return [3]int{int(math.Floor(p.X / s.cell)), int(math.Floor(p.Y / s.cell)), int(math.Floor(p.Z / s.cell))}
}

func (s samples) at(p geom.V3) float64 {
	best, dev := math.Inf(1), 0.0
	k := s.key(p)
	for x := -1; x <= 1; x++ {
		for y := -1; y <= 1; y++ {
			for z := -1; z <= 1; z++ {
				for _, q := range s.bins[[3]int{k[0] + x, k[1] + y, k[2] + z}] {
					if d := q.P.Dist(p); d < best {
						best, dev = d, q.Dev
					}
				}
			}
		}
	}
	return dev
}

// picture sends the part drawn from the front, right and above.
func (s *Server) picture(c *echo.Context) error {
	part, err := s.part(c)
	if err != nil {
		return err
	}
	m, err := s.desk.Model(c.Request().Context(), part)
	if err != nil {
		return err
	}
	saved, err := s.desk.Plan(c.Request().Context(), part.ID)
	if err != nil {
		return err
	}
	g, err := s.desk.Place(c.Request().Context(), m, saved.Plan.Setup)
	if err != nil {
		return err
	}
	data, err := report.Picture(g.Solid, g.Mesh, 360, 240)
	if err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "image/png", data)
}
