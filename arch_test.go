package restbend_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The core imports nothing of the web, the database, templates or the file system, and
// imports point one way.
func TestLayers(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}}: {{join .Imports \" \"}}", "./...").Output()
	require.NoError(t, err)
	forbidden := map[string][]string{
		"restbend/core/": {"net/", "net", "os", "io/fs", "embed", "database/", "html/", "text/template", "path/filepath", "log/slog", "restbend/store", "restbend/web",
			"restbend/figure", "restbend/exchange", "restbend/demo", "github.com/gin-gonic", "modernc.org"},
		"restbend/core/body":      {"restbend/core/"},
		"restbend/core/dose":      {"restbend/core/"},
		"restbend/core/catalogue": {"restbend/core/safety", "restbend/core/plan", "restbend/core/progress"},
		"restbend/core/safety":    {"restbend/core/plan", "restbend/core/progress"},
		"restbend/core/progress":  {"restbend/core/plan", "restbend/core/safety"},
		"restbend/store":          {"restbend/"},
		"restbend/figure":         {"restbend/web", "restbend/store", "restbend/exchange"},
		"restbend/exchange":       {"restbend/web", "restbend/store"},
		"restbend/verify":         {"restbend/"},
	}
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		pkg, imports, _ := strings.Cut(line, ": ")
		for prefix, bad := range forbidden {
			if !strings.HasPrefix(pkg, prefix) {
				continue
			}
			seen++
			for _, imp := range strings.Fields(imports) {
				for _, b := range bad {
					hit := imp == b || strings.HasSuffix(b, "/") && strings.HasPrefix(imp, b) || strings.HasPrefix(imp, b+"/")
					assert.False(t, hit, "%s imports %s", pkg, imp)
				}
			}
		}
	}
	assert.Greater(t, seen, 10)
}
