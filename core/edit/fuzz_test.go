package edit_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/appraise"
	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/plantest"
)

// Whatever is asked for by hand, nothing unsafe comes in, a refusal changes nothing, and the
// times still add up.
func FuzzApply(f *testing.F) {
	for i, op := range edit.Ops {
		f.Add(op, i, 2*i, "bridge")
	}
	f.Add("side", 3, 0, "left")
	f.Add("swap", -1, 1<<40, "plank")
	r := plantest.For(f, plantest.Able(), nil, 20)
	made, err := propose.Quick(r)
	require.NoError(f, err)
	f.Fuzz(func(t *testing.T, op string, item, to int, with string) {
		if op == "rebuild" || op == "arrange" { // searches: tried elsewhere
			return
		}
		before, err := json.Marshal(made)
		require.NoError(t, err)
		p := &plan.Plan{}
		require.NoError(t, json.Unmarshal(before, p))
		if edit.Apply(r, p, edit.Edit{Op: op, Item: item, To: to, With: with}) != nil {
			after, err := json.Marshal(p)
			require.NoError(t, err)
			require.JSONEq(t, string(before), string(after))
			return
		}
		now := 0
		for i := range p.Items {
			it := &p.Items[i]
			require.True(t, appraise.Safe(r, it), it.Version)
			now += it.Transition
			require.Equal(t, now, it.Start)
			now = it.End
		}
		require.Equal(t, p.Seconds, now+p.UpS)
	})
}
