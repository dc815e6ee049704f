package shop

import (
	"fmt"
	"io"

	"arete/core/exchange/dxf"
	"arete/core/exchange/stl"
	"arete/core/exchange/svg"
	"arete/core/feature"
	"arete/core/planar"
)

// Exports are the files that can be taken out of a part, by name.
var Exports = map[string]func(w io.Writer, name string, r *Result, p *Proof, at float64) error{
	"part.stl": func(w io.Writer, name string, r *Result, _ *Proof, _ float64) error {
		return stl.WriteBinary(w, r.Geometry.Mesh, name)
	},
	"stock.stl":   exportStock,
	"regions.dxf": exportDXF,
	"regions.svg": exportSVG,
}

// exportStock writes the stock as it stands at a time of the program, s, in
// setup coordinates.
func exportStock(w io.Writer, name string, _ *Result, p *Proof, at float64) error {
	if p == nil {
		return fmt.Errorf("%w: the proof is being worked out; try again in a moment", ErrInput)
	}
	return stl.WriteBinary(w, p.Grid.Mesh(p.Grid.At(at)), name+", stock")
}

// outlined is a feature's region with its title.
type outlined struct {
	title  string
	region planar.Region
}

// outlines lists the regions of what is cut in the setup: holes by their
// circle.
func outlines(g *Geometry) []outlined {
	var out []outlined
	for _, f := range g.Work.Features.Features {
		r := f.Region
		if f.Kind == feature.RoundHole && f.Reachable {
			r = planar.Region{planar.Circle(f.Params.Center.XY(), f.Params.Diameter/2)}
		}
		if !r.Empty() {
			out = append(out, outlined{f.ID + " " + f.Title(), r})
		}
	}
	return out
}

func exportDXF(w io.Writer, _ string, r *Result, _ *Proof, _ float64) error {
	var all []dxf.Layered
	for _, o := range outlines(r.Geometry) {
		all = append(all, dxf.Layered{Layer: o.title, Region: o.region})
	}
	return dxf.Write(w, all)
}

func exportSVG(w io.Writer, _ string, r *Result, _ *Proof, _ float64) error {
	var all []svg.Named
	for _, o := range outlines(r.Geometry) {
		all = append(all, svg.Named{Title: o.title, Region: o.region})
	}
	return svg.Write(w, all)
}
