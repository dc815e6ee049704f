// Package material holds work materials and the cutting speeds that a shop
// keeps for them: by ISO 513 group, tool material and operation.
package material

import "fmt"

// Material is a work material. Kc11 and MC are the specific cutting force for
// a 1 mm × 1 mm chip (N/mm²) and its exponent (Kienzle 1952); density kg/dm³.
type Material struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Group   string  `json:"group"` // ISO 513: P, M, K, N, S, H; O for plastics
	Kc11    float64 `json:"kc11"`
	MC      float64 `json:"mc"`
	Density float64 `json:"density"`
	Speeds  []Speed `json:"speeds"`
}

// Speed is a row of the shop's table: cutting speed m/min and feed a tooth as
// a share of the diameter, with bounds in mm, for one use. Feed of a drill is
// per revolution over DC.
type Speed struct {
	Use       string  `json:"use"`       // milling, facing, drilling, spotting, chamfering
	Substrate string  `json:"substrate"` // carbide, hss, insert
	VC        float64 `json:"vc"`
	FzPerD    float64 `json:"fz_per_d"`
	FzMin     float64 `json:"fz_min"`
	FzMax     float64 `json:"fz_max"`
}

// Find returns the row for a use and a tool material; another tool material's
// row stands in when there is none of its own.
func (m Material) Find(use, substrate string) (Speed, error) {
	var other *Speed
	for i, s := range m.Speeds {
		if s.Use == use {
			if s.Substrate == substrate {
				return s, nil
			}
			other = &m.Speeds[i]
		}
	}
	if other != nil {
		return *other, nil
	}
	return Speed{}, fmt.Errorf("material %s has no speeds for %s: add a row to its table", m.Name, use)
}

// Validate returns what cannot be.
func (m Material) Validate() error {
	if m.ID == "" || m.Name == "" || !(m.Kc11 > 0) || !(m.MC >= 0 && m.MC < 1) || !(m.Density > 0) {
		return fmt.Errorf("material %q: needs an id, a name, kc1.1 > 0, 0 ≤ mc < 1 and a density", m.ID)
	}
	for _, s := range m.Speeds {
		if !(s.VC > 0) || !(s.FzPerD > 0) || s.FzMin > s.FzMax {
			return fmt.Errorf("material %q: row %s/%s needs vc > 0, a feed, and fz_min ≤ fz_max", m.ID, s.Use, s.Substrate)
		}
	}
	return nil
}
