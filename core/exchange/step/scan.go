package step

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// value reads one parameter.
func (sc *scanner) value() (value, error) {
	sc.space()
	switch c := sc.peek(); {
	case c == '$' || c == '*':
		sc.i++
		return value{}, nil
	case c == '#':
		sc.i++
		n, err := strconv.Atoi(sc.while(isDigit))
		if err != nil || n > 1<<53 {
			return value{}, sc.fail("expected a number after #", damaged)
		}
		return value{kind: kRef, ref: n}, nil
	case c == '(':
		return sc.list()
	case c == '\'':
		return sc.text()
	case c == '"':
		return sc.binary()
	case c == '.' && sc.i+1 < len(sc.s) && !isDigit(sc.s[sc.i+1]):
		sc.i++
		s := sc.while(isName)
		if sc.peek() != '.' {
			return value{}, sc.fail("an enumeration value does not end with a dot", damaged)
		}
		sc.i++
		return value{kind: kEnum, str: s}, nil
	case isDigit(c) || c == '-' || c == '+' || c == '.':
		return sc.number()
	case isName(c):
		name := sc.name()
		v, err := sc.value()
		if err == nil && v.kind != kList {
			err = sc.fail("expected ( after "+name, damaged)
		}
		return value{kind: kTyped, str: name, list: v.list}, err
	}
	if sc.i >= len(sc.s) {
		return value{}, sc.fail("the file ends inside an entity", cutOff)
	}
	return value{}, sc.fail(fmt.Sprintf("unexpected %q", sc.peek()), damaged)
}

func (sc *scanner) list() (value, error) {
	if sc.depth++; sc.depth > maxDepth {
		return value{}, sc.fail(fmt.Sprintf("parentheses nested deeper than %d", maxDepth), "no model needs that: the file is damaged")
	}
	defer func() { sc.depth-- }()
	sc.i++
	var few [8]value // most lists fit: one allocation of the right size
	items := few[:0]
	for {
		sc.space()
		if sc.peek() == ')' {
			sc.i++
			return value{kind: kList, list: slices.Clone(items)}, nil
		}
		if len(items) > 0 {
			if err := sc.expect(','); err != nil {
				return value{}, err
			}
		}
		e, err := sc.value()
		if err != nil {
			return value{}, err
		}
		items = append(items, e)
	}
}

func (sc *scanner) number() (value, error) {
	s := sc.while(func(c byte) bool {
		return isDigit(c) || c == '+' || c == '-' || c == '.' || c == 'E' || c == 'e'
	})
	f, err := strconv.ParseFloat(s, 64)
	if err != nil {
		return value{}, sc.fail("cannot read the number "+s, damaged)
	}
	return value{kind: kNumber, num: f}, nil
}

// coordinates reads ('name',(x,y,z)) and returns how many numbers there are.
func (sc *scanner) coordinates() (x [3]float64, n int, err error) {
	if err = sc.expect('('); err != nil {
		return x, 0, err
	}
	if _, err = sc.value(); err != nil {
		return x, 0, err
	}
	for _, c := range [2]byte{',', '('} {
		if err = sc.expect(c); err != nil {
			return x, 0, err
		}
	}
	for {
		sc.space()
		v, err := sc.number()
		if err != nil {
			return x, n, err
		}
		if n < 3 {
			x[n] = v.num
		}
		n++
		if sc.space(); sc.peek() != ',' {
			return x, n, sc.expect(')')
		}
		sc.i++
	}
}

func (sc *scanner) binary() (value, error) {
	end := strings.IndexByte(sc.s[sc.i+1:], '"')
	if end < 0 {
		return value{}, sc.fail("a binary value does not end", damaged)
	}
	v := value{kind: kBinary, str: sc.s[sc.i+1 : sc.i+1+end]}
	sc.i += end + 2
	return v, nil
}

func (sc *scanner) expect(c byte) error {
	sc.space()
	if sc.peek() != c {
		if sc.i >= len(sc.s) {
			return sc.fail("the file ends inside an entity", cutOff)
		}
		return sc.fail(fmt.Sprintf("expected %q, found %q", c, sc.peek()), damaged)
	}
	sc.i++
	return nil
}

func (sc *scanner) peek() byte {
	if sc.i < len(sc.s) {
		return sc.s[sc.i]
	}
	return 0
}

// space passes over white space, print controls and comments.
func (sc *scanner) space() {
	for sc.i < len(sc.s) {
		switch c := sc.s[sc.i]; {
		case c == '\n' || c == ' ' || c == '\t' || c == '\r':
			sc.i++
		case c == '/' && strings.HasPrefix(sc.s[sc.i:], "/*"):
			end := strings.Index(sc.s[sc.i+2:], "*/")
			if end < 0 {
				sc.i = len(sc.s)
				return
			}
			sc.i += end + 4
		case c == '\\' && (strings.HasPrefix(sc.s[sc.i:], `\N\`) || strings.HasPrefix(sc.s[sc.i:], `\F\`)):
			sc.i += 3
		default:
			return
		}
	}
}

func (sc *scanner) keyword(k string) bool {
	if strings.HasPrefix(sc.s[sc.i:], k) {
		sc.i += len(k)
		return true
	}
	return false
}

func (sc *scanner) name() string {
	if sc.peek() == '!' {
		sc.i++
	}
	return strings.ToUpper(sc.while(isName))
}

func (sc *scanner) while(ok func(byte) bool) string {
	from := sc.i
	for sc.i < len(sc.s) && ok(sc.s[sc.i]) {
		sc.i++
	}
	return sc.s[from:sc.i]
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

func isName(c byte) bool {
	return c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || isDigit(c) || c == '_'
}
