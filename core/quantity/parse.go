// Package quantity reads and prints numbers with units as a machinist writes
// them: lengths "1/8in", "3/64\"", "-2mm", "0.6*D + 1". Everything inside the
// program is millimetres, radians, seconds.
//
// Grammar: sum of products of factors; a factor is a number, a letter of the
// environment, a bracketed sum, with an optional sign and an optional unit (mm,
// cm, m, in, ", thou) behind it. A unit binds tighter than an operator except
// that a fraction of plain numbers takes it as a whole: 1/8in is an eighth.
package quantity

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// ErrExpression is the class of all errors of Parse.
var ErrExpression = errors.New("not a number")

// Error says what is wrong in an expression and where (byte offset).
type Error struct {
	At  int
	Say string
}

// Error is the sentence to show.
func (e *Error) Error() string { return e.Say }

// Unwrap returns ErrExpression.
func (e *Error) Unwrap() error { return ErrExpression }

var units = []struct {
	name string
	mm   float64
}{{"mm", 1}, {"cm", 10}, {"thou", 0.0254}, {"inch", 25.4}, {"in", 25.4}, {"\"", 25.4}, {"m", 1000}}

// Parse evaluates an expression; letters (such as D, the tool's diameter)
// come from env. Plain numbers count in the unit given, in mm.
func Parse(s string, unit float64, env map[string]float64) (float64, error) {
	if len(s) > 200 {
		return 0, &Error{0, "the expression is longer than 200 characters"}
	}
	p := &parser{s: s, unit: unit, env: env}
	v, err := p.sum()
	if err != nil {
		return 0, err
	}
	if p.space(); p.i < len(s) {
		return 0, &Error{p.i, fmt.Sprintf("cannot read %q: write a number such as 12.5, 1/8in or 0.6*D", s)}
	}
	if math.IsNaN(v.v) || math.IsInf(v.v, 0) || math.Abs(v.v) > 1e7 {
		return 0, &Error{0, fmt.Sprintf("%q is not a usable size", s)}
	}
	return v.in(unit), nil
}

// term is a value; plain until a unit or a letter gives it a length.
type term struct {
	v     float64
	plain bool
}

// in returns the value in mm.
func (t term) in(unit float64) float64 {
	if t.plain {
		return t.v * unit
	}
	return t.v
}

type parser struct {
	s     string
	i     int
	unit  float64
	env   map[string]float64
	depth int
	bare  bool // the next number is a denominator and leaves the unit to the fraction
}

func (p *parser) space() {
	for p.i < len(p.s) && (p.s[p.i] == ' ' || p.s[p.i] == '\t') {
		p.i++
	}
}

func (p *parser) op(set string) byte {
	p.space()
	if p.i < len(p.s) && strings.IndexByte(set, p.s[p.i]) >= 0 {
		p.i++
		return p.s[p.i-1]
	}
	return 0
}

func (p *parser) sum() (term, error) {
	a, err := p.product()
	for err == nil {
		o := p.op("+-")
		if o == 0 {
			return a, nil
		}
		var b term
		if b, err = p.product(); err == nil {
			sign := 1.0
			if o == '-' {
				sign = -1
			}
			if a.plain && b.plain {
				a.v += sign * b.v
			} else {
				a = term{v: a.in(p.unit) + sign*b.in(p.unit)}
			}
		}
	}
	return a, err
}

func (p *parser) product() (term, error) {
	a, err := p.factor()
	for err == nil {
		o := p.op("*/")
		if o == 0 {
			return p.withUnit(a), nil
		}
		var b term
		p.bare = o == '/' && a.plain
		b, err = p.factor()
		p.bare = false
		if err != nil {
			break
		}
		if o == '*' {
			a = term{a.v * b.v, a.plain && b.plain}
		} else if b.v == 0 {
			err = &Error{p.i, "division by zero"}
		} else {
			a = term{a.v / b.v, a.plain && b.plain}
		}
	}
	return a, err
}

func (p *parser) factor() (term, error) {
	p.space()
	switch o := p.op("+-("); o {
	case '-', '+':
		if p.depth++; p.depth > 50 {
			return term{}, &Error{p.i, "too deeply nested"}
		}
		t, err := p.factor()
		if o == '-' {
			t.v = -t.v
		}
		return t, err
	case '(':
		if p.depth++; p.depth > 50 {
			return term{}, &Error{p.i, "too deeply nested"}
		}
		t, err := p.sum()
		if err == nil && p.op(")") == 0 {
			err = &Error{p.i, "a bracket is not closed"}
		}
		return t, err
	}
	from := p.i
	for p.i < len(p.s) && (p.s[p.i] >= '0' && p.s[p.i] <= '9' || p.s[p.i] == '.' || p.s[p.i] == ',') {
		p.i++
	}
	if p.i > from {
		v, err := strconv.ParseFloat(strings.ReplaceAll(p.s[from:p.i], ",", "."), 64)
		if err != nil {
			return term{}, &Error{from, fmt.Sprintf("cannot read the number %q", p.s[from:p.i])}
		}
		t := term{v, true}
		if !p.bare { // 2in*3, but 1/8in is (1/8)in
			t = p.withUnit(t)
		}
		return t, nil
	}
	for p.i < len(p.s) && (p.s[p.i]|0x20 >= 'a' && p.s[p.i]|0x20 <= 'z') {
		p.i++
	}
	name := p.s[from:p.i]
	if v, ok := p.env[name]; ok && name != "" {
		return term{v: v}, nil
	}
	if name == "" {
		return term{}, &Error{from, "a number is missing: write for example 12.5, 1/8in or 0.6*D"}
	}
	return term{}, &Error{from, fmt.Sprintf("%q is not known here: write a number such as 12.5, 1/8in or 0.6*D", name)}
}

// withUnit applies a unit that stands behind a plain value.
func (p *parser) withUnit(t term) term {
	p.space()
	for _, u := range units {
		if t.plain && strings.HasPrefix(p.s[p.i:], u.name) {
			p.i += len(u.name)
			return term{v: t.v * u.mm}
		}
	}
	return t
}

// Format prints v with at most digits decimals and no trailing zeros.
func Format(v float64, digits int) string {
	s := strconv.FormatFloat(v, 'f', digits, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" || s == "" {
		return "0"
	}
	return s
}

// Clock prints seconds as minutes:seconds or hours:minutes:seconds.
func Clock(s float64) string {
	n := int(math.Round(s))
	if n >= 3600 {
		return fmt.Sprintf("%d:%02d:%02d", n/3600, n/60%60, n%60)
	}
	return fmt.Sprintf("%d:%02d", n/60, n%60)
}
