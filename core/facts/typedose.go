package facts

import (
	"strings"

	"restbend/core/dose"
	"restbend/core/plan"
	"restbend/core/trade"
)

// TypeDose gives an item the dose that was typed, within what the log and the client's limits allow. A
// lower cap wins and is said.
func (r *Request) TypeDose(it *plan.Item, t *plan.Typed) error {
	if t == nil {
		return plan.Deny("dose", "type a dose first")
	}
	c, err := r.Candidate(it.Version)
	if err != nil {
		return err
	}
	if len(c.Doses) == 0 {
		return plan.Deny("dose", "no dose of %s is allowed now", c.V.Name)
	}
	c.Side = it.Side
	base := it.Dose
	if t.Side == "" {
		base.Apart = nil
	}
	if t.Side != "" {
		base.Extra = nil
	}
	d, err := t.Apply(base)
	if err != nil {
		return err
	}
	why := strings.TrimSpace(t.Why)
	if t.Side != "" {
		switch {
		case t.Side != trade.Left && t.Side != trade.Right:
			return plan.Deny("side", "found %q, allowed: left, right", t.Side)
		case it.Side != trade.Each:
			return plan.Deny("side", "%s is not done to one side after the other", c.V.Name)
		case why == "" || len(why) > plan.LongestReason:
			return plan.Deny("why", "sides dosed apart need a reason of up to %d characters", plan.LongestReason)
		}
		apart := [2]dose.Dose{base, base}
		if it.Dose.Apart != nil {
			apart = *it.Dose.Apart
		}
		i := 0
		if t.Side == trade.Right {
			i = 1
		}
		apart[i].By, apart[i].Apart = "", nil
		if apart[i], err = t.Apply(apart[i]); err != nil {
			return err
		}
		apart[1-i].By, apart[1-i].Apart = "", nil
		d = base
		d.By, d.Apart = "", &apart
	}
	limited := r.Limited(&c, d)
	it.Dose, it.Length = limited, plan.Normal
	it.KeepApart(why)
	if limited.Seconds(r.Client.BreathRate, it.Sides()) != d.Seconds(r.Client.BreathRate, it.Sides()) {
		it.Why += " Typed by hand, as far as the log and the limits allow."
	} else {
		it.Why += " Dose typed by hand."
	}
	return nil
}
