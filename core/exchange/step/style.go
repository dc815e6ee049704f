package step

import (
	"math"
	"strings"
)

// styles gives bodies and faces the colours and layers of the file.
func (b *reader) styles() {
	colour, layer := map[int]uint32{}, map[int]string{}
	_ = b.ex.each(func(in *instance, r *record) error {
		if n := len(r.params); n >= 3 && strings.HasSuffix(r.name, "STYLED_ITEM") {
			item := r.params[2].ref
			for _, v := range r.params[1].list {
				if c := b.colour(v.ref, 0); c != 0 {
					colour[item] = c
				}
			}
		} else if n >= 3 {
			for _, v := range r.params[2].list {
				layer[v.ref] = r.params[0].str
			}
		}
		return nil
	}, "STYLED_ITEM", "OVER_RIDING_STYLED_ITEM", "PRESENTATION_LAYER_ASSIGNMENT")
	if len(colour)+len(layer) == 0 {
		return
	}
	for i := range b.m.Bodies {
		s := b.m.Bodies[i].Solid
		s.Colour, s.Layer = colour[s.ID], layer[s.ID]
		for _, f := range s.Faces {
			f.Colour, f.Layer = colour[f.ID], layer[f.ID]
			if f.Colour == 0 {
				f.Colour = s.Colour
			}
			if f.Layer == "" {
				f.Layer = s.Layer
			}
		}
	}
}

// colour follows a style to the colour of a surface, 0 if it has none, as
// 0xffRRGGBB.
func (b *reader) colour(id, depth int) uint32 {
	if id == 0 || depth > 10 {
		return 0
	}
	kind := b.ex.is(id)
	if strings.Contains(kind, "CURVE_STYLE") || strings.Contains(kind, "POINT_STYLE") || strings.Contains(kind, "BOUNDARY") {
		return 0
	}
	in, err := b.ex.get(id)
	if err != nil || in == nil {
		return 0
	}
	if r := in.find("COLOUR_RGB"); r != nil && len(r.params) >= 4 {
		c := uint32(0xff)
		for _, v := range r.params[1:4] {
			c = c<<8 | uint32(math.Round(255*math.Max(0, math.Min(1, v.num))))
		}
		return c
	}
	if r := in.find("DRAUGHTING_PRE_DEFINED_COLOUR"); r != nil && len(r.params) > 0 {
		return namedColours[strings.ToLower(r.params[0].str)]
	}
	for _, r := range in.records {
		for _, v := range r.params {
			for _, e := range append([]value{v}, v.list...) {
				if e.kind == kTyped && len(e.list) > 0 {
					e = e.list[0]
				}
				if e.kind == kRef {
					if c := b.colour(e.ref, depth+1); c != 0 {
						return c
					}
				}
			}
		}
	}
	return 0
}

// namedColours are the pre-defined ones of ISO 10303-46.
var namedColours = map[string]uint32{
	"red": 0xffff0000, "green": 0xff00ff00, "blue": 0xff0000ff, "yellow": 0xffffff00,
	"magenta": 0xffff00ff, "cyan": 0xff00ffff, "black": 0xff000000, "white": 0xffffffff,
}
