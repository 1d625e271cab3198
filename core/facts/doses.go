package facts

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
)

// The doses a candidate may be done in.

// options are the doses a candidate may be done in, shortest first. Normal is what
// progress decided, else the lowest step (for gentle work the second). Short there is of what was never done. Long is the top of
// the ladder for gentle work and one more set for the rest: never a longer hold, and never
// for what is capped, stepped back, lagging or hard and new.
func (r *Request) options(c *Candidate) []Option {
	school := r.DoseSchool()
	steps, _ := c.V.Steps(school)
	top := len(steps) - 1
	soft := c.V.Effort <= Gentle
	var out []Option
	add := func(length string, step int, d dose.Dose) {
		if c.Side == trade.Each && c.V.SideMode == trade.Alternate {
			d = d.PerSide()
		}
		d, _ = r.FitDose(c, d)
		if length == plan.Long && d.Seconds(r.Client.BreathRate, c.Sides()) > longestItem {
			return
		}
		for _, o := range out {
			if o.Dose.Seconds(r.Client.BreathRate, c.Sides()) == d.Seconds(r.Client.BreathRate, c.Sides()) {
				return
			}
		}
		out = append(out, r.byFeel(c, Option{length, step, d}))
	}
	ladder := func(step int) dose.Dose { return c.V.Dose(school, step) }
	normal, base := c.base(ladder, top)
	if r.Template != nil && r.Template.Desk {
		add(plan.Normal, 0, deskDose(ladder(0)))
		return out
	}
	if day, shorter, ok := r.dayOf(c, ladder); ok {
		add(plan.Short, 0, shorter)
		add(plan.Normal, len(day.Pattern)/2, day)
		return out
	}
	add(plan.Normal, normal, base)
	switch d, shorter := base.FewerSets(); {
	case c.Times > 0: // never less than was done: where minutes are short another exercise goes (shared ruling 60)
	case normal > 0 && (c.Decision == nil || c.Decision.Decision != trade.Cap):
		add(plan.Short, normal-1, ladder(normal-1))
	case shorter:
		add(plan.Short, normal, d)
	}
	switch {
	case !c.mayLengthen():
	case soft && normal < top:
		add(plan.Long, top, ladder(top))
	case soft || c.Decision != nil || c.V.Effort <= r.startEffort():
		if d, longer := base.MoreSets(); longer {
			add(plan.Long, normal, d)
		}
	}
	slices.SortStableFunc(out, func(a, b Option) int {
		return a.Dose.Seconds(r.Client.BreathRate, c.Sides()) - b.Dose.Seconds(r.Client.BreathRate, c.Sides())
	})
	return out
}

// base is the normal dose and its step: what progress decided, else the lowest one, for gentle work the second.
func (c *Candidate) base(ladder func(int) dose.Dose, top int) (step int, d dose.Dose) {
	switch {
	case c.Decision != nil:
		return c.Decision.Step, c.Decision.Dose
	case c.V.Effort <= Gentle:
		return min(1, top), ladder(min(1, top))
	}
	return 0, ladder(0)
}

// mayLengthen tells whether there may be more of it than the normal dose.
func (c *Candidate) mayLengthen() bool {
	return c.Decision == nil || c.Decision.Decision == trade.Up ||
		c.Decision.Decision == trade.Stay && c.Decision.Extra == ""
}

// deskDose is twice what a dose does once, or one breath of it.
func deskDose(d dose.Dose) dose.Dose {
	out := dose.Dose{Sets: 1, Reps: deskReps, MoveS: d.MoveS, Turn: d.Turn}
	if d.HoldBreaths > 0 {
		out.Reps, out.HoldBreaths, out.Turn = 1, 1, ""
	}
	return out
}

// The days of short holds: sets of ten-second holds that fall (domain/07: 60, 120 and 200 s of
// holding), and to how many minutes each is the day's.
var days = []dayOfHolds{{15, []int{6}}, {25, []int{6, 4, 2}}, {kinds.MaxMinutes, []int{8, 6, 4, 2}}}

type dayOfHolds struct {
	minutes int // to
	pattern []int
}

