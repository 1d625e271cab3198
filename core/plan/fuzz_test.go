package plan_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/plan"
)

// A kinds file is read or refused with a reason; what is read passes its own check.
func FuzzReadTemplates(f *testing.F) {
	f.Add("- {slug: a, name: A, reason: r, minutes: 20, needs: [{families: [bridge], least: 1}]}")
	f.Add("- {slug: a, minutes: -1}")
	f.Add("[]")
	f.Fuzz(func(t *testing.T, text string) {
		ts, err := plan.ReadTemplates([]byte(text), cat)
		if err != nil {
			return
		}
		for i := range ts {
			require.Empty(t, ts[i].Check(cat))
		}
	})
}

// Whatever a solver prints, a solution names columns of the model or is refused.
func FuzzReadSolution(f *testing.F) {
	r := request(f, able(), nil, 20)
	m := plan.NewModel(r)
	f.Add("Optimal - objective value 12\n      0 x0   1   0\n  3 o1 1 0\n  4 c2 1 0\n")
	f.Add("x99999999999999999999 1")
	f.Add(strings.Repeat("o1 1 ", 40))
	f.Fuzz(func(t *testing.T, text string) {
		sel, err := m.ReadSolution(bytes.NewReader([]byte(text)))
		if err != nil {
			return
		}
		for _, c := range sel.Body {
			require.True(t, c >= 0 && c < len(m.Items))
		}
	})
}
