package read

import (
	"math"
	"strconv"
	"strings"
)

// words splits a line; comments, the tape mark and program numbers are passed
// over.
func (r *reader) words(l string) ([]word, bool) {
	l = strings.TrimSpace(strings.TrimSuffix(l, "\r"))
	if l == "%" || l == "" {
		return nil, false
	}
	var out []word
	for i := 0; i < len(l); {
		c := l[i]
		switch {
		case c == ' ' || c == '\t':
			i++
		case c == ';':
			return out, true
		case c == '(':
			end := strings.IndexByte(l[i:], ')')
			if end < 0 {
				r.problem("a comment is not closed")
				return out, true
			}
			i += end + 1
		case c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z':
			j := i + 1
			for j < len(l) && (l[j] >= '0' && l[j] <= '9' || l[j] == '.' || l[j] == '-' || l[j] == '+') {
				j++
			}
			v, err := strconv.ParseFloat(l[i+1:j], 64)
			if err != nil || math.Abs(v) > 1e8 {
				r.problem("cannot read the word %q", l[i:j])
				return nil, false
			}
			out = append(out, word{c &^ 0x20, v})
			i = j
		default:
			r.problem("unexpected character %q", c)
			return nil, false
		}
	}
	return out, true
}
