package main

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"time"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/exchange/stl"
	"arete/core/feature"
	"arete/core/fitting"
	"arete/core/geom"
	"arete/core/planar"
)

// pocketPlate is a plate with rounded pockets, a hole in each, in rows.
func pocketPlate(pockets int) (*brep.Solid, error) {
	cols := int(math.Ceil(math.Sqrt(float64(pockets))))
	rows := (pockets + cols - 1) / cols
	chains := []drawing.Chain{{Layer: "OUTLINE", Loop: planar.Rect(0, 0, float64(50*cols), float64(40*rows))}}
	for i := range pockets {
		at := geom.V2{X: float64(50*(i%cols) + 5), Y: float64(40*(i/cols) + 5)}
		inner := planar.Offset(planar.Region{planar.Rect(at.X+6, at.Y+6, at.X+34, at.Y+24)}, 6, planar.DefaultTolerance)
		chains = append(chains, drawing.Chain{Layer: "POCKETS", Loop: inner[0]},
			drawing.Chain{Layer: "HOLES", Loop: planar.Circle(at.Add(geom.V2{X: 20, Y: 15}), 3)})
	}
	out, err := drawing.Solids(chains, []drawing.Level{{Layer: "OUTLINE", Depth: 25}, {Layer: "POCKETS", Depth: 15}, {Layer: "HOLES", Depth: 25}})
	if err != nil {
		return nil, err
	}
	return out[0], nil
}

// benchFeatures measures recognition and the way back from a mesh against the
// number of faces.
func benchFeatures(ctx context.Context) ([]figure, error) {
	var out []figure
	for _, pockets := range []int{10, 22, 45, 90} {
		s, err := pocketPlate(pockets)
		if err != nil {
			return nil, err
		}
		n := fmt.Sprintf("%d faces", len(s.Faces))
		best := math.Inf(1)
		found := 0
		for range 5 {
			t := time.Now()
			set, _, err := feature.Recognise(ctx, s)
			if err != nil {
				return nil, err
			}
			best, found = math.Min(best, time.Since(t).Seconds()), len(set.Features)
		}
		out = append(out, figure{n + ", recognised", 1e3 * best, "ms", fmt.Sprintf("%d features, best of 5", found)})
		m, err := s.Tessellate(0.01)
		if err != nil {
			return nil, err
		}
		var file bytes.Buffer
		if err := stl.WriteBinary(&file, m, "plate"); err != nil {
			return nil, err
		}
		t := time.Now()
		back, err := stl.Read(file.Bytes())
		if err != nil {
			return nil, err
		}
		solids, err := fitting.Solids(back)
		if err != nil {
			return nil, err
		}
		took := time.Since(t).Seconds()
		out = append(out, figure{n + ", from a mesh", float64(len(m.Tris)) / took / 1e3, "k triangles/s", fmt.Sprintf("%d triangles, %d faces found again", len(m.Tris), len(solids[0].Faces))})
	}
	return out, nil
}
