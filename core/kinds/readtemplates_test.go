package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/kinds"
	"restbend/plantest"
)

// A kinds file is read or refused with a reason; what is read passes its own check.
func FuzzReadTemplates(f *testing.F) {
	f.Add("- {slug: a, name: A, reason: r, minutes: 20, needs: [{families: [bridge], least: 1}]}")
	f.Add("- {slug: a, minutes: -1}")
	f.Add("[]")
	f.Fuzz(func(t *testing.T, text string) {
		ts, err := kinds.ReadTemplates([]byte(text), plantest.Cat)
		if err != nil {
			return
		}
		for i := range ts {
			require.Empty(t, ts[i].Check(plantest.Cat))
		}
	})
}
