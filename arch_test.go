package restbend_test

import (
	"go/ast"
	"go/constant"
	"go/token"
	"go/types"
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// The core imports nothing of the web, the database, templates or the file system, and
// imports point one way.
func TestLayers(t *testing.T) {
	// Of what is ours by any way round, of the rest what a package names itself.
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}}: {{join .Imports \" \"}}: {{join .Deps \" \"}}", "./...").Output()
	require.NoError(t, err)
	forbidden := map[string][]string{
		"restbend/core/": {"net/", "net", "os", "io/fs", "embed", "database/", "html/", "text/template", "path/filepath", "log/slog", "restbend", "restbend/store", "restbend/archive", "restbend/web",
			"restbend/figure", "restbend/exchange", "restbend/demo", "restbend/verify", "github.com/gin-gonic", "modernc.org"},
		"restbend/core/solve":     {"restbend/"},
		"restbend/core/body":      {"restbend/core/"},
		"restbend/core/trade":     {"restbend/"},
		"restbend/core/dose":      {"restbend/core/body", "restbend/core/catalogue", "restbend/core/safety", "restbend/core/plan", "restbend/core/progress", "restbend/core/solve", "restbend/core/assess", "restbend/core/record"},
		"restbend/core/assess":    {"restbend/core/plan", "restbend/core/progress", "restbend/core/solve", "restbend/core/record"},
		"restbend/core/catalogue": {"restbend/core/safety", "restbend/core/plan", "restbend/core/progress", "restbend/core/solve", "restbend/core/assess", "restbend/core/record"},
		"restbend/core/safety":    {"restbend/core/plan", "restbend/core/progress", "restbend/core/solve", "restbend/core/assess", "restbend/core/record"},
		"restbend/core/plan":      {"restbend/core/score", "restbend/core/record"},
		"restbend/core/score":     {"restbend/core/record", "restbend/core/solve/"},
		"restbend/core/progress":  {"restbend/core/plan", "restbend/core/safety", "restbend/core/solve", "restbend/core/assess", "restbend/core/record"},
		"restbend/store":          {"restbend/archive", "restbend/core/body", "restbend/core/catalogue", "restbend/core/safety", "restbend/core/plan", "restbend/core/progress", "restbend/core/dose", "restbend/core/assess", "restbend/core/record", "restbend/exchange", "restbend/figure", "restbend/web"},
		"restbend/figure":         {"restbend/web", "restbend/store", "restbend/exchange", "restbend/archive", "restbend/core/safety", "restbend/core/plan"},
		"restbend/exchange":       {"restbend/web", "restbend/store", "restbend/archive", "restbend/figure", "restbend/demo"},
		"restbend/archive":        {"restbend/web", "restbend/demo"},
		"restbend/demo":           {"restbend/web", "restbend/archive"},
		"restbend/plantest":       {"restbend/web", "restbend/store", "restbend/verify"},
		"restbend/verify":         {"restbend/"},
	}
	hit := func(imp string, bad []string) bool {
		return slices.ContainsFunc(bad, func(b string) bool {
			return imp == b || strings.HasSuffix(b, "/") && strings.HasPrefix(imp, b) || b != "restbend" && strings.HasPrefix(imp, b+"/")
		})
	}
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		parts := strings.SplitN(line, ":", 3)
		for prefix, bad := range forbidden {
			if !strings.HasPrefix(parts[0], prefix) {
				continue
			}
			seen++
			for _, imp := range strings.Fields(parts[1]) {
				assert.False(t, hit(imp, bad), "%s imports %s", parts[0], imp)
			}
			for _, imp := range strings.Fields(parts[2]) {
				assert.False(t, strings.HasPrefix(imp, "restbend") && hit(imp, bad), "%s comes by %s", parts[0], imp)
			}
		}
	}
	assert.Greater(t, seen, 10)
}

// Words of the trade are written once, in core/trade, and compared by name: no package writes one
// as a text where a word is meant, and none compares a plain text with one. The language of the
// poses and the names of points on the body have words of their own.
func TestWordsOfTheTradeAreTyped(t *testing.T) {
	if testing.Short() {
		t.Skip("reads every package")
	}
	const home = "restbend/core/trade"
	own := []string{home, "restbend/core/body", "restbend/figure", "restbend/verify"} // verify reads documents as a stranger would
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
		if p.PkgPath == "restbend/core/plan" {
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
						assert.NotContains(t, []string{"restbend/core/plan.Request", "*restbend/core/plan.Request"}, of.String(), p.Fset.Position(a.Pos()))
					}
				}
				return true
			})
		}
	}
	assert.True(t, seen)
}
