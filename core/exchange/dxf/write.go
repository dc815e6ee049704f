package dxf

import (
	"bufio"
	"fmt"
	"io"
	"math"

	"arete/core/planar"
)

// Layered is a region on a layer.
type Layered struct {
	Layer  string
	Region planar.Region
}

// Write writes the outlines of regions as closed polylines with bulges, in mm,
// in the oldest form of the text, which every reader takes.
func Write(w io.Writer, regions []Layered) error {
	b := bufio.NewWriter(w)
	group := func(code int, value any) {
		if v, ok := value.(float64); ok {
			fmt.Fprintf(b, "%d\n%.6f\n", code, v)
			return
		}
		fmt.Fprintf(b, "%d\n%v\n", code, value)
	}
	section := func(name string) { group(0, "SECTION"); group(2, name) }
	section("HEADER")
	group(9, "$ACADVER")
	group(1, "AC1009")
	group(9, "$INSUNITS")
	group(70, 4)
	group(0, "ENDSEC")
	section("ENTITIES")
	for _, r := range regions {
		for _, l := range r.Region {
			group(0, "POLYLINE")
			group(8, r.Layer)
			group(66, 1)
			group(10, 0.0)
			group(20, 0.0)
			group(70, 1)
			for _, s := range l {
				group(0, "VERTEX")
				group(8, r.Layer)
				group(10, s.A.X)
				group(20, s.A.Y)
				if s.IsArc() {
					group(42, math.Tan(s.Sweep()/4))
				}
			}
			group(0, "SEQEND")
			group(8, r.Layer)
		}
	}
	group(0, "ENDSEC")
	group(0, "EOF")
	return b.Flush()
}
