package step

import (
	"strconv"
	"strings"
	"unicode/utf16"
)

// text reads a string and decodes it: ” doubled, and the escapes \S\, \P\,
// \X\, \X2\, \X4\ of ISO 10303-21 section 6.4.3.
func (sc *scanner) text() (value, error) {
	from := sc.i + 1
	i := from
	for i < len(sc.s) {
		if sc.s[i] == '\'' {
			if i+1 < len(sc.s) && sc.s[i+1] == '\'' {
				i += 2
				continue
			}
			break
		}
		i++
	}
	if i >= len(sc.s) {
		return value{}, sc.fail("a text does not end", damaged)
	}
	raw := sc.s[from:i]
	sc.i = i + 1
	return value{kind: kString, str: strings.Clone(decode(raw))}, nil
}

func decode(raw string) string {
	if !strings.ContainsAny(raw, "'\\\r\n") {
		return raw
	}
	var b strings.Builder
	for i := 0; i < len(raw); {
		rest := raw[i:]
		switch {
		case strings.HasPrefix(rest, "''"):
			b.WriteByte('\'')
			i += 2
		case raw[i] == '\n' || raw[i] == '\r':
			i++
		case strings.HasPrefix(rest, `\\`):
			b.WriteByte('\\')
			i += 2
		case strings.HasPrefix(rest, `\S\`) && len(rest) > 3:
			b.WriteRune(rune(rest[3]) + 128)
			i += 4
		case strings.HasPrefix(rest, `\P`) && len(rest) > 3 && rest[3] == '\\':
			i += 4 // code page: Latin-1 is assumed
		case strings.HasPrefix(rest, `\X2\`) || strings.HasPrefix(rest, `\X4\`):
			end := strings.Index(rest, `\X0\`)
			if end < 0 {
				return b.String()
			}
			b.WriteString(decodeHex(rest[4:end], int(rest[2]-'0')))
			i += end + 4
		case strings.HasPrefix(rest, `\X\`) && len(rest) > 4:
			if n, err := strconv.ParseUint(rest[3:5], 16, 8); err == nil {
				b.WriteRune(rune(n))
			}
			i += 5
		default:
			b.WriteByte(raw[i])
			i++
		}
	}
	return b.String()
}

// decodeHex reads groups of 4 (UTF-16) or 8 (UTF-32) hexadecimal digits.
func decodeHex(s string, bytes int) string {
	digits := 2 * bytes
	var units []uint16
	var b strings.Builder
	for ; len(s) >= digits; s = s[digits:] {
		n, err := strconv.ParseUint(s[:digits], 16, 32)
		if err != nil {
			continue
		}
		if bytes == 2 {
			units = append(units, uint16(n))
		} else {
			b.WriteRune(rune(n))
		}
	}
	return string(utf16.Decode(units)) + b.String()
}
