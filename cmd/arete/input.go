package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/pflag"

	"arete/core/drawing"
	"arete/core/exchange/step"
	"arete/core/geom"
	"arete/core/workplan"
	"arete/demo"
	"arete/shop"
)

var osContext = context.Background()

// openModel reads a part from a file.
func openModel(path string) (*shop.Model, error) {
	if st, err := os.Stat(path); err == nil && st.Size() > step.MaxSize {
		return nil, unusable(fmt.Errorf("%s is larger than 256 MB; export the part alone", path))
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, unusable(fmt.Errorf("%s cannot be opened: %w; check the path", path, err))
	}
	m, err := shop.Import(data)
	if err != nil {
		return nil, unusable(fmt.Errorf("%s: %w", path, err))
	}
	return m, nil
}

// openLibrary reads a library file, or the built-in one.
func openLibrary(path string) (*shop.Library, error) {
	data := demo.Library
	if path != "" {
		var err error
		if data, err = os.ReadFile(path); err != nil {
			return nil, unusable(err)
		}
	}
	lib, err := shop.ReadLibrary(data)
	if err != nil {
		return nil, unusable(err)
	}
	return lib, nil
}

// placedPart opens a file and puts the body chosen of it into a setup, with the
// features found in it.
func placedPart(ctx context.Context, path string, part partFlags, up string) (*shop.Model, *shop.Geometry, error) {
	m, err := openModel(path)
	if err != nil {
		return nil, nil, err
	}
	setup := defaultSetup()
	if err := part.apply(m, &setup); err != nil {
		return nil, nil, unusable(err)
	}
	if setup.Up, err = chooseUp(ctx, m, setup, up); err != nil {
		return nil, nil, unusable(err)
	}
	g, err := shop.Place(ctx, m, setup)
	if err != nil {
		return nil, nil, unusable(fmt.Errorf("%s: %w", path, err))
	}
	return m, g, nil
}

// chooseUp finds the direction for AUTO, and reads any other.
func chooseUp(ctx context.Context, m *shop.Model, setup workplan.Setup, s string) ([3]float64, error) {
	if s == "" || strings.EqualFold(s, "AUTO") {
		return shop.BestUp(ctx, m, setup)
	}
	return parseUp(s)
}

// partFlags choose what of a file is cut.
type partFlags struct {
	body   int
	levels string
}

func (f *partFlags) register(p *pflag.FlagSet) {
	p.IntVar(&f.body, "body", 0, "which body of the file, from 1 as inspect lists them (default: the largest)")
	p.StringVar(&f.levels, "levels", "", "levels of a flat drawing's layers, or of one chain of a layer: NAME=TOP,DEPTH;NAME#2=TOP,DEPTH;… in mm, or NAME=off")
}

// apply enters the choice into a setup.
func (f *partFlags) apply(m *shop.Model, s *workplan.Setup) error {
	s.Body = f.body
	if f.levels == "" {
		return s.Validate()
	}
	if len(m.Chains) == 0 {
		return fmt.Errorf("--levels is for flat drawings (DXF); this file has its own depths")
	}
	s.Layers = slices.Clone(m.Levels(*s))
	for _, item := range strings.Split(f.levels, ";") {
		name, value, _ := strings.Cut(item, "=")
		i, err := levelIndex(m, s, name)
		if err != nil {
			return err
		}
		if s.Layers[i].Off = value == "off"; s.Layers[i].Off {
			continue
		}
		v, err := numbers(value, 2)
		if err != nil {
			return fmt.Errorf("--levels %q: write NAME=TOP,DEPTH in mm, or NAME=off", item)
		}
		s.Layers[i].Top, s.Layers[i].Depth = v[0], v[1]
	}
	return s.Validate()
}

// levelIndex finds the level of a layer, or of one of its chains (NAME#2), which
// it makes when there is none.
func levelIndex(m *shop.Model, s *workplan.Setup, name string) (int, error) {
	find := func(layer string, chain int) int {
		return slices.IndexFunc(s.Layers, func(l drawing.Level) bool { return l.Layer == layer && l.Chain == chain })
	}
	if i := find(name, 0); i >= 0 {
		return i, nil
	}
	layer, number, _ := strings.Cut(name, "#")
	chain, err := strconv.Atoi(number)
	if err != nil || !slices.Contains(drawing.Places(m.Chains), drawing.Place{Layer: layer, Chain: chain}) {
		return 0, fmt.Errorf("--levels: the drawing has no closed chain on a layer %q", name)
	}
	if i := find(layer, chain); i >= 0 {
		return i, nil
	}
	s.Layers = append(s.Layers, drawing.Level{Layer: layer, Chain: chain})
	return len(s.Layers) - 1, nil
}

