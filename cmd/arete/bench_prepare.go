package main

import (
	"context"
	"fmt"
	"time"

	"arete/core/blank"
	"arete/core/brep"
	"arete/core/geom"
	"arete/core/prepare"
)

// benchPrepare measures changes of a part, and what a body is asked as stock,
// against the number of faces.
func benchPrepare(context.Context) ([]figure, error) {
	var out []figure
	for _, pockets := range []int{10, 45, 180} {
		s, err := pocketPlate(pockets)
		if err != nil {
			return nil, err
		}
		var holes, rim []int
		for i, f := range s.Faces {
			if c, round := f.Surface.(brep.Cylinder); round && c.R < 4 {
				holes = append(holes, i)
			}
		}
		for i, e := range s.Edges {
			if mid, _ := e.Mid(); mid.Z > -1e-9 && mid.Y < 1e-9 {
				rim = append(rim, i)
			}
		}
		n := fmt.Sprintf("%d faces", len(s.Faces))
		for _, c := range []struct {
			say string
			ch  prepare.Change
		}{
			{"a hole taken off", prepare.Change{Act: prepare.Remove, Faces: holes[:1]}},
			{fmt.Sprintf("%d holes taken off", len(holes)), prepare.Change{Act: prepare.Remove, Faces: holes}},
			{"an edge chamfered", prepare.Change{Act: prepare.Chamfer, Edges: rim, Size: 1}},
		} {
			t := time.Now()
			if _, _, err := prepare.Apply(s, []prepare.Change{c.ch}); err != nil {
				return nil, err
			}
			out = append(out, figure{n + ", " + c.say, ms(t), "ms", "checked"})
		}
		m, err := s.Tessellate(0.005)
		if err != nil {
			return nil, err
		}
		t := time.Now()
		b, err := blank.New(m, nil)
		if err != nil {
			return nil, err
		}
		took := ms(t)
		t = time.Now()
		const asked = 20000
		size := b.Box.Size()
		for k := range asked {
			u, v := float64(k%141)/141, float64(k/141)/141
			b.Outside(b.Box.Min.Add(geom.V3{X: u * size.X, Y: v * size.Y, Z: 0.5 * size.Z}), 2)
		}
		out = append(out, figure{n + ", as stock", took, "ms", fmt.Sprintf("%d triangles; then %.0f k distances/s", len(m.Tris), asked/ms(t))})
	}
	return out, nil
}

func ms(since time.Time) float64 { return float64(time.Since(since).Microseconds()) / 1e3 }