// dayOf is the dose of the day for what the kind needs, and the next smaller one for when the minutes
// do not hold it.
func (r *Request) dayOf(c *Candidate, ladder func(int) dose.Dose) (day, shorter dose.Dose, ok bool) {
	if r.Template == nil || !r.Template.Day ||
		c.Decision != nil && c.Decision.Decision != trade.Up && c.Decision.Decision != trade.Stay ||
		!slices.ContainsFunc(r.Needs(), func(n kinds.Need) bool { return n.Takes(c.V) }) {
		return day, shorter, false
	}
	of := func(pattern []int) dose.Dose {
		d := dose.Dose{Sets: 1, Reps: pattern[0], HoldS: dayHold, MoveS: ladder(0).MoveS}
		if len(pattern) > 1 {
			d.Sets, d.Pattern, d.RestS = len(pattern), pattern, dayRest
		}
		if c.V.SideMode == trade.Each || c.Side == trade.Each {
			d.By = "set"
		}
		return d
	}
	k := slices.IndexFunc(days, func(d dayOfHolds) bool { return r.Minutes <= d.minutes })
	return of(days[k].pattern), of(days[max(0, k-1)].pattern), true
}

// FitSides fills in set-up, side change and extra; doing it again changes nothing.
func (r *Request) FitSides(c *Candidate, d dose.Dose) dose.Dose {
	d.SetupS = catalogue.Explain(c.Times)
	if r.Template != nil && r.Template.Desk {
		d.SetupS = deskSetup
	}
	d.ChangeS, d.Extra = 0, nil
	if c.Side == trade.Each {
		d.ChangeS = catalogue.SideChange
		if r.Template != nil && r.Template.Desk {
			d.ChangeS = deskChange
			return d
		}
		if side := r.extraSide(c); side != "" {
			d.Extra = &dose.Extra{Side: side, Share: extraShare}
		}
	}
	return d
}

// FitDose makes a dose of the ladder this client's: sides, rests and weak hours, within
// what a symptom capped and the client's limits allow; why says what the limits changed.
// It adds, so what it returns must not go through it again.
func (r *Request) FitDose(c *Candidate, d dose.Dose) (fitted dose.Dose, why []string) {
	d = r.capped(c, r.FitSides(c, d))
	if r.Client.RestS != nil && d.RestS > 0 {
		d.RestS = *r.Client.RestS
	}
	if MayAdd(c.Decision) {
		d.Hours = passesOver(c.V, r.Client.Today.ClockWeak)
	}
	return r.Screener.CapDose(c.V, d, r.Client.BreathRate)
}

// capped keeps a dose at the last clean value when a symptom capped the work.
func (r *Request) capped(c *Candidate, d dose.Dose) dose.Dose {
	if c.Decision == nil || c.Decision.Decision != trade.Cap || c.Decision.ToVersion != c.V.Slug {
		return d
	}
	limit := c.Decision.Dose
	if c.Side == trade.Each && c.V.SideMode == trade.Alternate {
		limit = limit.PerSide()
	}
	hold := limit.HoldSeconds(r.Client.BreathRate)
	if hold == 0 && d.HoldSeconds(r.Client.BreathRate) > 0 { // another school's holds: only the moving was clean
		return r.FitSides(c, limit)
	}
	d = d.CapSets(limit.SetCount()).CapReps(slices.Max(append([]int{limit.Reps}, limit.Pattern...)))
	d, _ = d.CapHold(hold, r.Client.BreathRate)
	return d
}

// Limited keeps a dose that was fitted before within the caps of the log and of the
// client's conditions, and takes it back when the log says so.
func (r *Request) Limited(c *Candidate, d dose.Dose) dose.Dose {
	if d.Apart != nil { // each side for itself
		base, apart := d, *d.Apart
		base.Apart = nil
		for i := range apart {
			apart[i] = r.Limited(c, apart[i])
			apart[i].Extra, apart[i].Apart = nil, nil
		}
		base = r.Limited(c, base)
		base.Extra, base.Apart = nil, &apart
		return base
	}
	if normal := c.Doses[c.Normal()].Dose; c.Decision != nil && takenBack(c.Decision.Decision) &&
		d.Volume(r.Client.BreathRate) > normal.Volume(r.Client.BreathRate) {
		return normal
	}
	d = r.capped(c, d)
	if limit, _ := r.Screener.HoldCap(c.V); limit > 0 {
		d, _ = d.CapHold(limit, r.Client.BreathRate)
	}
	return d
}

// takenBack tells that a decision is for less than before.
func takenBack(d trade.Decision) bool { return d == trade.Down || d == trade.Instead }

// Prescribed is one step of a version's dose ladder as this client gets it.
type Prescribed struct {
	Dose dose.Dose
	Why  []string // what the client's limits changed
}

