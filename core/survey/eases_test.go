package survey_test

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/safety"
	"restbend/core/survey"
)

var update = flag.Bool("update", false, "write the table of eases anew")

// The table of what eases leave (restbend catalogue --eases) stands in testdata, so that a change of an ease or of a
// limit shows what it does to every answer: version and ease, condition, quantity, full, eased, limit, what stops the
// movement, and whether that is far enough within.
func TestTheTableOfEases(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	rows := survey.Eases(rules, cat)
	require.NotEmpty(t, rows)
	var lines []string
	for _, e := range rows {
		lines = append(lines, e.String())
		assert.Greater(t, e.Full, e.Limit, e)
		assert.LessOrEqual(t, e.Eased, e.Limit+safety.Rounding, e)
		if e.StoppedBy == "" && !e.Near && !e.Another && e.Unit == "deg" && e.Limit > 0 {
			assert.True(t, e.Eased <= safety.EaseMargin*e.Limit+safety.Rounding || e.Eased <= 3, "%s is offered by words alone, and ends near the limit", e)
		}
	}
	text := strings.Join(lines, "\n") + "\n"
	if *update {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile("testdata/eases.txt", []byte(text), 0o644))
	}
	want, err := os.ReadFile("testdata/eases.txt")
	require.NoError(t, err)
	assert.Equal(t, string(want), text)
}
