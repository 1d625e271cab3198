package record_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/record"
)

// The fields a kind of mark has are those that docs/teaching.md tells.
func TestTheFieldsOfMarksAreWritten(t *testing.T) {
	doc, err := os.ReadFile("../../docs/teaching.md")
	require.NoError(t, err)
	_, table, found := strings.Cut(string(doc), "## What a mark of a kind says")
	require.True(t, found)
	for _, kind := range record.Kinds {
		fields := strings.Join(record.FieldsOf(kind), ", ")
		if fields == "" {
			fields = "nothing more"
		}
		assert.Contains(t, table, fmt.Sprintf("| %s | %s |", kind, fields))
	}
	assert.Equal(t, len(record.Kinds)+2, strings.Count(table, "\n|"))
}
