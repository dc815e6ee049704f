package step

import "math"

// units are those of one representation context.
type units struct {
	length float64 // mm in one unit of length
	name   string
	angle  float64 // radians in one unit of plane angle
	tol    float64 // mm within which points are the same
}

// context reads the units of a geometric representation context; what it
// does not say is millimetres, radians and a micrometre.
func (b *reader) context(id int) units {
	if u, ok := b.units[id]; ok {
		return u
	}
	u := units{length: 1, name: "mm", angle: 1, tol: 1e-3}
	in, err := b.ex.get(id)
	if err != nil || in == nil {
		return u
	}
	if r := in.find("GLOBAL_UNIT_ASSIGNED_CONTEXT"); r != nil && len(r.params) > 0 {
		for _, v := range r.params[len(r.params)-1].list {
			un, err := b.ex.get(v.ref)
			if err != nil || un == nil {
				continue
			}
			scale, name := b.unitOf(un, 0)
			if un.find("LENGTH_UNIT") != nil {
				u.length, u.name = scale*1000, lengthName(scale*1000, name)
			}
			if un.find("PLANE_ANGLE_UNIT") != nil {
				u.angle = scale
			}
		}
	} else {
		b.note("the file names no unit: millimetres are assumed")
	}
	if !(u.length > 1e-9 && u.length < 1e9) {
		b.note("the unit of length is absurd: millimetres are assumed")
		u.length, u.name = 1, "mm"
	}
	if !(u.angle > 1e-9 && u.angle < 100) {
		u.angle = 1
	}
	u.tol = b.uncertainty(in, u)
	b.units[id] = u
	return u
}

// uncertainty returns the tolerance that the context claims, between 0.1 µm
// and 10 µm.
func (b *reader) uncertainty(in *instance, u units) float64 {
	r := in.find("GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT")
	if r == nil || len(r.params) == 0 {
		return 1e-3
	}
	for _, v := range r.params[len(r.params)-1].list {
		m, err := b.ex.get(v.ref)
		if err != nil || m == nil || len(m.records) == 0 || len(m.records[0].params) == 0 {
			continue
		}
		p := m.records[0].params[0]
		if p.kind == kTyped && p.str == "LENGTH_MEASURE" && len(p.list) == 1 {
			return math.Max(1e-4, math.Min(1e-2, p.list[0].num*u.length))
		}
	}
	return 1e-3
}

// unitOf returns the size of a unit in metres or radians, and its name.
func (b *reader) unitOf(in *instance, depth int) (float64, string) {
	if r := in.find("SI_UNIT"); r != nil && len(r.params) >= 2 {
		return prefix[r.params[len(r.params)-2].str], ""
	}
	r := in.find("CONVERSION_BASED_UNIT")
	if r == nil || len(r.params) < 2 || depth > 4 {
		return 1, ""
	}
	name := r.params[len(r.params)-2].str
	m, err := b.ex.get(r.params[len(r.params)-1].ref)
	if err != nil || m == nil {
		return 1, name
	}
	for _, rec := range m.records {
		if len(rec.params) < 2 {
			continue
		}
		base := 1.0
		if u, err := b.ex.get(rec.params[1].ref); err == nil && u != nil {
			base, _ = b.unitOf(u, depth+1)
		}
		v := rec.params[0]
		if v.kind == kTyped && len(v.list) == 1 {
			v = v.list[0]
		}
		if v.num > 0 {
			return v.num * base, name
		}
	}
	return 1, name
}

var prefix = map[string]float64{
	"": 1, "EXA": 1e18, "PETA": 1e15, "TERA": 1e12, "GIGA": 1e9, "MEGA": 1e6, "KILO": 1e3, "HECTO": 1e2, "DECA": 10,
	"DECI": 0.1, "CENTI": 1e-2, "MILLI": 1e-3, "MICRO": 1e-6, "NANO": 1e-9, "PICO": 1e-12,
}

func lengthName(mm float64, name string) string {
	for _, u := range []struct {
		mm   float64
		name string
	}{{1, "mm"}, {10, "cm"}, {1000, "m"}, {25.4, "inch"}, {304.8, "foot"}, {0.0254, "mil"}, {0.001, "µm"}} {
		if math.Abs(mm/u.mm-1) < 1e-6 {
			return u.name
		}
	}
	if name != "" {
		return name
	}
	return "mm"
}
