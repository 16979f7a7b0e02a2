// Package internal holds the table of who may import whom.
package internal

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// areas are the stops of the path and the account: every layer is divided by them,
// and areas of one layer never import each other.
var areas = []string{"sitemap", "navigation", "pages", "addresses", "editions", "account"}

// table gives, for a folder, the folders of ours that it may import, those below
// with them; the longest row counts. Imports run one way:
// core ← app ← {store, files, jobs, web} ← cmd.
var table = func() map[string][]string {
	rows := map[string][]string{
		"internal/core":        {"internal/core"},
		"internal/markup":      {"internal/core"},
		"internal/files":       {"internal/core"},
		"internal/app":         {"internal/core", "internal/markup", "internal/app", "internal/platform/background"},
		"internal/app/plan":    {"internal/core", "internal/markup", "internal/platform/background"},
		"internal/app/reading": {"internal/core", "internal/markup", "internal/app/plan"},
		"internal/store":       {"internal/core", "internal/app", "internal/markup", "migrations"},
		"internal/jobs":        {"internal/app", "internal/platform/background"},
		"internal/platform":    {},
		"internal/demo":        {"internal/core", "internal/app", "internal/files"},
		"internal/web/urls":    {},
		"internal/web/border":  {},
		"internal/web/oldhost": {"internal/core"},
		"internal/web/render":  {"internal/markup", "web"},
		"internal/web/reader":  {"internal/core", "internal/app", "internal/markup", "internal/files", "internal/platform/background", "internal/web/border", "internal/web/render", "internal/web/urls", "web"},
		"internal/web/studio":  {"internal/core", "internal/app", "internal/markup", "internal/files", "internal/platform/background", "internal/web/border", "internal/web/render", "internal/web/urls", "web"},
		"internal/web/server":  {"internal/core", "internal/app", "internal/files", "internal/jobs", "internal/markup", "internal/platform", "internal/store", "internal/web"},
		"cmd":                  {"internal"},
		"internal/testkit":     {"internal"},
		"e2e":                  {"internal"},
	}
	studio := []string{"internal/core", "internal/app", "internal/markup", "internal/files", "internal/web/border", "internal/web/render", "internal/web/urls"}
	rows["internal/web/studio/part"] = studio
	rows["internal/web/studio/screentest"] = studio
	rows["internal/web/studio/shell"] = append(studio, "internal/web/studio/part", "internal/platform/background")
	for _, area := range areas {
		rows["internal/app/"+area] = []string{"internal/core", "internal/markup", "internal/app/plan", "internal/platform/background"}
		rows["internal/web/studio/"+area] = append(studio, "internal/web/studio/part", "internal/web/studio/shell")
	}
	return rows
}()

// only names the one folder that may import a library.
var only = map[string]string{
	"gorm.io/gorm":                       "internal/store",
	"github.com/yuin/goldmark":           "internal/markup",
	"github.com/microcosm-cc/bluemonday": "internal/markup",
	"github.com/gin-gonic/gin":           "internal/web",
	"github.com/xuri/excelize/v2":        "internal/files",

	"github.com/JohannesKaufmann/html-to-markdown/v2": "internal/files",
	"codeberg.org/go-pdf/fpdf":                        "internal/files",
	"golang.org/x/image":                              "internal/files",
	"golang.org/x/net":                                "internal/files",
}

func TestImports(t *testing.T) {
	seen := 0
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (strings.HasPrefix(d.Name(), ".") && d.Name() != ".." || d.Name() == "node_modules") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") {
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		dir := filepath.ToSlash(strings.TrimPrefix(filepath.Dir(path), "../"))
		for _, imp := range file.Imports {
			name, _ := strconv.Unquote(imp.Path.Value)
			seen++
			checkImport(t, dir, name, strings.HasSuffix(path, "_test.go"))
		}
		return nil
	})
	if err != nil || seen < 300 {
		t.Fatalf("looked at %d imports: %v", seen, err)
	}
}

// Only the verdict's release writes an edition, and only three roads make a selection for it.
func TestOneFunctionWritesEditions(t *testing.T) {
	calls := map[string][]string{}
	err := filepath.WalkDir("app", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		for _, decl := range file.Decls {
			in, ok := decl.(*ast.FuncDecl)
			if !ok {
				continue
			}
			ast.Inspect(in, func(n ast.Node) bool {
				if call, ok := n.(*ast.CallExpr); ok {
					if f, ok := call.Fun.(*ast.SelectorExpr); ok && (f.Sel.Name == "Release" || f.Sel.Name == "release" && filepath.Base(filepath.Dir(path)) == "editions") {
						calls[f.Sel.Name] = append(calls[f.Sel.Name], filepath.Base(path)+" "+in.Name.Name)
					}
				}
				return true
			})
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if got := calls["Release"]; !slices.Equal(got, []string{"release.go release"}) {
		t.Errorf("editions are written by %q", got)
	}
	for _, by := range calls["release"] {
		if file, _, _ := strings.Cut(by, " "); !slices.Contains([]string{"minute.go", "publish.go", "rollback.go"}, file) {
			t.Errorf("%s releases an edition", by)
		}
	}
	if len(calls["release"]) != 3 {
		t.Errorf("release is called by %q", calls["release"])
	}
}

func checkImport(t *testing.T, dir, name string, test bool) {
	test = test || dir == "internal/testkit" || strings.HasSuffix(dir, "test")
	for lib, owner := range only {
		if (name == lib || strings.HasPrefix(name, lib+"/")) && !strings.HasPrefix(dir, owner) && !test {
			t.Errorf("%s imports %s, which only %s may", dir, name, owner)
		}
	}
	own, ours := strings.CutPrefix(name, "candlepath/")
	row, allowed := rowOf(dir)
	if !ours {
		if strings.HasPrefix(dir, "internal/core") && strings.Contains(name, ".") && !strings.HasPrefix(name, "golang.org/x/text/") && !test {
			t.Errorf("%s imports %s: the core keeps to the standard library and x/text", dir, name)
		}
		return
	}
	if row == "" {
		return
	}
	if strings.HasPrefix(own, row) || test && (own == "internal/testkit" || strings.HasSuffix(own, "test") || row != "internal/core") {
		return
	}
	for _, a := range allowed {
		if own == a || strings.HasPrefix(own, a+"/") {
			return
		}
	}
	t.Errorf("%s imports %s, which the table does not allow", dir, own)
}

func rowOf(dir string) (row string, allowed []string) {
	for r, a := range table {
		if (dir == r || strings.HasPrefix(dir, r+"/")) && len(r) > len(row) {
			row, allowed = r, a
		}
	}
	return row, allowed
}
