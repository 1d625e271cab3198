package edit_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/appraise"
	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

func num(n int) *int { return &n }

// A typed dose is taken as it is, within what is allowed, and stays when the rest is rebuilt; the sides may
// be dosed apart, with a reason.
func TestADoseIsTyped(t *testing.T) {
	c := plantest.Able()
	c.Aims = map[string]float64{"hip-strength": 3, "anti-side-bend": 2}
	r := plantest.For(t, c, nil, 20)
	p, err := propose.Build(r)
	require.NoError(t, err)
	if plantest.Index(p, "clam") < 0 {
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: "clam"}))
	}
	at := func() *plan.Item { return &p.Items[plantest.Index(p, "clam")] }
	typed := func(d plan.Typed) error {
		return edit.Apply(r, p, edit.Edit{Op: "dose", Item: plantest.Index(p, "clam"), Dose: &d})
	}
	require.NoError(t, typed(plan.Typed{Sets: num(2), Reps: num(9), RestS: num(20), HoldS: num(3)}))
	it := at()
	assert.True(t, it.ByHand)
	// set-up, two sides of 2 x 9 x (move + 3) and a rest each, the change
	side := 2*9*(it.Dose.MoveS+3) + 20
	assert.Equal(t, it.Dose.SetupS+2*side+it.Dose.ChangeS, it.End-it.Start)

	require.NoError(t, typed(plan.Typed{Reps: num(14), Side: trade.Left, Why: "weaker after the cast"}))
	it = at()
	require.NotNil(t, it.DoseLeft)
	assert.Equal(t, 14, it.DoseLeft.Reps)
	assert.Equal(t, 9, it.DoseRight.Reps)
	assert.Equal(t, "weaker after the cast", it.SidesWhy)
	assert.Equal(t, it.Dose.SetupS+2*side+2*5*(it.Dose.MoveS+3)+it.Dose.ChangeS, it.End-it.Start)
	assert.Contains(t, it.Dose.Words(), "left 2 x 14")
	data, err := json.Marshal(p)
	require.NoError(t, err)
	var back plan.Plan
	require.NoError(t, json.Unmarshal(data, &back))
	seconds := back.Seconds
	appraise.Retime(r, &back)
	assert.Equal(t, seconds, back.Seconds, "a plan travels with its sides apart")

	p, err = edit.Rebuild(r, p)
	require.NoError(t, err)
	it = at()
	assert.Equal(t, 14, it.DoseLeft.Reps, "stays when the rest is rebuilt")
	assert.True(t, it.ByHand)
	assert.False(t, it.Locked)

	for want, d := range map[string]plan.Typed{
		"sets: found 0, allowed: 1 to 10":          {Sets: num(0)},
		"reps: found 500, allowed: 1 to 120":       {Reps: num(500)},
		"hold_s: found -3, allowed: 0 to 600":      {HoldS: num(-3)},
		"not both":                                 {HoldS: num(5), HoldBreaths: num(2)},
		"need a reason":                            {Reps: num(8), Side: trade.Left},
		`found "both", allowed: left, right`:       {Reps: num(8), Side: "both", Why: "so"},
		"rest_s: found 100000, allowed: 0 to 300":  {RestS: num(100000)},
		"hold_breaths: found 61, allowed: 0 to 60": {HoldBreaths: num(61)},
	} {
		assert.ErrorContains(t, typed(d), want)
	}
}
