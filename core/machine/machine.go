// Package machine describes a three-axis machining centre: its limits, how it
// moves, and what its control understands. Lengths mm, speeds mm/min, power
// kW, torque Nm, times seconds.
package machine

import "fmt"

// Machine is one machine of the shop.
type Machine struct {
	ID         string     `json:"id"`
	Name       string     `json:"name"`
	Travel     [3]float64 `json:"travel"` // X, Y, Z
	MaxRPM     float64    `json:"max_rpm"`
	MinRPM     float64    `json:"min_rpm"`
	Power      float64    `json:"power_kw"`
	Torque     float64    `json:"torque_nm"`
	MaxFeed    float64    `json:"max_feed"`
	Rapid      float64    `json:"rapid"`        // mm/min, each axis
	Accel      float64    `json:"accel"`        // mm/s², each axis
	CornerTol  float64    `json:"corner_tol"`   // mm that a corner may be rounded
	ToolChange float64    `json:"tool_change"`  // chip to chip, s
	Spindle    float64    `json:"spindle_time"` // start or stop, s
	Efficiency float64    `json:"efficiency"`   // of the spindle drive
	Positions  int        `json:"positions"`    // of the magazine
	Dialect    string     `json:"dialect"`      // id of the control's dialect
}

// Validate returns what cannot be.
func (m Machine) Validate() error {
	if m.ID == "" || !(m.MaxRPM > m.MinRPM) || !(m.Power > 0) || !(m.Torque > 0) || !(m.MaxFeed > 0) || !(m.Rapid > 0) || !(m.Accel > 0) || !(m.Efficiency > 0 && m.Efficiency <= 1) || m.Positions < 1 {
		return fmt.Errorf("machine %q: every limit must be more than 0 and the speeds in order", m.ID)
	}
	return nil
}

// PowerAt returns the power the spindle can give at n rpm: limited by torque
// below the corner speed, by the motor above it.
func (m Machine) PowerAt(n float64) float64 {
	return min(m.Power, m.Torque*n/9549)
}
