package facts

import (
	"slices"

	"restbend/core/catalogue"
)

// UsualPoints is what an exercise counts more that an instructor reaches for first with this client
// (product default).
const UsualPoints = 2.0

// Usual tells whether an instructor reaches for a family first with this client.
func (r *Request) Usual(family string) bool {
	if r.known().usual == nil {
		r.memo.usual = map[string]bool{}
		add := func(name string) {
			for _, f := range r.Catalogue.Preferences.Usual[name] {
				r.memo.usual[f] = true
			}
		}
		if r.Acute() {
			add("acute")
		} else {
			for _, k := range r.Client.Conditions {
				add(k.Code)
			}
		}
		if len(r.memo.usual) == 0 {
			add("anyone")
		}
	}
	return r.memo.usual[family]
}

// proposedAims are the aims of a client who named none: by condition, task, age and day (domain/07).
func (r *Request) proposedAims() map[string]float64 {
	out := map[string]float64{}
	most := func(name string) {
		for a, w := range r.Catalogue.Preferences.Aims[name] {
			out[a] = max(out[a], w)
		}
	}
	switch {
	case r.Resting():
		most("resting")
		return out
	case r.Acute():
		most("acute")
		return out
	}
	for _, k := range r.Client.Conditions {
		most(k.Code)
	}
	for i := range r.TasksOfAims() {
		t := &r.TasksOfAims()[i]
		for a, w := range t.Propose {
			out[a] = max(out[a], w)
		}
		if t.Propose == nil {
			for _, a := range t.Aims {
				out[a] = max(out[a], 1)
			}
		}
	}
	age := 0
	if r.Client.Born > 0 {
		year, _, _ := r.Today.Date()
		age = year - r.Client.Born
	}
	if len(out) == 0 {
		most("nothing")
		if age >= 60 {
			most("from-60")
		}
	}
	if age >= 65 {
		for a, w := range r.Catalogue.Preferences.Aims["from-65"] {
			out[a] += w
		}
	}
	return out
}

// Proposed is the aims that are proposed for a client, the weightiest first, with their weights.
func (r *Request) Proposed() (aims []string, weights map[string]float64) {
	weights = r.proposedAims()
	for _, a := range catalogue.Aims {
		if weights[a] > 0 {
			aims = append(aims, a)
		}
	}
	slices.SortStableFunc(aims, func(a, b string) int { return int(weights[b] - weights[a]) })
	return aims, weights
}

// Amounts are how much of an aim is asked for, in words (domain/07): weights 1, 2 and 3.
var Amounts = []string{"less", "normal", "more"}

// AmountOf is a weight in words; empty for an aim that is not asked for.
func AmountOf(weight float64) string {
	switch {
	case weight <= 0:
		return ""
	case weight <= 1:
		return Amounts[0]
	case weight <= 2:
		return Amounts[1]
	}
	return Amounts[2]
}

// WeightOf is the weight of an amount in words; ok is false for another word.
func WeightOf(amount string) (weight float64, ok bool) {
	i := slices.Index(Amounts, amount)
	return float64(i + 1), i >= 0
}
