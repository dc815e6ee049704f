package step

import (
	"fmt"
	"strings"
)

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
	id, off int
	records []record
	one     [1]record // of a simple instance
}

// find returns the record of an instance that has one of the names.
func (in *instance) find(names ...string) *record {
	for i := range in.records {
		for _, n := range names {
			if in.records[i].name == n {
				return &in.records[i]
			}
		}
	}
	return nil
}

// maxDepth bounds nested parentheses.
const maxDepth = 64

const (
	damaged = "the file is damaged: ask for it again"
	cutOff  = "it was cut off: ask for it again"
)

// skim finds all entities of the text.
func skim(text string) (*exchange, error) {
	sc := &scanner{s: text}
	sc.space()
	if !sc.keyword("ISO-10303-21") {
		return nil, sc.fail("the text does not begin with ISO-10303-21", "choose a STEP file (.step, .stp); pictures and archives cannot be read here")
	}
	if err := sc.expect(';'); err != nil {
		return nil, err
	}
	ex := &exchange{text: text, entries: make([]entry, 0, strings.Count(text, "=")+1)}
	names := map[string]int32{}
	for {
		sc.space()
		var err error
		switch {
		case sc.i >= len(sc.s):
			return nil, sc.fail("the file ends before END-ISO-10303-21", cutOff)
		case sc.keyword("END-ISO-10303-21"):
			ex.index()
			return ex, nil
		case sc.keyword("HEADER"):
			err = sc.header(ex)
		case sc.keyword("DATA"):
			err = sc.data(ex, names)
		default:
			if !sc.skipSection() {
				err = sc.fail("expected HEADER, DATA or END-ISO-10303-21", damaged)
			}
		}
		if err != nil {
			return nil, err
		}
	}
}

type scanner struct {
	s     string
	i     int
	depth int
}

func (sc *scanner) line() int { return 1 + strings.Count(sc.s[:min(sc.i, len(sc.s))], "\n") }

func (sc *scanner) fail(what, do string) error {
	return &Error{Class: ErrSyntax, Line: sc.line(), What: what, Do: do}
}

// skipSection passes over an edition-3 section (ANCHOR, REFERENCE, SIGNATURE).
func (sc *scanner) skipSection() bool {
	for _, name := range []string{"ANCHOR", "REFERENCE", "SIGNATURE"} {
		if sc.keyword(name) {
			end := strings.Index(sc.s[sc.i:], "ENDSEC;")
			if end < 0 {
				return false
			}
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

// data skims a DATA section.
func (sc *scanner) data(ex *exchange, names map[string]int32) error {
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
		if err := sc.entity(ex, names); err != nil {
			return err
		}
	}
}

// entity skims #n = … ; and notes where its records begin.
func (sc *scanner) entity(ex *exchange, names map[string]int32) error {
	if sc.peek() != '#' {
		if sc.i >= len(sc.s) {
			return sc.fail("the file ends inside the DATA section", cutOff)
		}
		return sc.fail(fmt.Sprintf("expected an entity, found %q", sc.peek()), damaged)
	}
	v, err := sc.value()
	if err != nil {
		return err
	}
	if err := sc.expect('='); err != nil {
		return err
	}
	sc.space()
	if sc.keyword("&SCOPE") { // edition 1
		if err := sc.scope(ex, names); err != nil {
			return err
		}
	}
	off := sc.i
	kind, err := sc.skimRecords()
	if err != nil {
		return err
	}
	k, known := names[kind]
	if !known {
		k = int32(len(ex.kinds))
		names[strings.Clone(kind)] = k
		ex.kinds = append(ex.kinds, strings.Clone(kind))
	}
	ex.entries = append(ex.entries, entry{v.ref, off, k})
	return nil
}

// scope skims the entities inside &SCOPE … ENDSCOPE and the export list.
func (sc *scanner) scope(ex *exchange, names map[string]int32) error {
	if sc.depth++; sc.depth > maxDepth {
		return sc.fail("scopes nested too deep", damaged)
	}
	defer func() { sc.depth-- }()
	for sc.space(); !sc.keyword("ENDSCOPE"); sc.space() {
		if err := sc.entity(ex, names); err != nil {
			return err
		}
	}
	sc.space()
	if sc.peek() == '/' {
		end := strings.IndexByte(sc.s[sc.i+1:], '/')
		if end < 0 {
			return sc.fail("an export list does not end", damaged)
		}
		sc.i += end + 2
	}
	sc.space()
	return nil
}

// skimRecords passes over the records of an entity up to its semicolon and
// returns their names.
func (sc *scanner) skimRecords() (string, error) {
	kind := ""
	if sc.peek() != '(' {
		if kind = sc.name(); kind == "" {
			return "", sc.fail(fmt.Sprintf("expected an entity name, found %q", sc.peek()), damaged)
		}
		if sc.space(); sc.peek() != '(' {
			if sc.i >= len(sc.s) {
				return "", sc.fail("the file ends inside an entity", cutOff)
			}
			return "", sc.fail("expected ( after "+kind, damaged)
		}
	}
	complex := kind == ""
	depth := 0
	for sc.i < len(sc.s) {
		switch c := sc.s[sc.i]; {
		case c == '(':
			if depth++; depth > maxDepth {
				return "", sc.fail(fmt.Sprintf("parentheses nested deeper than %d", maxDepth), "no model needs that: the file is damaged")
			}
			sc.i++
		case c == ')':
			depth--
			sc.i++
		case c == ';':
			if depth != 0 {
				return "", sc.fail("an entity ends inside parentheses", damaged)
			}
			sc.i++
			return kind, nil
		case c == '\'' || c == '"':
			end := strings.IndexByte(sc.s[sc.i+1:], c)
			if end < 0 {
				return "", sc.fail("a text does not end", damaged)
			}
			sc.i += end + 2
		case c == '/':
			at := sc.i
			if sc.space(); sc.i == at {
				return "", sc.fail("unexpected '/'", damaged)
			}
		case c == '#' && depth == 0:
			return "", sc.fail("an entity does not end with a semicolon", damaged)
		case complex && depth == 1 && isName(c):
			if kind != "" {
				kind += "+"
			}
			kind += sc.name()
		default:
			sc.i++
		}
		if depth < 0 {
			return "", sc.fail("one parenthesis too many is closed", damaged)
		}
	}
	return "", sc.fail("the file ends inside an entity", cutOff)
}

// instance reads the records of an entity.
func (sc *scanner) instance(id int) (*instance, error) {
	in := &instance{id: id, off: sc.i}
	if sc.peek() != '(' {
		r, err := sc.record()
		in.one[0] = r
		in.records = in.one[:]
		return in, err
	}
	sc.i++
	for sc.space(); sc.peek() != ')'; sc.space() {
		r, err := sc.record()
		if err != nil {
			return nil, err
		}
		in.records = append(in.records, r)
	}
	sc.i++
	return in, nil
}

func (sc *scanner) record() (record, error) {
	name := sc.name()
	if name == "" {
		return record{}, sc.fail(fmt.Sprintf("expected an entity name, found %q", sc.peek()), damaged)
	}
	sc.space()
	if sc.i >= len(sc.s) {
		return record{}, sc.fail("the file ends inside an entity", cutOff)
	}
	if sc.peek() != '(' {
		return record{}, sc.fail("expected ( after "+name, damaged)
	}
	v, err := sc.value()
	return record{name, v.list}, err
}
