package edit

import (
	"slices"
	"strings"

	"restbend/core/appraise"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// Fit brings an item within what holds now: where it is done, with which ease, which side it works
// and how much of it. What is locked, or was changed by hand, keeps its side and dose as far as they are allowed; anything
// else takes the side and the normal dose that hold now when its own do not. The changes are what
// was done; the error says why the item may not be in this session at all.
func Fit(r *facts.Request, it *plan.Item) (changes []Change, err error) {
	c, err := r.Candidate(it.Version)
	if err != nil {
		return nil, err
	}
	if len(c.Doses) == 0 {
		return nil, plan.Deny("with", "no dose of %s is allowed now", c.V.Name)
	}
	change := func(what, to string) {
		changes = append(changes, Change{Name: c.V.Name, What: what, To: to})
	}
	if it.Surface != c.Surface {
		change("place", string(c.Surface))
	}
	if !slices.Equal(it.Eases, c.Eases) || it.EasedSide != c.EasedSide {
		it.Why = strings.Replace(it.Why, plan.EaseSentence(c.V, it.Doing()), "", 1)
		it.Why += plan.EaseSentence(c.V, c.Doing())
		if e := c.V.Ease(c.Doing().Ease); e != nil {
			change("ease", e.Name)
		}
	}
	if dropLayers(r, it) {
		change("layers", "fewer layers")
	}
	it.Surface, it.Eases, it.EasedSide, it.Revision = c.Surface, c.Eases, c.EasedSide, c.V.Revision
	it.Fit, it.Continues, it.New = c.Fit, c.Continuous, !c.Seen
	before := it.Dose.Seconds(r.Client.BreathRate, it.Sides())
	if it.Locked || it.ByHand {
		fitLocked(r, it, &c)
	} else {
		if c.V.SideMode == trade.Each && it.Side != c.Side {
			it.Side = c.Side
			change("side", sideWords(c.Side))
		}
		fitNormal(r, it, &c)
	}
	if it.Dose.Seconds(r.Client.BreathRate, it.Sides()) != before {
		change("dose", it.Dose.Words())
		if it.Locked || it.ByHand {
			it.Why += " As far as the log and the limits allow now."
		}
	}
	return changes, nil
}

// fitLocked leaves a wrong side and shortens what is too much.
func fitLocked(r *facts.Request, it *plan.Item, c *facts.Candidate) {
	if appraise.WrongSide(r, it) {
		it.Side = c.Side
		it.Dose = r.FitSides(c, it.Dose)
	}
	c.Side = it.Side
	if d := r.Limited(c, it.Dose); d.Seconds(r.Client.BreathRate, it.Sides()) != it.Dose.Seconds(r.Client.BreathRate,
		it.Sides()) {
		it.Dose = d
	}
}

// fitNormal takes the normal dose when the log moved the item, or when its own dose is a step too
// far, holds too long, or gives one side more that is not worked alone any more.
func fitNormal(r *facts.Request, it *plan.Item, c *facts.Candidate) {
	normal := &c.Doses[c.Normal()]
	limit, _ := r.Screener.HoldCap(c.V)
	follows := c.Decision != nil && c.Decision.Decision != trade.Stay
	long := limit > 0 && it.Dose.HoldSeconds(r.Client.BreathRate) > limit
	if follows || it.Step > normal.Step || long || it.Side != trade.Each && it.Dose.Extra != nil {
		it.Dose, it.Step, it.Length = normal.Dose, normal.Step, normal.Length
	}
}

// Change is one thing that was changed of an item.
type Change struct {
	Name string // of the exercise
	What string // place, ease, layers, side or dose
	To   string // what it is now, in words
}

// Words is a change in a few words for the instructor.
func (c Change) Words() string {
	if c.What == "place" {
		return c.Name + " on the " + c.To
	}
	return c.Name + ": " + c.To
}

func words(changes []Change) (said []string) {
	for _, c := range changes {
		said = append(said, c.Words())
	}
	return said
}

func sideWords(side trade.Side) string {
	return map[trade.Side]string{
		trade.Each: "both sides", trade.Alternate: "sides in turn", trade.Left: "left only", trade.Right: "right only",
	}[side]
}
