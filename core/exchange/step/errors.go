// Package step reads solids from STEP files: the clear text encoding of
// ISO 10303-21, editions 1 to 3, with the geometry and topology of
// ISO 10303-42 and the product structure of ISO 10303-43 and -44 as used by
// the application protocols AP203, AP214 and AP242.
//
// The text is skimmed once for where each entity stands; an entity is read
// when something refers to it, so that what is not needed costs nothing.
// Deviations: parameter-space curves are ignored where a space curve stands
// beside them, and entities that are not needed are skipped. A file that
// cannot be used gives one *Error.
package step

import (
	"errors"
	"fmt"
)

// Sentinel classes of errors.
var (
	ErrSyntax      = errors.New("not a readable STEP file")
	ErrReference   = errors.New("broken reference")
	ErrUnsupported = errors.New("unsupported geometry")
	ErrNoSolid     = errors.New("no solid")
	ErrTopology    = errors.New("broken solid")
)

// Error says what is wrong, where, and what to do about it.
type Error struct {
	Class  error
	Line   int // 1-based line of the text, 0 when unknown
	Entity int // instance number, 0 when unknown
	What   string
	Do     string
}

// Error gives one line: where, what, what to do.
func (e *Error) Error() string {
	where := ""
	if e.Line > 0 {
		where = fmt.Sprintf("line %d: ", e.Line)
	}
	if e.Entity > 0 {
		where += fmt.Sprintf("#%d: ", e.Entity)
	}
	s := where + e.What
	if e.Do != "" {
		s += "; " + e.Do
	}
	return s
}

// Unwrap returns the class.
func (e *Error) Unwrap() error { return e.Class }
