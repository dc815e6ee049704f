// Package report makes the papers of the shop: pictures, setup sheets, tool
// lists.
package report

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
)

// Colours of the paper and ink look.
var (
	paper = color.RGBA{0xf5, 0xf2, 0xea, 0xff}
	ink   = color.RGBA{0x1d, 0x2a, 0x2f, 0xff}
)

// Picture draws a solid from the front, right and above as PNG, at twice the
// size and averaged, so that edges are smooth. The same solid gives the same
// bytes.
func Picture(s *brep.Solid, m *mesh.Mesh, width, height int) ([]byte, error) {
	c := newCanvas(2*width, 2*height)
	c.fit(s.Box())
	for i := range m.Tris {
		t := m.Tris[i]
		c.triangle(m.Points[t[0]], m.Points[t[1]], m.Points[t[2]], shade(m.Normal(i)))
	}
	for _, e := range s.Edges {
		if len(e.Uses) == 2 && e.Uses[0].Face != e.Uses[1].Face {
			c.edge(e)
		}
	}
	var b bytes.Buffer
	err := png.Encode(&b, c.halved())
	return b.Bytes(), err
}

// shade is the colour of a surface by its normal: light from the upper left.
func shade(n geom.V3) color.RGBA {
	light := geom.V3{X: -0.35, Y: -0.45, Z: 0.82}.Unit()
	k := 0.62 + 0.38*math.Max(0, n.Dot(light))
	return color.RGBA{uint8(206 * k), uint8(217 * k), uint8(216 * k), 255}
}

type canvas struct {
	img     *image.RGBA
	depth   []float64
	w, h    int
	x, y, z geom.V3 // screen axes in space; z towards the eye
	center  geom.V3
	scale   float64
}

func newCanvas(w, h int) *canvas {
	c := &canvas{img: image.NewRGBA(image.Rect(0, 0, w, h)), depth: make([]float64, w*h), w: w, h: h}
	for i := range c.depth {
		c.depth[i] = math.Inf(-1)
		c.img.SetRGBA(i%w, i/w, paper)
	}
	c.z = geom.V3{X: 0.55, Y: -0.75, Z: 0.72}.Unit()
	c.x = geom.V3{Z: 1}.Cross(c.z).Unit()
	c.y = c.z.Cross(c.x)
	return c
}

func (c *canvas) fit(b geom.Box) {
	c.center = b.Center()
	var rx, ry float64
	for _, p := range b.Corners() {
		q := p.Sub(c.center)
		rx, ry = math.Max(rx, math.Abs(q.Dot(c.x))), math.Max(ry, math.Abs(q.Dot(c.y)))
	}
	c.scale = 0.92 * math.Min(float64(c.w)/2/rx, float64(c.h)/2/ry)
}

func (c *canvas) project(p geom.V3) geom.V3 {
	q := p.Sub(c.center)
	return geom.V3{X: float64(c.w)/2 + c.scale*q.Dot(c.x), Y: float64(c.h)/2 - c.scale*q.Dot(c.y), Z: c.scale * q.Dot(c.z)}
}

func (c *canvas) triangle(p, q, r geom.V3, col color.RGBA) {
	a, b, d := c.project(p), c.project(q), c.project(r)
	area := b.Sub(a).XY().Cross(d.Sub(a).XY())
	if area == 0 {
		return
	}
	x0, x1 := clampSpan(math.Min(a.X, math.Min(b.X, d.X)), math.Max(a.X, math.Max(b.X, d.X)), c.w)
	y0, y1 := clampSpan(math.Min(a.Y, math.Min(b.Y, d.Y)), math.Max(a.Y, math.Max(b.Y, d.Y)), c.h)
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			s := geom.V2{X: float64(x) + 0.5, Y: float64(y) + 0.5}
			u := b.XY().Sub(s).Cross(d.XY().Sub(s)) / area
			v := d.XY().Sub(s).Cross(a.XY().Sub(s)) / area
			w := 1 - u - v
			if u < 0 || v < 0 || w < 0 {
				continue
			}
			if z := u*a.Z + v*b.Z + w*d.Z; z > c.depth[y*c.w+x] {
				c.depth[y*c.w+x] = z
				c.img.SetRGBA(x, y, col)
			}
		}
	}
}

func clampSpan(lo, hi float64, n int) (int, int) {
	return max(0, int(lo)), min(n-1, int(hi)+1)
}

// edge draws an edge where nothing stands in front of it.
func (c *canvas) edge(e *brep.Edge) {
	length := e.Len() * c.scale
	n := max(2, int(length))
	for i := 0; i <= n; i++ {
		p := c.project(e.Curve.At(e.T0 + (e.T1-e.T0)*float64(i)/float64(n)))
		for dy := 0; dy < 2; dy++ {
			for dx := 0; dx < 2; dx++ {
				x, y := int(p.X)+dx, int(p.Y)+dy
				if x >= 0 && y >= 0 && x < c.w && y < c.h && p.Z > c.depth[y*c.w+x]-1.5 {
					c.img.SetRGBA(x, y, ink)
				}
			}
		}
	}
}

func (c *canvas) halved() *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, c.w/2, c.h/2))
	for y := 0; y < c.h/2; y++ {
		for x := 0; x < c.w/2; x++ {
			var r, g, b int
			for k := 0; k < 4; k++ {
				p := c.img.RGBAAt(2*x+k&1, 2*y+k>>1)
				r, g, b = r+int(p.R), g+int(p.G), b+int(p.B)
			}
			out.SetRGBA(x, y, color.RGBA{uint8(r / 4), uint8(g / 4), uint8(b / 4), 255})
		}
	}
	return out
}
