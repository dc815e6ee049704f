// Package step reads solids from STEP files: the clear text encoding of
// ISO 10303-21 with the geometry and topology of ISO 10303-42 as used by the
// application protocols AP203, AP214 and AP242.
//
// Deviations: parameter-space curves are ignored (edges carry their space
// curves), product structure is read for names only, and entities that are not
// needed are skipped. A file that cannot be used gives one *Error.
package step

import (
	"errors"
	"fmt"
	"strings"
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

// kind of a parameter value.
type kind uint8

const (
	kNull   kind = iota // $ or *
	kNumber             // integer or real
	kString             // decoded text
	kEnum               // .NAME.
	kRef                // #n
	kList               // ( … )
	kTyped              // NAME( … )
	kBinary             // "…"
)

type value struct {
	kind kind
	num  float64
	ref  int
	str  string
	list []value
}

// record is one simple instance NAME( … ).
type record struct {
	name   string
	params []value
}

// instance is a numbered entity; a complex one has several records.
type instance struct {
	id, line int
	records  []record
}

// exchange is a parsed file.
type exchange struct {
	schema string
	byID   map[int]*instance
	order  []*instance
}

// maxDepth bounds nested parentheses.
const maxDepth = 64

type scanner struct {
	s     string
	i     int
	line  int
	depth int
}

// parse reads the whole text.
func parse(text string) (*exchange, error) {
	sc := &scanner{s: text, line: 1}
	sc.space()
	if !sc.keyword("ISO-10303-21") {
		return nil, &Error{ErrSyntax, sc.line, 0, "the text does not begin with ISO-10303-21", "choose a STEP file (.step, .stp); pictures, meshes and archives cannot be read here"}
	}
	if err := sc.expect(';'); err != nil {
		return nil, err
	}
	ex := &exchange{byID: map[int]*instance{}}
	for {
		sc.space()
		switch {
		case sc.i >= len(sc.s):
			return nil, sc.fail("the file ends before END-ISO-10303-21", "it was cut off: ask for it again")
		case sc.keyword("END-ISO-10303-21"):
			return ex, nil
		case sc.keyword("HEADER"):
			if err := sc.header(ex); err != nil {
				return nil, err
			}
		case sc.keyword("DATA"):
			if err := sc.data(ex); err != nil {
				return nil, err
			}
		default:
			if !sc.skipSection() {
				return nil, sc.fail("expected HEADER, DATA or END-ISO-10303-21", "the file is damaged: ask for it again")
			}
		}
	}
}

func (sc *scanner) fail(what, do string) error {
	return &Error{Class: ErrSyntax, Line: sc.line, What: what, Do: do}
}

// skipSection passes over an edition-3 section (ANCHOR, REFERENCE, SIGNATURE).
func (sc *scanner) skipSection() bool {
	for _, name := range []string{"ANCHOR", "REFERENCE", "SIGNATURE"} {
		if sc.keyword(name) {
			end := strings.Index(sc.s[sc.i:], "ENDSEC;")
			if end < 0 {
				return false
			}
			sc.line += strings.Count(sc.s[sc.i:sc.i+end], "\n")
			sc.i += end + len("ENDSEC;")
			return true
		}
	}
	return false
}

func (sc *scanner) header(ex *exchange) error {
	if err := sc.expect(';'); err != nil {
		return err
	}
	for {
		sc.space()
		if sc.keyword("ENDSEC") {
			return sc.expect(';')
		}
		r, err := sc.record()
		if err != nil {
			return err
		}
		if r.name == "FILE_SCHEMA" && len(r.params) > 0 && len(r.params[0].list) > 0 {
			ex.schema = r.params[0].list[0].str
		}
		if err := sc.expect(';'); err != nil {
			return err
		}
	}
}

func (sc *scanner) data(ex *exchange) error {
	sc.space()
	if sc.peek() == '(' { // edition 3: DATA('name',('schema'));
		if _, err := sc.value(); err != nil {
			return err
		}
	}
	if err := sc.expect(';'); err != nil {
		return err
	}
	for {
		sc.space()
		if sc.keyword("ENDSEC") {
			return sc.expect(';')
		}
		if sc.peek() != '#' {
			if sc.i >= len(sc.s) {
				return sc.fail("the file ends inside the DATA section", "it was cut off: ask for it again")
			}
			return sc.fail(fmt.Sprintf("expected an entity, found %q", sc.peek()), "the file is damaged: ask for it again")
		}
		in, err := sc.instance()
		if err != nil {
			return err
		}
		ex.byID[in.id] = in
		ex.order = append(ex.order, in)
	}
}

func (sc *scanner) instance() (*instance, error) {
	in := &instance{line: sc.line}
	v, err := sc.value()
	if err != nil {
		return nil, err
	}
	in.id = v.ref
	if err := sc.expect('='); err != nil {
		return nil, err
	}
	sc.space()
	if sc.peek() == '(' {
		sc.i++
		for sc.space(); sc.peek() != ')'; sc.space() {
			r, err := sc.record()
			if err != nil {
				return nil, err
			}
			in.records = append(in.records, r)
		}
		sc.i++
	} else {
		r, err := sc.record()
		if err != nil {
			return nil, err
		}
		in.records = []record{r}
	}
	return in, sc.expect(';')
}

func (sc *scanner) record() (record, error) {
	name := sc.name()
	if name == "" {
		return record{}, sc.fail(fmt.Sprintf("expected an entity name, found %q", sc.peek()), "the file is damaged: ask for it again")
	}
	sc.space()
	if sc.i >= len(sc.s) {
		return record{}, sc.fail("the file ends inside an entity", "it was cut off: ask for it again")
	}
	if sc.peek() != '(' {
		return record{}, sc.fail("expected ( after "+name, "the file is damaged: ask for it again")
	}
	v, err := sc.value()
	return record{name, v.list}, err
}
