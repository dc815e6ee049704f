// Package svg writes regions as scalable vector graphics: one path a region,
// with arcs as arcs, a millimetre as a unit.
package svg

import (
	"bufio"
	"fmt"
	"html"
	"io"
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// Named is a region with the title shown for it.
type Named struct {
	Title  string
	Region planar.Region
}

// Write writes the regions upright: y runs down in the file.
func Write(w io.Writer, regions []Named) error {
	lo, hi := geom.V2{X: math.Inf(1), Y: math.Inf(1)}, geom.V2{X: math.Inf(-1), Y: math.Inf(-1)}
	for _, r := range regions {
		if r.Region.Empty() {
			continue
		}
		a, b := r.Region.Bounds()
		lo, hi = geom.V2{X: math.Min(lo.X, a.X), Y: math.Min(lo.Y, a.Y)}, geom.V2{X: math.Max(hi.X, b.X), Y: math.Max(hi.Y, b.Y)}
	}
	if lo.X > hi.X {
		lo, hi = geom.V2{}, geom.V2{}
	}
	const rim = 2
	size := hi.Sub(lo).Add(geom.V2{X: 2 * rim, Y: 2 * rim})
	b := bufio.NewWriter(w)
	fmt.Fprintf(b, `<svg xmlns="http://www.w3.org/2000/svg" width="%.3fmm" height="%.3fmm" viewBox="%.4f %.4f %.4f %.4f">`+"\n", size.X, size.Y, lo.X-rim, -hi.Y-rim, size.X, size.Y)
	for _, r := range regions {
		if !r.Region.Empty() {
			fmt.Fprintf(b, `<path fill="none" stroke="#1b2430" stroke-width="0.2" d="%s"><title>%s</title></path>`+"\n", Path(r.Region), html.EscapeString(r.Title))
		}
	}
	fmt.Fprintln(b, "</svg>")
	return b.Flush()
}

// Path returns the outlines as path data, y turned down.
func Path(r planar.Region) string {
	var out []byte
	for _, l := range r {
		for i, s := range l {
			if i == 0 {
				out = fmt.Appendf(out, "M%.4f %.4f", s.A.X, -s.A.Y)
			}
			if s.IsArc() {
				large, way := 0, 0
				if math.Abs(s.Sweep()) > math.Pi {
					large = 1
				}
				if s.Turn < 0 {
					way = 1
				}
				out = fmt.Appendf(out, "A%.4f %.4f 0 %d %d %.4f %.4f", s.Radius(), s.Radius(), large, way, s.B.X, -s.B.Y)
			} else {
				out = fmt.Appendf(out, "L%.4f %.4f", s.B.X, -s.B.Y)
			}
		}
		out = append(out, 'Z')
	}
	return string(out)
}
