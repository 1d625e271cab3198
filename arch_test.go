package restbend_test

import (
	"go/ast"
	"go/constant"
	"go/token"
	"go/types"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// layers are the packages of the core from the ground up: each knows only of lower ones, by any way round.
var layers = [][]string{
	{"trade", "solve"},
	{"dose", "body", "intake", "way", "say"},
	{"pose"},
	{"statics", "furniture"},
	{"validate", "catalogue"},
	{"measure", "progress", "safety", "kinds", "assess"},
	{"plan", "survey"},
	{"facts", "score"},
	{"appraise", "record"},
	{"propose"},
	{"edit"},
	{"spot"},
}

// apart are packages of the core that know nothing of others although they stand above them.
var apart = map[string][]string{
	"solve":    {"trade"},
	"body":     {"trade"},
	"pose":     {"trade", "dose", "intake"},
	"statics":  {"trade", "dose", "intake"},
	"validate": {"trade", "dose", "intake"},
	"assess":   {"catalogue", "body"},
	"progress": {"intake"},
	"record":   {"facts"}, // keeps what was planned, and plans nothing
}

func TestLayers(t *testing.T) {
	// Of what is ours by any way round, of the rest what a package names itself.
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}}: {{join .Imports \" \"}}: {{join .Deps \" \"}}", "./...").Output()
	require.NoError(t, err)
	rank := map[string]int{}
	for i, names := range layers {
		for _, name := range names {
			rank["restbend/core/"+name] = i
		}
	}
	outside := []string{"net", "os", "io/fs", "embed", "database", "html", "text/template", "path/filepath", "log/slog", "github.com/gin-gonic", "modernc.org"}
	upper := map[string][]string{
		"restbend/store":    {"archive", "core/body", "core/catalogue", "core/dose", "core/assess", "exchange", "figure", "web"},
		"restbend/figure":   {"web", "store", "exchange", "archive", "core/safety", "core/plan", "core/facts"},
		"restbend/exchange": {"web", "store", "archive", "figure", "demo"},
		"restbend/archive":  {"web", "demo"},
		"restbend/demo":     {"web", "archive"},
		"restbend/plantest": {"web", "store", "verify"},
		"restbend/verify":   {""},
	}
	within := func(imp, parent string) bool { return imp == parent || strings.HasPrefix(imp, parent+"/") }
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		parts := strings.SplitN(line, ":", 3)
		me, core := strings.CutPrefix(parts[0], "restbend/core/")
		at, known := rank[parts[0]]
		test := strings.HasSuffix(parts[0], "test") // helpers of tests
		assert.True(t, !core || known || test, "%s stands in no layer", parts[0])
		for _, imp := range strings.Fields(parts[1]) {
			for _, bad := range outside {
				assert.False(t, core && !test && within(imp, bad), "%s imports %s", parts[0], imp)
			}
		}
		for _, imp := range strings.Fields(parts[2]) {
			if !strings.HasPrefix(imp, "restbend") {
				continue
			}
			seen++
			if core && !test {
				below, known := rank[imp]
				assert.True(t, known && below < at, "%s knows %s, which is not below it", parts[0], imp)
				assert.False(t, slices.Contains(apart[me], strings.TrimPrefix(imp, "restbend/core/")), "%s knows %s", parts[0], imp)
			}
			for parent, bad := range upper {
				for _, b := range bad {
					assert.False(t, within(parts[0], parent) && within(imp, strings.TrimSuffix("restbend/"+b, "/")), "%s knows %s", parts[0], imp)
				}
			}
		}
	}
	assert.Greater(t, seen, 200)
}

// A package has one job, and stays of a size in which it is found: lines without tests, and of the search
// without what writes a model for another solver.
func TestPackagesStaySmall(t *testing.T) {
	const most = 3500
	lines := map[string]int{}
	require.NoError(t, filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || path == "core/solve/lp.go" {
			return err
		}
		data, err := os.ReadFile(path)
		lines[filepath.Dir(path)] += strings.Count(string(data), "\n")
		return err
	}))
	for dir, n := range lines {
		assert.LessOrEqual(t, n, most, dir)
	}
	assert.Greater(t, len(lines), 30)
}

