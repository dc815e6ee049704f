package step

import (
	"fmt"
	"strings"
)

// tellUnknown notes the entities whose names the application protocols do not
// have, a maker's own among them: they are skipped.
func (b *reader) tellUnknown() {
	const most = 8
	var out []string
	for _, kind := range b.ex.kinds {
		for name := range strings.SplitSeq(kind, "+") {
			if !known(name) {
				out = append(out, name)
			}
		}
	}
	if n := len(out) - most; n > 0 {
		out = append(out[:most], fmt.Sprintf("and %d more", n))
	}
	if len(out) > 0 {
		b.note("entities that are not known here are skipped: %s", strings.Join(out, ", "))
	}
}

// known tells whether a name is that of an entity; the list may have it as the
// end of a longer one only.
func known(name string) bool {
	for _, before := range [3]string{" ", "\n", "_"} {
		if strings.Contains(names, before+name+" ") {
			return true
		}
	}
	return false
}
