package appraise_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/appraise"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/plantest"
)

// What each rule weighs, written before the code: what could hurt, what is not open yet, what is style, what is left.
func TestWhatRulesWeigh(t *testing.T) {
	want := map[plan.Weight][]string{
		plan.NotAllowed: {"safe", "ways", "right-side", "clinician-limits", "effort-cap", "floor-transfers", "supine-block", "sitting-block", "few-of"},
		plan.NotYet:     {"gates", "no-skipped-rung"},
		plan.ThinkOf: {"opener-closer", "positions-once", "effort-rises", "order", "gentle-steps", "hardest-place", "easiest-first", "both-sides",
			"families", "main-count", "mobility-count", "three-sides", "place", "six-directions", "new-items", "needs", "never-less"},
		plan.LeftOver: {"time"},
	}
	n := 0
	for weight, rules := range want {
		for _, rule := range rules {
			n++
			assert.Equal(t, weight, plan.WeightOf(rule), rule)
		}
	}
	assert.Len(t, plan.Rules(), n)
	assert.Equal(t, plan.NotAllowed, plan.WeightOf("nobody wrote this"), "what is not known weighs most")
	for _, rule := range plan.Rules() {
		if appraise.SafetyRule(rule) && rule != "no-skipped-rung" {
			assert.Equal(t, plan.NotAllowed, plan.WeightOf(rule), rule)
		}
	}
}

// Every check of every plan says what it weighs; some of what is style for most is a limit for some.
func TestEveryCheckSaysWhatItWeighs(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	weigh := func(change func(*intake.Client), rule string, slugs ...string) plan.Weight {
		c := plantest.Able()
		c.Today.Date = plantest.Today
		change(c)
		r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, c, nil, 30, plantest.Today)
		require.NoError(t, err)
		p := &plan.Plan{Format: "restbend.plan/1", Minutes: 30, Rules: plan.RulesNow}
		for _, slug := range slugs {
			v, _ := tr.Cat.Version(slug)
			p.Items = append(p.Items, plan.Item{Version: slug, Family: v.Family, Role: trade.Main, Position: v.Position, Surface: v.Surfaces[0],
				Side: v.SideMode, Dose: v.Dose("reps", 0), Effort: v.Effort})
		}
		appraise.Retime(r, p)
		for _, k := range p.Checks {
			assert.Contains(t, plan.Weights, k.Weight, k.Rule)
		}
		i := slices.IndexFunc(p.Checks, func(k plan.Check) bool { return k.Rule == rule })
		require.GreaterOrEqual(t, i, 0, rule)
		require.False(t, p.Checks[i].OK, "%s: %v", rule, slugs)
		return p.Checks[i].Weight
	}
	able := func(*intake.Client) {}
	old := func(c *intake.Client) { c.Born = 1948 }
	tested := func(c *intake.Client) { c.Born, c.OneLegS = 1948, 15 }
	bones := func(c *intake.Client) {
		no := false
		c.Conditions = []intake.Condition{{Code: "osteoporosis", School: "graded", Fracture: &no}}
	}
	for _, row := range []struct {
		who   string
		with  func(*intake.Client)
		slug  string
		wants plan.Weight
	}{
		{"able", able, "one-leg-eyes-closed", plan.NotYet},
		{"75 and never measured", old, "one-leg-eyes-closed", plan.NotAllowed},
		{"75 and measured", tested, "one-leg-eyes-closed", plan.NotYet},
		{"bones", bones, "bridge-march", plan.NotAllowed},
		{"bones, a gate of strength", bones, "plank-hand", plan.NotYet},
		{"able", able, "bridge-march", plan.NotYet},
	} {
		assert.Equal(t, row.wants, weigh(row.with, "gates", row.slug), "%s: %s", row.who, row.slug)
	}
	assert.Equal(t, plan.ThinkOf, weigh(able, "order", "squat", "bridge"))
}