// parseUp turns an axis letter or a vector into a direction.
func parseUp(s string) ([3]float64, error) {
	switch strings.ToUpper(s) {
	case "Z", "+Z":
		return [3]float64{0, 0, 1}, nil
	case "-Z":
		return [3]float64{0, 0, -1}, nil
	case "X", "+X":
		return [3]float64{1, 0, 0}, nil
	case "-X":
		return [3]float64{-1, 0, 0}, nil
	case "Y", "+Y":
		return [3]float64{0, 1, 0}, nil
	case "-Y":
		return [3]float64{0, -1, 0}, nil
	}
	v, err := numbers(s, 3)
	if err != nil {
		return [3]float64{}, fmt.Errorf("--up %q: write X, -X, Y, -Y, Z, -Z or three numbers", s)
	}
	return [3]float64{v[0], v[1], v[2]}, nil
}

func numbers(s string, n int) ([]float64, error) {
	parts := strings.Split(s, ",")
	if len(parts) != n {
		return nil, fmt.Errorf("want %d numbers", n)
	}
	out := make([]float64, n)
	for i, p := range parts {
		v, err := strconv.ParseFloat(strings.TrimSpace(p), 64)
		if err != nil {
			return nil, err
		}
		out[i] = v
	}
	return out, nil
}

// parseStock reads box:… (margins) or box:=… (total size) for a part of the
// given size in setup coordinates, cylinder:D,L, body:N or a file.
func parseStock(s string, part geom.V3, model *shop.Model, p *workplan.Setup) error {
	m := &p.Stock
	switch {
	case s == "":
		return nil
	case strings.HasPrefix(s, "box:="):
		v, err := numbers(s[5:], 3)
		if err != nil {
			return fmt.Errorf("--stock %q: write box:=LX,LY,LZ in mm", s)
		}
		dx, dy, dz := v[0]-part.X, v[1]-part.Y, v[2]-part.Z
		if dx < -1e-6 || dy < -1e-6 || dz < -1e-6 {
			return fmt.Errorf("--stock %q is smaller than the part, %.2f x %.2f x %.2f mm", s, part.X, part.Y, part.Z)
		}
		top := min(1, dz)
		*m = workplan.Margins{XMin: dx / 2, XMax: dx / 2, YMin: dy / 2, YMax: dy / 2, ZMin: dz - top, ZMax: top}
		return nil
	case strings.HasPrefix(s, "box:"):
		v, err := numbers(s[4:], 6)
		if err != nil {
			return fmt.Errorf("--stock %q: write box:X-,X+,Y-,Y+,Z-,Z+ in mm", s)
		}
		*m = workplan.Margins{XMin: v[0], XMax: v[1], YMin: v[2], YMax: v[3], ZMin: v[4], ZMax: v[5]}
		return nil
	}
	if strings.HasPrefix(s, "cylinder:") {
		v, err := numbers(s[9:], 2)
		if err != nil {
			return fmt.Errorf("--stock %q: write cylinder:D,L in mm", s)
		}
		m.ZMax = min(1, max(0, v[1]-part.Z))
		p.Blank = workplan.Blank{Kind: workplan.Bar, Diameter: v[0], Length: v[1]}
		return nil
	}
	it, err := parseItem(s, model)
	if err != nil {
		return fmt.Errorf("--stock %q: write box:X-,X+,Y-,Y+,Z-,Z+, box:=LX,LY,LZ, cylinder:D,L, body:N or a file: %w", s, err)
	}
	p.Blank = workplan.Blank{Kind: workplan.Body, Item: it}
	return nil
}

// parseItem reads body:N or the name of a file, which is attached to the model.
func parseItem(s string, m *shop.Model) (workplan.Item, error) {
	if n, ok := strings.CutPrefix(s, "body:"); ok {
		k, err := strconv.Atoi(n)
		return workplan.Item{Body: k}, err
	}
	data, err := os.ReadFile(s)
	if err != nil {
		return workplan.Item{}, err
	}
	a, err := m.Attach(s, data)
	if err != nil {
		return workplan.Item{}, err
	}
	return workplan.Item{File: a.Hash, Name: s}, nil
}

// attach brings in the files that a saved setup names.
func attach(m *shop.Model, s workplan.Setup) error {
	for _, it := range append([]workplan.Item{s.Blank.Item}, s.Fixtures...) {
		if it.File == "" {
			continue
		}
		got, err := parseItem(it.Name, m)
		if err != nil {
			return err
		}
		if got.File != it.File {
			return fmt.Errorf("%s has changed since the plan was made", it.Name)
		}
	}
	return nil
}

func printJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}

func mkdirAll(dir string) error { return os.MkdirAll(dir, 0o755) }