// Ladder is a version's whole dose ladder for a school as this client gets it: rests,
// sides, extra on one side, weak hours and limits included, with a log the longer set-up of
// what is new and the cap of a symptom too. Side is how it meets the sides.
func (r *Request) Ladder(v *catalogue.Version, school string) (steps []Prescribed, side trade.Side) {
	c := Candidate{V: v, Side: v.SideMode, Times: catalogue.Familiar}
	if r.Log != nil {
		c.Times = r.Times(v.Slug)
	}
	for i := range r.Decisions {
		if r.Decisions[i].ToVersion == v.Slug {
			c.Decision = &r.Decisions[i]
		}
	}
	if v.SideMode == trade.Alternate && r.sameSide(v) {
		c.Side = trade.Each
	}
	ladder, _ := v.Steps(school)
	for i := range ladder {
		d := v.Dose(school, i)
		if c.Side == trade.Each && v.SideMode == trade.Alternate {
			d = d.PerSide()
		}
		fitted, why := r.FitDose(&c, d)
		if capped := r.capped(&c, d); capped.Volume(r.Client.BreathRate) < d.Volume(r.Client.BreathRate) {
			why = append(why, c.Decision.Because)
		}
		steps = append(steps, Prescribed{fitted, why})
	}
	return steps, c.Side
}

// MayAdd tells whether work may be added: nothing is added to work that is capped or stepped back.
func MayAdd(d *progress.Decision) bool {
	return d == nil || d.Decision == trade.Up || d.Decision == trade.Stay
}

// Beside is the next dose of an item that is really longer, or really shorter, with its step; false where there is none.
func (r *Request) Beside(c *Candidate, it *plan.Item, by int) (d dose.Dose, step int, ok bool) {
	rate := r.Client.BreathRate
	now := it.Dose.Seconds(rate, it.Sides())
	fits := func(d dose.Dose) bool {
		s := d.Seconds(rate, it.Sides())
		if by < 0 {
			return s < now
		}
		return s > now && (it.Dose.Apart != nil || !lessIn(d, it.Dose, rate))
	}
	steps, _ := c.V.Steps(r.DoseSchool())
	for k := it.Step + by; k >= 0 && k < len(steps); k += by {
		next := c.V.Dose(r.DoseSchool(), k)
		if c.Side == trade.Each && c.V.SideMode == trade.Alternate {
			next = next.PerSide()
		}
		if d, _ = r.FitDose(c, next); fits(d) {
			return d, k, true
		}
	}
	change := it.Dose.FewerSets
	if by > 0 {
		change = it.Dose.MoreSets
	}
	next, ok := change()
	if !ok || it.Dose.Apart != nil {
		return d, 0, false
	}
	d = r.Limited(c, r.FitSides(c, next))
	return d, it.Step, fits(d)
}

// lessIn tells whether a dose has fewer sets or repetitions than another, or shorter holds.
func lessIn(d, than dose.Dose, rate float64) bool {
	most := func(d dose.Dose) int { return slices.Max(append([]int{d.Reps}, d.Pattern...)) }
	return d.SetCount() < than.SetCount() || most(d) < most(than) || d.HoldSeconds(rate) < than.HoldSeconds(rate)
}

// Keeps tells whether the log lets a version go up or stay as it is.
func (r *Request) Keeps(slug string) bool {
	return slices.ContainsFunc(r.Decisions, func(d progress.Decision) bool {
		return d.Version == slug && d.ToVersion == slug && (d.Decision == trade.Up || d.Decision == trade.Stay)
	})
}

// extraSide is the side that gets more: the lagging one from the log, else for turning
// work the side that turns towards the tighter side.
func (r *Request) extraSide(c *Candidate) trade.Side {
	if c.Decision != nil && c.Decision.Extra != "" {
		return c.Decision.Extra
	}
	tight := r.Client.Today.TightTurn
	if tight == "" || !MayAdd(c.Decision) {
		return ""
	}
	turn := map[trade.Side]int{trade.Left: 4, trade.Right: 5}[tight]
	for _, side := range trade.BothSides {
		peaks := c.V.TrunkPeaks(side)
		if peaks[turn] >= turningFrom && peaks[turn] > peaks[9-turn]+catalogue.PostureNoise {
			return side
		}
	}
	return ""
}

// passesOver are the weak hours that a pass of a clock exercise leads over.
func passesOver(v *catalogue.Version, weak []int) (hours []int) {
	for _, h := range weak {
		if slices.Contains(v.Hours, h) && !slices.Contains(hours, h) {
			hours = append(hours, h)
		}
	}
	return hours
}

// At the desk each movement is done twice, set up and changed in no time (shared ruling 49).
const (
	deskReps   = 2
	deskSetup  = 3
	deskChange = 3
)

// dayHold and dayRest are the seconds of a hold and between sets of a day of short holds (domain/07).
const (
	dayHold = 10
	dayRest = 15
)

// extraShare is the extra work of the tighter or weaker side (product default, domain/04).
const extraShare = 0.5

// turningFrom is how far the trunk turns, degrees, before an exercise counts as turning
// work.
const turningFrom = 10
