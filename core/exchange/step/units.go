package step

import "math"

// units finds the length and angle units of the file's geometry.
func (b *reader) units() {
	b.m.Unit, b.m.ToMM, b.angle = "mm", 1, 1
	var ctx *record
	for _, in := range b.ex.order {
		if in.find("GEOMETRIC_REPRESENTATION_CONTEXT") != nil {
			if r := in.find("GLOBAL_UNIT_ASSIGNED_CONTEXT"); r != nil {
				ctx = r
				break
			}
		}
	}
	if ctx == nil || len(ctx.params) == 0 {
		b.m.Problems = append(b.m.Problems, "the file names no unit: millimetres are assumed")
		return
	}
	for _, v := range ctx.params[0].list {
		in := b.ex.byID[v.ref]
		if in == nil {
			continue
		}
		scale, name := b.unit(in, 0)
		if in.find("LENGTH_UNIT") != nil {
			b.m.ToMM, b.m.Unit = scale*1000, lengthName(scale*1000, name)
		}
		if in.find("PLANE_ANGLE_UNIT") != nil {
			b.angle = scale
		}
	}
}

// unit returns the size of a unit in metres or radians, and its name.
func (b *reader) unit(in *instance, depth int) (float64, string) {
	if r := in.find("SI_UNIT"); r != nil && len(r.params) >= 2 {
		p := r.params[len(r.params)-2]
		return prefix[p.str], ""
	}
	r := in.find("CONVERSION_BASED_UNIT")
	if r == nil || len(r.params) < 2 || depth > 4 {
		return 1, ""
	}
	m := b.ex.byID[r.params[1].ref]
	if m == nil {
		return 1, r.params[0].str
	}
	for _, rec := range m.records {
		if len(rec.params) < 2 {
			continue
		}
		base := 1.0
		if u := b.ex.byID[rec.params[1].ref]; u != nil {
			base, _ = b.unit(u, depth+1)
		}
		v := rec.params[0]
		if v.kind == kTyped && len(v.list) == 1 {
			v = v.list[0]
		}
		if v.num > 0 {
			return v.num * base, r.params[0].str
		}
	}
	return 1, r.params[0].str
}

var prefix = map[string]float64{
	"": 1, "EXA": 1e18, "PETA": 1e15, "TERA": 1e12, "GIGA": 1e9, "MEGA": 1e6, "KILO": 1e3, "HECTO": 1e2, "DECA": 10,
	"DECI": 0.1, "CENTI": 1e-2, "MILLI": 1e-3, "MICRO": 1e-6, "NANO": 1e-9, "PICO": 1e-12,
}

func lengthName(mm float64, name string) string {
	for _, u := range []struct {
		mm   float64
		name string
	}{{1, "mm"}, {10, "cm"}, {1000, "m"}, {25.4, "inch"}, {304.8, "foot"}, {0.001, "µm"}} {
		if math.Abs(mm/u.mm-1) < 1e-6 {
			return u.name
		}
	}
	if name != "" {
		return name
	}
	return "mm"
}
