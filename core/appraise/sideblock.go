package appraise

import (
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// A side block (domain/07): sided items of one position that follow each other, side-lying or standing
// on one leg, are done all on one side, easiest first, then turned over once and the same on the other.

// TurnOver is how much longer turning over in lying takes than a change of sides, once for a block: 15 s
// in place of 8 (domain/07). Changing the standing leg takes 5 s, within the change of its first item.
const TurnOver = 7

// sideBlocks marks the side blocks of a plan.
func sideBlocks(r *facts.Request, p *plan.Plan) {
	n := 0
	for i := range p.Items {
		p.Items[i].Block, p.Items[i].TurnS, p.Items[i].First = 0, 0, ""
	}
	if r.Template != nil && (r.Template.Routine || r.Template.Desk) {
		return
	}
	for i := 0; i < len(p.Items); {
		k := i + 1
		for k < len(p.Items) && oneBlock(r, &p.Items[i], &p.Items[k]) {
			k++
		}
		if k > i+1 {
			n++
			for m := i; m < k; m++ {
				p.Items[m].Block = n
				if m > i {
					p.Items[m].First = facing(r, &p.Items[i], &p.Items[m])
				}
			}
			if p.Items[i].Position.Lies() {
				p.Items[i+1].TurnS = TurnOver
			}
		}
		i = k
	}
}

// oneBlock tells whether two items belong to one side block.
func oneBlock(r *facts.Request, a, b *plan.Item) bool {
	if turns(r, a) == "" || turns(r, a) != turns(r, b) || a.Place() != b.Place() {
		return false
	}
	first := facing(r, a, b)
	return first != "" && (b.Dose.Extra == nil || b.Dose.Extra.Side == first) &&
		(b.Dose.Apart == nil || first == trade.Left)
}

// facing is the side of an item that is done while the client lies as for the first side of another, or
// stands on the same leg; empty when there is none. What works the upper side goes with what works the lower.
func facing(r *facts.Request, a, b *plan.Item) trade.Side {
	first := a.SideOrder()[0]
	if a.Position != trade.SideLying {
		return first
	}
	v, known := r.Catalogue.Version(a.Version)
	w, ok := r.Catalogue.Version(b.Version)
	if !known || !ok {
		return ""
	}
	for _, side := range trade.BothSides {
		if on, lies := v.LyingOn(first).Side(); lies {
			if same, _ := w.LyingOn(side).Side(); same == on {
				return side
			}
		}
	}
	return ""
}

// onOneLeg are the standing versions that stay on one leg, by what their left and right name, and which leg
// that is.
var onOneLeg = map[string]string{
	"the leg that stands":   "stands on it",
	"the leg that rises":    "stands on it",
	"the leg that lifts":    "stands on the other",
	"the knee that lifts":   "stands on the other",
	"the knee that circles": "stands on the other",
}

// turns tells how an item is done to one side whole and then, after turning over or changing the leg, to
// the other; empty when it is not.
func turns(r *facts.Request, it *plan.Item) string {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok || it.Role != trade.Main || it.Side != trade.Each || it.Dose.By == "set" {
		return ""
	}
	if it.Position == trade.SideLying {
		return "turns over"
	}
	if it.Position == trade.Standing {
		return onOneLeg[v.SideMeans]
	}
	return ""
}

// MayBlock tells whether a session may hold a side block in lying, whose turning over takes room.
func MayBlock(r *facts.Request, cs []facts.Candidate) bool {
	n := 0
	for i := range cs {
		n += facts.CountIf(cs[i].Side == trade.Each && cs[i].V.Position == trade.SideLying)
	}
	return n > 1 && (r.Template == nil || !r.Template.Routine && !r.Template.Desk && !r.Template.Resets)
}

// turning is the seconds of turning over that no dose accounts for; they do not fill the time.
func turning(p *plan.Plan) (seconds int) {
	for i := range p.Items {
		seconds += p.Items[i].TurnS
	}
	return seconds
}
