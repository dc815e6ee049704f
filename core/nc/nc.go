// Package nc holds what a writer and a reader of machine code share: the
// description of a control's dialect and of a program. The words are those of
// ISO 6983-1. Writer and reader know nothing of each other.
package nc

import (
	"fmt"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/tooling"
)

// Dialect says what a control understands and how it wants to be spoken to.
type Dialect struct {
	ID          string `json:"id"`
	Name        string `json:"name"`
	Cycles      bool   `json:"cycles"`       // G81, G83, G73 with G98
	Percent     bool   `json:"percent"`      // the tape marks at both ends
	Numbers     bool   `json:"numbers"`      // N words
	Decimals    int    `json:"decimals"`     // of coordinates
	HomeWord    string `json:"home_word"`    // block that lifts the spindle to its home, such as G53 G0 Z0
	ToolChange  string `json:"tool_change"`  // such as "T%d M6"
	Extension   string `json:"extension"`    // of the file
	ProgramWord string `json:"program_word"` // letter before the program number, empty for none
}

// Validate returns what cannot be.
func (d Dialect) Validate() error {
	if d.ID == "" || d.Decimals < 2 || d.Decimals > 5 || d.HomeWord == "" || d.ToolChange == "" || d.Extension == "" {
		return fmt.Errorf("dialect %q: needs an id, 2 to 5 decimals, a home block, a tool change and an extension", d.ID)
	}
	return nil
}

// Program is what a writer turns into text.
type Program struct {
	Number     int
	Title      string
	Notes      []string // comment lines of the header
	WorkOffset string
	Steps      []Step
}

// Step is one workingstep of a program.
type Step struct {
	ID    string
	Title string
	Tool  tooling.Tool
	RPM   float64
	Start geom.V3 // not posted: the spindle comes from its home
	Path  motion.Path
}

// Line tells where a line of text comes from.
type Line struct {
	Step int // index, −1 for header, tool change and end
	Move int // index of the last move it makes, −1 for none
}
