package plan

import (
	"slices"
	"strings"

	"restbend/core/trade"
)

// Fit brings an item within what holds now: where it is done, with which ease, which side it works
// and how much of it. What is locked, or was changed by hand, keeps its side and dose as far as they are allowed; anything
// else takes the side and the normal dose that hold now when its own do not. The changes are what
// was done; the error says why the item may not be in this session at all.
func (r *Request) Fit(it *Item) (changes []Change, err error) {
	c, err := r.candidate(it.Version)
	if err != nil {
		return nil, err
	}
	if len(c.doses) == 0 {
		return nil, denied("with", "no dose of %s is allowed now", c.v.Name)
	}
	change := func(what, to string) {
		changes = append(changes, Change{Name: c.v.Name, What: what, To: to})
	}
	if it.Surface != c.surface {
		change("place", string(c.surface))
	}
	if !slices.Equal(it.Eases, c.eases) {
		for _, ease := range it.Eases {
			it.Why = strings.Replace(it.Why, easeSentence(c.v, ease), "", 1)
		}
		for _, ease := range c.eases {
			it.Why += easeSentence(c.v, ease)
			change("ease", c.v.Ease(ease).Name)
		}
	}
	if r.dropLayers(it) {
		change("layers", "fewer layers")
	}
	it.Surface, it.Eases, it.Revision = c.surface, c.eases, c.v.Revision
	it.Fit, it.Continues, it.New = c.fit, c.continuous, !c.seen
	before := it.Dose.Seconds(r.Client.BreathRate, it.Sides())
	if it.Locked || it.ByHand {
		r.fitLocked(it, &c)
	} else {
		if c.v.SideMode == trade.Each && it.Side != c.side {
			it.Side = c.side
			change("side", sideWords(c.side))
		}
		r.fitNormal(it, &c)
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
func (r *Request) fitLocked(it *Item, c *candidate) {
	if r.wrongSide(it) {
		it.Side = c.side
		it.Dose = r.fitSides(c, it.Dose)
	}
	c.side = it.Side
	if d := r.limited(c, it.Dose); d.Seconds(r.Client.BreathRate, it.Sides()) != it.Dose.Seconds(r.Client.BreathRate,
		it.Sides()) {
		it.Dose = d
	}
}

// fitNormal takes the normal dose when the log moved the item, or when its own dose is a step too
// far, holds too long, or gives one side more that is not worked alone any more.
func (r *Request) fitNormal(it *Item, c *candidate) {
	normal := &c.doses[c.normal()]
	limit, _ := r.Screener.HoldCap(c.v)
	follows := c.decision != nil && c.decision.Decision != trade.Stay
	long := limit > 0 && it.Dose.HoldSeconds(r.Client.BreathRate) > limit
	if follows || it.Step > normal.step || long || it.Side != trade.Each && it.Dose.Extra != nil {
		it.Dose, it.Step, it.Length = normal.dose, normal.step, normal.length
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
