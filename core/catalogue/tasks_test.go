package catalogue_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
)

// What a client says in their own words leads to the tasks it may mean, or is said to be unknown.
func TestFreeTextFindsTheNearestTasks(t *testing.T) {
	tasks, err := restbend.Tasks()
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(tasks), 40)
	for text, want := range map[string]string{
		"carrying shopping home":       "carry",
		"climb the stairs to my flat":  "stairs",
		"sitting at work all day":      "sit",
		"walking the dog without pain": "walk",
	} {
		near := catalogue.NearestTasks(tasks, text)
		require.NotEmpty(t, near, text)
		assert.LessOrEqual(t, len(near), 3, text)
		assert.Contains(t, near[0].Name, want, text)
	}
	assert.Empty(t, catalogue.NearestTasks(tasks, "xylophone"))
	unknown := catalogue.UnknownTasks(tasks, []string{tasks[0].Name, "xylophone", "climb the stairs to my flat"})
	require.Len(t, unknown, 2)
	assert.Equal(t, "xylophone", unknown[0].Text)
	stairs := unknown[1].Nearest[0].Name
	assert.Len(t, catalogue.UnknownTasks(tasks, []string{"climb the stairs to my flat", stairs}), 0, "confirmed: one of those it may mean was chosen")
}
