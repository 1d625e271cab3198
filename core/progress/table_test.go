package progress_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/progress"
)

// The table people read is the table the program uses; RESTBEND_WRITE=1 writes it anew.
func TestTheWrittenTable(t *testing.T) {
	const file, from, to = "../../docs/progress.md", "<!-- table -->\n", "<!-- end of table -->"
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	var rows strings.Builder
	rows.WriteString("| decides | for | when | changes with | source |\n|---|---|---|---|---|\n")
	for _, s := range progress.Stoppers() {
		require.NotEmpty(t, s.Change)
		require.NotEmpty(t, s.Source)
		decision, rule, _ := strings.Cut(s.Rule, ": ")
		require.Equal(t, string(s.Decision), decision, "%s", s.Rule)
		fmt.Fprintf(&rows, "| %s | %s | %s | %s | %s |\n", decision, s.Who, rule, s.Change, s.Source)
	}
	before, rest, ok := strings.Cut(string(text), from)
	require.True(t, ok)
	_, after, ok := strings.Cut(rest, to)
	require.True(t, ok)
	want := before + from + rows.String() + to + after
	if os.Getenv("RESTBEND_WRITE") != "" {
		require.NoError(t, os.WriteFile(file, []byte(want), 0o644))
	}
	assert.Equal(t, want, string(text), "run: RESTBEND_WRITE=1 go test ./core/progress -run TestTheWrittenTable")
}
