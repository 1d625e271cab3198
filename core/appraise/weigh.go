package appraise

import (
	"slices"

	"restbend/core/facts"
	"restbend/core/plan"
)

// heldBack are what a gate holds back for the sake of safety with some clients: head turns and closed eyes in
// standing, one leg without a hold, one-leg bridges, head lifts.
var heldBack = []string{"standing.head-turn", "declared.head-turns", "declared.vision-off", "standing.one-foot", "one-leg-bridge", "head-lift"}

// weigh is the weight of a rule for this client: some of what is style for most is a limit where bones, balance, a
// fresh operation or an acute back are concerned.
func (c *checker) weigh(rule string, at []int) plan.Weight {
	switch {
	case rule == "gates" && c.r.Careful() && slices.ContainsFunc(at, func(i int) bool {
		q := version(c.r, &c.p.Items[i]).Peaks(c.p.Items[i].Doing())
		return slices.ContainsFunc(heldBack, func(name string) bool { return q[name].Value > 0 })
	}),
		rule == "place" && c.r.Acute(),
		rule == "new-items" && (c.r.Acute() || c.r.FreshOperation() || stopped(c.r)):
		return plan.NotAllowed
	}
	return plan.WeightOf(rule)
}

// stopped tells that something holds for the whole client since the last session.
func stopped(r *facts.Request) bool { return r.Whole != nil }
