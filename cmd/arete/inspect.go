package main

import (
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"arete/core/feature"
	"arete/core/geom"
	"arete/shop"
)

// inspection is what inspect prints.
type inspection struct {
	Input struct {
		File   string `json:"file"`
		SHA256 string `json:"sha256"`
		Unit   string `json:"unit"`
	} `json:"input"`
	Part     shop.PartJSON `json:"part"`
	Bodies   []body        `json:"bodies"`
	Problems []string      `json:"problems"`
}

type body struct {
	Name string `json:"name"`
	shop.PartJSON
	Placement [16]float64 `json:"placement"`
}

func inspectCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "inspect PART",
		Short: "Show what a model holds: bodies, faces, volume, area, size, problems",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			m, err := openModel(args[0])
			if err != nil {
				return err
			}
			out := inspection{Part: shop.DescribePart(m.Solids()...), Problems: append([]string{}, m.Problems...)}
			out.Input.File, out.Input.SHA256, out.Input.Unit = args[0], m.Hash, m.Unit
			for _, b := range m.Bodies {
				out.Bodies = append(out.Bodies, body{b.Name, shop.DescribePart(b.Solid), b.Placement.Matrix()})
			}
			if asJSON {
				return printJSON(os.Stdout, out)
			}
			p := out.Part
			fmt.Printf("%s (%s)\n  %d bodies, %.3f mm³, %.3f mm²\n  box %.3f × %.3f × %.3f mm\n", args[0], m.Unit, p.Solids, p.Volume, p.Area,
				p.Box.Max[0]-p.Box.Min[0], p.Box.Max[1]-p.Box.Min[1], p.Box.Max[2]-p.Box.Min[2])
			for _, k := range []string{"plane", "cylinder", "cone", "sphere", "torus", "bspline", "other"} {
				if p.Faces[k] > 0 {
					fmt.Printf("  %d faces: %s\n", p.Faces[k], k)
				}
			}
			for _, s := range m.Problems {
				fmt.Println("  note: " + s)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return c
}

var patternWords = map[string]string{"line": "in line", "grid": "in a grid", "circle": "on a circle", "same": "spread"}

// side names the side a feature is cut from, unless it is the top.
func side(d [3]float64) string {
	if name := feature.Toward(geom.V3{X: d[0], Y: d[1], Z: d[2]}); name != "+Z" {
		return ", from " + name
	}
	return ""
}

func featuresCommand() *cobra.Command {
	var asJSON bool
	var up string
	var part partFlags
	c := &cobra.Command{
		Use:   "features PART",
		Short: "Find what must be cut, without planning",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			_, g, err := placedPart(c.Context(), args[0], part, up)
			if err != nil {
				return err
			}
			list := shop.DescribeFeatures(g, true)
			patterns := shop.DescribePatterns(g)
			if asJSON {
				return printJSON(os.Stdout, map[string]any{"features": list, "patterns": patterns})
			}
			for _, f := range list {
				why := ""
				if f.Why != "" {
					why = "  (" + f.Why + ")"
				}
				fmt.Printf("%-4s %-16s %s%s%s\n", f.ID, f.Kind, f.Name, side(f.Approach), why)
			}
			for _, p := range patterns {
				fmt.Printf("%-4s %d equal holes, %s: %s\n", p.ID, len(p.Features), patternWords[p.Kind], strings.Join(p.Features, " "))
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	part.register(c.Flags())
	c.Flags().StringVar(&up, "up", "AUTO", "which way points to the spindle: AUTO, X, -X, Y, -Y, Z, -Z or nx,ny,nz")
	return c
}
