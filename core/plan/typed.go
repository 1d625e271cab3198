package plan

import (
	"encoding/json"

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
	LongestReason    = 200
)

// Apply writes what was typed into a dose.
func (t *Typed) Apply(d dose.Dose) (dose.Dose, error) {
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
		{"hold_breaths", t.HoldBreaths, 0, mostTypedBreaths,
			func(n int) { d.HoldBreaths, d.HoldFrom, d.HoldS, d.HoldCounts = n, 0, 0, 0 }},
		{"rest_s", t.RestS, 0, mostTypedRest, func(n int) { d.RestS = n }},
	} {
		if f.typed == nil {
			continue
		}
		if *f.typed < f.from || *f.typed > f.to {
			return d, Deny(f.name, "found %d, allowed: %d to %d", *f.typed, f.from, f.to)
		}
		f.accept(*f.typed)
	}
	if t.HoldS != nil && t.HoldBreaths != nil && *t.HoldS > 0 && *t.HoldBreaths > 0 {
		return d, Deny("hold_s", "a hold is in seconds or in breaths, not both")
	}
	if d.Turn != "" && d.Reps%2 != 0 {
		return d, Deny("reps", "found %d: sides or directions change in it, the count must be even", d.Reps)
	}
	return d, nil
}

// KeepApart writes the doses of the sides beside the dose, where documents carry them.
func (it *Item) KeepApart(why string) {
	it.DoseLeft, it.DoseRight, it.SidesWhy = nil, nil, ""
	if a := it.Dose.Apart; a != nil {
		left, right := a[0], a[1]
		it.DoseLeft, it.DoseRight, it.SidesWhy = &left, &right, why
	}
}

// Apart drops doses of the sides when they are not worked one after the other any more.
func (it *Item) Apart() {
	if it.Side != trade.Each || it.Dose.Apart == nil {
		it.Dose.Apart = nil
	}
	it.KeepApart(it.SidesWhy)
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
