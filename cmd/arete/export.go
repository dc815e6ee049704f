package main

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"arete/shop"
)

func exportCommand() *cobra.Command {
	var out, up string
	var part partFlags
	c := &cobra.Command{
		Use:   "export PART --out FILE.stl|FILE.dxf|FILE.svg",
		Short: "Write a part as a mesh, or its regions as a drawing",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			kind := map[string]string{".stl": "part.stl", ".dxf": "regions.dxf", ".svg": "regions.svg"}[strings.ToLower(filepath.Ext(out))]
			if kind == "" {
				return unusable(fmt.Errorf("--out %q: the name ends in .stl, .dxf or .svg", out))
			}
			m, g, err := placedPart(c.Context(), args[0], part, up)
			if err != nil {
				return err
			}
			var b bytes.Buffer
			if err := shop.Exports[kind](&b, title(m, args[0]), &shop.Result{Geometry: g}, nil, 0); err != nil {
				return err
			}
			return os.WriteFile(out, b.Bytes(), 0o644)
		},
	}
	c.Flags().StringVar(&out, "out", "", "file to write")
	c.Flags().StringVar(&up, "up", "Z", "which way points to the spindle: AUTO, X, -X, Y, -Y, Z, -Z or nx,ny,nz")
	part.register(c.Flags())
	_ = c.MarkFlagRequired("out")
	return c
}
