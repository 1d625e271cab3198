package facts_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/plan"
	"restbend/plantest"
)

// What was done before is never planned shorter than what was decided of it: where minutes are short another exercise
// goes (shared ruling 60). What was never done may be.
func TestWhatWasDoneIsNotPlannedShorter(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	done, short := 0, 0
	for seed := uint64(23000); seed < 23040; seed++ {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		if r.Template.Doses() != "" {
			continue
		}
		for _, c := range r.Candidates() {
			for _, o := range c.Doses {
				if c.Times == 0 {
					short += map[bool]int{true: 1}[o.Length == plan.Short]
					continue
				}
				done++
				assert.NotEqual(t, plan.Short, o.Length, "%d %s: %s", seed, c.V.Slug, o.Dose.Words())
			}
		}
	}
	assert.Positive(t, done)
	assert.Positive(t, short)
}
