package core

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// order lists the packages from the bottom: each imports only what stands
// before it. Those in one line stand side by side and do not import each other.
var order = [][]string{
	{"core/quantity"},
	{"core/geom"},
	{"core/planar"},
	{"core/mesh"},
	{"core/brep"},
	{"core/exchange/step", "core/exchange/stl"},
	{"core/fitting"},
	{"core/exchange/dxf", "core/exchange/svg"},
	{"core/drawing"},
	{"core/prepare"},
	{"core/section"},
	{"core/blank"},
	{"core/feature"},
	{"core/tooling"}, {"core/material"}, {"core/machine"}, {"core/cutting"},
	{"core/workplan"},
	{"core/motion"},
	{"core/strategy/clearing", "core/strategy/profiling", "core/strategy/facing", "core/strategy/holes", "core/strategy/edges"},
	{"core/process"},
	{"core/removal"},
	{"core/compare"},
	{"core/nc"},
	{"core/nc/write", "core/nc/read"},
	{"jobs", "demo"},
	{"shop"},
	{"store", "report"},
	{"web"},
	{"cmd/arete"},
}

// within core these outside packages are forbidden: no HTTP, SQL, HTML, files,
// clock or environment.
var forbidden = []string{"net/http", "database/sql", "html/template", "os", "os/exec", "time", "net", "syscall", "embed"}

// The list in docs/ARCHITECTURE.md is this one; a test of the imports reads
// the clauses itself, tests left out.
func TestImportsPointDown(t *testing.T) {
	rank := map[string]int{}
	for i, line := range order {
		for _, p := range line {
			rank[p] = i
		}
	}
	found := map[string]bool{}
	root := ".."
	require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (strings.HasPrefix(d.Name(), ".") && d.Name() != ".." || d.Name() == "scripts" || d.Name() == "node_modules") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		rel, err := filepath.Rel(root, filepath.Dir(path))
		if err != nil {
			return err
		}
		pkg := filepath.ToSlash(rel)
		found[pkg] = true
		mine, known := rank[pkg]
		require.True(t, known, "%s has no place in the order: add it to the list here and in docs/ARCHITECTURE.md", pkg)
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, spec := range f.Imports {
			p, _ := strconv.Unquote(spec.Path.Value)
			if strings.HasPrefix(pkg, "core") && slices.Contains(forbidden, p) {
				t.Errorf("%s imports %s: core computes only", path, p)
			}
			if p, ours := strings.CutPrefix(p, "arete/"); ours && rank[p] >= mine {
				t.Errorf("%s imports %s, which does not stand below it", path, p)
			}
		}
		return nil
	}))
	for p := range rank {
		require.True(t, found[p], "%s is in the order but not in the tree", p)
	}
}

func TestArchitectureDocumentListsThePackages(t *testing.T) {
	doc, err := os.ReadFile("../docs/ARCHITECTURE.md")
	require.NoError(t, err)
	for _, line := range order {
		for _, p := range line {
			require.Contains(t, string(doc), "`"+p+"`", "docs/ARCHITECTURE.md does not name %s", p)
		}
	}
}
