package plan_test

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/plan"
	"restbend/plantest"
)

// A kinds file is read or refused with a reason; what is read passes its own check.
func FuzzReadTemplates(f *testing.F) {
	f.Add("- {slug: a, name: A, reason: r, minutes: 20, needs: [{families: [bridge], least: 1}]}")
	f.Add("- {slug: a, minutes: -1}")
	f.Add("[]")
	f.Fuzz(func(t *testing.T, text string) {
		ts, err := plan.ReadTemplates([]byte(text), plantest.Cat)
		if err != nil {
			return
		}
		for i := range ts {
			require.Empty(t, ts[i].Check(plantest.Cat))
		}
	})
}

// Whatever a solver prints, a solution names columns of the model or is refused.
func FuzzReadSolution(f *testing.F) {
	r := plantest.For(f, plantest.Able(), nil, 20)
	m := plan.State(r)
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

// Whatever is asked for by hand, nothing unsafe comes in, a refusal changes nothing, and the
// times still add up.
func FuzzApply(f *testing.F) {
	for i, op := range plan.Ops {
		f.Add(op, i, 2*i, "bridge")
	}
	f.Add("side", 3, 0, "left")
	f.Add("swap", -1, 1<<40, "plank")
	r := plantest.For(f, plantest.Able(), nil, 20)
	made, err := plan.Quick(r)
	require.NoError(f, err)
	f.Fuzz(func(t *testing.T, op string, item, to int, with string) {
		if op == "rebuild" || op == "arrange" { // searches: tried elsewhere
			return
		}
		before, err := json.Marshal(made)
		require.NoError(t, err)
		p := &plan.Plan{}
		require.NoError(t, json.Unmarshal(before, p))
		if r.Apply(p, plan.Edit{Op: op, Item: item, To: to, With: with}) != nil {
			after, err := json.Marshal(p)
			require.NoError(t, err)
			require.JSONEq(t, string(before), string(after))
			return
		}
		now := 0
		for i := range p.Items {
			it := &p.Items[i]
			require.True(t, r.Safe(it), it.Version)
			now += it.Transition
			require.Equal(t, now, it.Start)
			now = it.End
		}
		require.Equal(t, p.Seconds, now+p.UpS)
	})
}
