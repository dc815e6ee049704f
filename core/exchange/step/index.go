package step

import "strings"

// entry is where an entity stands in the text.
type entry struct {
	id, off int
	kind    int32 // into exchange.kinds
}

// exchange is a skimmed file.
type exchange struct {
	text    string
	schema  string
	entries []entry
	kinds   []string // names of entities; those of a complex one joined by +
	dense   []int32  // entry+1 by number, or
	sparse  map[int]int32
	doubled int // entities whose number is used twice
}

// index prepares the look-up by number.
func (ex *exchange) index() {
	most := 0
	for _, e := range ex.entries {
		most = max(most, e.id)
	}
	if most <= 8*len(ex.entries)+1024 {
		ex.dense = make([]int32, most+1)
	} else {
		ex.sparse = make(map[int]int32, len(ex.entries))
	}
	for i, e := range ex.entries {
		if ex.at(e.id) >= 0 {
			ex.doubled++
		}
		if ex.dense != nil {
			ex.dense[e.id] = int32(i + 1)
		} else {
			ex.sparse[e.id] = int32(i + 1)
		}
	}
}

// at returns the position of an entity in entries, −1 if there is none.
func (ex *exchange) at(id int) int {
	if ex.dense == nil {
		return int(ex.sparse[id]) - 1
	}
	if id < 0 || id >= len(ex.dense) {
		return -1
	}
	return int(ex.dense[id]) - 1
}

// is returns the name of an entity, or the names joined by + of a complex one.
func (ex *exchange) is(id int) string {
	if i := ex.at(id); i >= 0 {
		return ex.kinds[ex.entries[i].kind]
	}
	return ""
}

// each calls f for all entities, in file order, that have one of the names.
func (ex *exchange) each(f func(in *instance, r *record) error, names ...string) error {
	want := make([]bool, len(ex.kinds))
	for k, kind := range ex.kinds {
		for part := range strings.SplitSeq(kind, "+") {
			for _, n := range names {
				want[k] = want[k] || part == n
			}
		}
	}
	for _, e := range ex.entries {
		if !want[e.kind] {
			continue
		}
		in, err := ex.read(e)
		if err != nil {
			return err
		}
		if err := f(in, in.find(names...)); err != nil {
			return err
		}
	}
	return nil
}

// has tells whether the file has an entity of the name.
func (ex *exchange) has(name string) bool {
	for _, kind := range ex.kinds {
		for part := range strings.SplitSeq(kind, "+") {
			if part == name {
				return true
			}
		}
	}
	return false
}

// get reads an entity, nil if the file has none of that number.
func (ex *exchange) get(id int) (*instance, error) {
	i := ex.at(id)
	if i < 0 {
		return nil, nil
	}
	return ex.read(ex.entries[i])
}

func (ex *exchange) read(e entry) (*instance, error) {
	sc := &scanner{s: ex.text, i: e.off}
	return sc.instance(e.id)
}

// line returns the number of the line that holds a place of the text.
func (ex *exchange) line(off int) int {
	return 1 + strings.Count(ex.text[:min(off, len(ex.text))], "\n")
}
