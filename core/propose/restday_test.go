package propose_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/propose"
	"restbend/plantest"
)

// On a bad day there is still a session for everybody who may exercise: gentle work from a pain
// of 5, comfort from 7.
func TestABadDayStillHasASession(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr, err := plantest.Load()
	require.NoError(t, err)
	made, seeds := 0, 40
	if testing.Short() {
		seeds = 10
	}
	for seed := range seeds {
		drawn, err := tr.Request(uint64(seed))
		require.NoError(t, err)
		for pain, most := range map[float64]int{5: 2, 8: 1} {
			c := drawn.Client
			c.Pain = &intake.Pain{Now: pain}
			r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, c, nil, 20, plantest.Today)
			require.NoError(t, err)
			p, err := propose.Build(r)
			var refused *facts.Refused
			if errors.As(err, &refused) && r.Screening.Refer != nil {
				continue
			}
			require.NoError(t, err, "seed %d, pain %g", seed, pain)
			made++
			for _, it := range p.Items {
				assert.LessOrEqual(t, it.Effort, most, "seed %d, pain %g: %s", seed, pain, it.Version)
			}
		}
	}
	assert.Greater(t, made, seeds)
}
