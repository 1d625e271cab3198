package plan

import (
	"encoding/json"
	"strings"

	"restbend/core/dose"
	"restbend/core/trade"
)

// Typed is a dose that the instructor typed: what is nil stays as it was. Side is left or right when the
// sides are dosed apart, with the reason why.
type Typed struct {
	Sets, Reps, HoldS, HoldBreaths, RestS *int
	Side                                  trade.Side
	Why                                   string
}

// Bounds of a typed dose (product defaults).
const (
	mostTypedSets    = 10
	mostTypedReps    = 120
	mostTypedHold    = 600
	mostTypedBreaths = 60
	mostTypedRest    = 300
	longestReason    = 200
)

// apply writes what was typed into a dose.
func (t *Typed) apply(d dose.Dose) (dose.Dose, error) {
	for _, f := range []struct {
		name   string
		typed  *int
		from   int
		to     int
		accept func(n int)
	}{
		{"sets", t.Sets, 1, mostTypedSets, func(n int) { d.Sets, d.Pattern = n, nil }},
		{"reps", t.Reps, 1, mostTypedReps, func(n int) { d.Reps, d.RepsFrom, d.Pattern = n, 0, nil }},
		{"hold_s", t.HoldS, 0, mostTypedHold, func(n int) { d.HoldS, d.HoldFrom, d.HoldBreaths, d.HoldCounts = n, 0, 0, 0 }},
		{"hold_breaths", t.HoldBreaths, 0, mostTypedBreaths, func(n int) { d.HoldBreaths, d.HoldFrom, d.HoldS, d.HoldCounts = n, 0, 0, 0 }},
		{"rest_s", t.RestS, 0, mostTypedRest, func(n int) { d.RestS = n }},
	} {
		if f.typed == nil {
			continue
		}
		if *f.typed < f.from || *f.typed > f.to {
			return d, denied(f.name, "found %d, allowed: %d to %d", *f.typed, f.from, f.to)
		}
		f.accept(*f.typed)
	}
	if t.HoldS != nil && t.HoldBreaths != nil && *t.HoldS > 0 && *t.HoldBreaths > 0 {
		return d, denied("hold_s", "a hold is in seconds or in breaths, not both")
	}
	if d.Turn != "" && d.Reps%2 != 0 {
		return d, denied("reps", "found %d: sides or directions change in it, the count must be even", d.Reps)
	}
	return d, nil
}

// typeDose gives an item the dose that was typed, within what the log and the client's limits allow. A
// lower cap wins and is said.
func (r *Request) typeDose(it *Item, t *Typed) error {
	if t == nil {
		return denied("dose", "type a dose first")
	}
	c, err := r.candidate(it.Version)
	if err != nil {
		return err
	}
	if len(c.doses) == 0 {
		return denied("dose", "no dose of %s is allowed now", c.v.Name)
	}
	c.side = it.Side
	base := it.Dose
	if t.Side == "" {
		base.Apart = nil
	}
	if t.Side != "" {
		base.Extra = nil
	}
	d, err := t.apply(base)
	if err != nil {
		return err
	}
	why := strings.TrimSpace(t.Why)
	if t.Side != "" {
		switch {
		case t.Side != trade.Left && t.Side != trade.Right:
			return denied("side", "found %q, allowed: left, right", t.Side)
		case it.Side != trade.Each:
			return denied("side", "%s is not done to one side after the other", c.v.Name)
		case why == "" || len(why) > longestReason:
			return denied("why", "sides dosed apart need a reason of up to %d characters", longestReason)
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
		if apart[i], err = t.apply(apart[i]); err != nil {
			return err
		}
		apart[1-i].By, apart[1-i].Apart = "", nil
		d = base
		d.By, d.Apart = "", &apart
	}
	limited := r.limited(&c, d)
	it.Dose, it.Length = limited, Normal
	it.keepApart(why)
	if limited.Seconds(r.Client.BreathRate, it.Sides()) != d.Seconds(r.Client.BreathRate, it.Sides()) {
		it.Why += " Typed by hand, as far as the log and the limits allow."
	} else {
		it.Why += " Dose typed by hand."
	}
	return nil
}

// keepApart writes the doses of the sides beside the dose, where documents carry them.
func (it *Item) keepApart(why string) {
	it.DoseLeft, it.DoseRight, it.SidesWhy = nil, nil, ""
	if a := it.Dose.Apart; a != nil {
		left, right := a[0], a[1]
		it.DoseLeft, it.DoseRight, it.SidesWhy = &left, &right, why
	}
}

// apart drops doses of the sides when they are not worked one after the other any more.
func (it *Item) apart() {
	if it.Side != trade.Each || it.Dose.Apart == nil {
		it.Dose.Apart = nil
	}
	it.keepApart(it.SidesWhy)
}

// UnmarshalJSON reads an item with the doses of its sides.
func (it *Item) UnmarshalJSON(data []byte) error {
	type plain Item
	if err := json.Unmarshal(data, (*plain)(it)); err != nil {
		return err
	}
	if it.DoseLeft != nil && it.DoseRight != nil {
		it.Dose.Apart = &[2]dose.Dose{*it.DoseLeft, *it.DoseRight}
	}
	return nil
}

// DoseWords says what is done of an item, and on which side.
func (it *Item) DoseWords() string {
	side := map[trade.Side]string{
		trade.Each: ", each side", trade.Alternate: ", sides in turn", trade.Left: ", left only", trade.Right: ", right only",
	}[it.Side]
	if it.Dose.Apart != nil {
		side = ""
	}
	if it.Dose.Extra != nil {
		side += ", extra on the " + string(it.Dose.Extra.Side)
	}
	return it.Dose.Words() + side
}