// Words of the trade are written once, in core/trade, and compared by name: no package writes one
// as a text where a word is meant, and none compares a plain text with one. The language of the
// poses and the names of points on the body have words of their own.
func TestWordsOfTheTradeAreTyped(t *testing.T) {
	if testing.Short() {
		t.Skip("reads every package")
	}
	const home = "restbend/core/trade"
	own := []string{home, "restbend/core/body", "restbend/core/pose", "restbend/core/statics", "restbend/core/validate", "restbend/core/furniture",
		"restbend/core/pose/posetest", "restbend/figure", "restbend/verify"} // verify reads documents as a stranger would
	loaded, err := packages.Load(&packages.Config{Mode: packages.NeedName | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps}, "./...")
	require.NoError(t, err)
	words := map[string]bool{}
	for _, p := range loaded {
		require.Empty(t, p.Errors, p.PkgPath)
		if p.PkgPath == home {
			for _, name := range p.Types.Scope().Names() {
				if c, ok := p.Types.Scope().Lookup(name).(*types.Const); ok && c.Val().Kind() == constant.String {
					words[constant.StringVal(c.Val())] = true
				}
			}
		}
	}
	require.Greater(t, len(words), 30)
	// Words that also name something else: a part of a page, a kind of contact, a command.
	for _, w := range []string{"side", "none", "up", "down", "rest", "open", "close", "main", "cap", "stay", "wall", "bed", "chair", "counter", "sofa", "mat", "kneeling", "standing", "prone", "even"} {
		delete(words, w)
	}
	seen := 0
	for _, p := range loaded {
		if slices.Contains(own, p.PkgPath) {
			continue
		}
		at := func(n ast.Node) string { return p.Fset.Position(n.Pos()).String() }
		text := func(e ast.Expr) (word string, named, ok bool) {
			lit, isLit := e.(*ast.BasicLit)
			tv, known := p.TypesInfo.Types[e]
			if !isLit || lit.Kind != token.STRING || !known || tv.Value == nil {
				return "", false, false
			}
			n, isNamed := tv.Type.(*types.Named)
			return constant.StringVal(tv.Value), isNamed && n.Obj().Pkg() != nil && n.Obj().Pkg().Path() == home, true
		}
		for _, f := range p.Syntax {
			ast.Inspect(f, func(n ast.Node) bool {
				switch n := n.(type) {
				case *ast.BasicLit:
					if word, named, ok := text(n); ok && named && word != "" {
						assert.Fail(t, "a word of the trade as text", "%s: %q", at(n), word)
					}
				case *ast.BinaryExpr:
					for _, e := range []ast.Expr{n.X, n.Y} {
						if word, named, ok := text(e); ok && !named && words[word] && (n.Op == token.EQL || n.Op == token.NEQ) {
							assert.Fail(t, "a text is compared with a word of the trade", "%s: %q", at(n), word)
						}
					}
					seen++
				case *ast.CaseClause:
					for _, e := range n.List {
						if word, named, ok := text(e); ok && !named && words[word] {
							assert.Fail(t, "a text is compared with a word of the trade", "%s: %q", at(n), word)
						}
					}
				}
				return true
			})
		}
	}
	assert.Greater(t, seen, 1000)
}

// The facts a session is made from are never changed outside their package: whoever wants others
// asks for them.
func TestFactsOfASessionAreNotChanged(t *testing.T) {
	if testing.Short() {
		t.Skip("reads every package")
	}
	loaded, err := packages.Load(&packages.Config{Mode: packages.LoadSyntax, Tests: true}, "./...")
	require.NoError(t, err)
	seen := false
	for _, p := range loaded {
		seen = seen || p.PkgPath == "restbend/web"
		if p.PkgPath == "restbend/core/facts" {
			continue
		}
		for _, file := range p.Syntax {
			ast.Inspect(file, func(n ast.Node) bool {
				a, ok := n.(*ast.AssignStmt)
				if !ok {
					return true
				}
				for _, left := range a.Lhs {
					sel, ok := left.(*ast.SelectorExpr)
					if !ok {
						continue
					}
					of := p.TypesInfo.TypeOf(sel.X)
					if of != nil {
						assert.NotContains(t, []string{"restbend/core/facts.Request", "*restbend/core/facts.Request"}, of.String(), p.Fset.Position(a.Pos()))
					}
				}
				return true
			})
		}
	}
	assert.True(t, seen)
}
