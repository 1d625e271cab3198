package progress

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
)

// Never less than was done (domain/10, shared ruling 60): where an exercise goes up or stays its next dose is at least
// the clean done one in sets, repetitions, hold and breaths. What was typed by hand and done becomes the client's own
// step, wherever the ladder of the exercise has its steps.

// own is the dose of a version after a turn: as it was done where it was clean, else what was asked for, as far as that
// was ever done; else the step of the ladder.
func (in *Input) own(v *catalogue.Version, step int, turns []turn, last int) dose.Dose {
	d := v.Dose(in.School, step)
	done := turns[last]
	asked, ok := asked(v, done)
	if !ok || !comparable(&d, asked) {
		return d
	}
	ladder, asked := amountOf(&d), asked.counted(&d)
	clean, ok := clean(v, done)
	clean = clean.counted(&d)
	switch {
	case ok && (worse(&done.session) || oldPainSettled(&done.session) > settledH): // no floor: and not more either
		return put(d, clean.least(ladder))
	case ok:
		return put(d, clean)
	case asked == ladder:
		return d
	}
	for i := last - 1; i >= 0; i-- {
		if before, ok := cleanly(v, turns[i]); ok && comparable(&d, before) {
			if before = before.counted(&d); before.atLeast(asked) {
				return put(d, asked)
			}
			return put(d, before)
		}
	}
	if !slices.ContainsFunc(done.items, func(it Item) bool { return it.Version == v.Slug && !it.Whole() }) {
		return put(d, asked) // all of it was done: the same again
	}
	return put(d, asked.least(ladder))
}

// comparable tells that an amount can be held against a dose of the ladder, measure by measure: both are held in the
// same unit, and nobody counts falling sets or a window.
func comparable(d *dose.Dose, a Amount) bool {
	l := amountOf(d)
	return !fixed(d) && a.Reps > 0 && (a.HoldBreaths > 0 && l.HoldS == 0 || a.HoldS > 0 && l.HoldBreaths == 0 ||
		a.HoldS+a.HoldBreaths == 0 && l.HoldBreaths == 0)
}

// counted is an amount with the counts of a hold that earlier records do not say.
func (a Amount) counted(d *dose.Dose) Amount {
	if d.HoldCounts > 0 && a.HoldS+a.HoldBreaths == 0 {
		a.HoldS = d.HoldCounts
	}
	return a
}

// asked is what was asked of a version in a turn, on the side of which less was asked; false where it is not in it, or
// was done in sets that are not alike.
func asked(v *catalogue.Version, t turn) (a Amount, ok bool) {
	return leastOf(v, t, func(it *Item) (Amount, bool) { return it.Target, true })
}

// clean is what was done of a version in a turn when all of it was clean, on the side that did less.
func clean(v *catalogue.Version, t turn) (a Amount, ok bool) {
	return leastOf(v, t, func(it *Item) (Amount, bool) {
		done := it.Done
		done.Sets = min(max(1, done.Sets), max(mostSets, it.Target.Sets))
		return done, it.clean(&t.session)
	})
}

// cleanly is clean for a session that may be the base of the next.
func cleanly(v *catalogue.Version, t turn) (a Amount, ok bool) {
	if t.session.Doses != "" {
		return a, false
	}
	return clean(v, t)
}

// mostSets is how many sets of an exercise a session has (domain/10).
const mostSets = 3

// clean tells that an item was done to its target with form, seen by somebody, and without a sign or a fault.
func (it *Item) clean(s *Session) bool {
	_, why := lagging(turn{items: []Item{*it}})
	mild := *it // a pain that rose within the limit is no sign of this kind
	mild.Pain = nil
	mild.Felt = slices.DeleteFunc(slices.Clone(it.Felt), func(w string) bool { return w == "pain" })
	return why == "" && !mild.signed(s) && len(it.Faults()) == 0
}

// leastOf is the least of an amount of each side of a version in a turn, in the measures of its ladder.
func leastOf(v *catalogue.Version, t turn, of func(*Item) (Amount, bool)) (a Amount, ok bool) {
	if t.session.Doses == dose.Trio {
		return a, false
	}
	for i := range t.items {
		it := &t.items[i]
		if it.Version != v.Slug {
			continue
		}
		one, fine := of(it)
		if !fine || it.Target.Sets <= 1 && len(it.SetsDone) > 1 { // falling sets have no measure of their own
			return a, false
		}
		if one = one.onLadder(v, it.Side); ok {
			one = one.least(a)
		}
		a, ok = one, true
	}
	return a, ok
}

// above is the next dose of a version above one, with its step; false at the top of its doses. On the ladder it is the
// next step that is less in no measure; off it one measure grows towards the ladder, the hold first, then the
// repetitions, then one set, never to more than half as much again as the work of the ladder's top (product default).
func (in *Input) above(v *catalogue.Version, step int, of dose.Dose) (d dose.Dose, at int, ok bool) {
	steps, _ := v.Steps(in.School)
	own := amountOf(&of)
	onLadder := own == amountOf(&steps[step])
	top := 0
	for k := range steps {
		a := amountOf(&steps[k])
		top = max(top, a.volume())
	}
	for k := step + 1; k < len(steps); k++ {
		next := v.Dose(in.School, k)
		a := amountOf(&next)
		switch {
		case fixed(&next), fixed(&of), !comparable(&next, own):
			if next.Volume(in.Breaths) > of.Volume(in.Breaths) {
				return next, k, true
			}
			continue
		case onLadder && a.atLeast(own) && a != own:
			return next, k, true
		case onLadder || own.atLeast(a):
			continue
		}
		grown := own
		switch {
		case a.HoldS > own.HoldS:
			grown.HoldS = a.HoldS
		case a.HoldBreaths > own.HoldBreaths:
			grown.HoldBreaths = a.HoldBreaths
		case a.Reps > own.Reps:
			grown.Reps = a.Reps
		default:
			grown.Sets++
		}
		if 2*grown.volume() <= 3*top {
			return put(of, grown), step, true
		}
	}
	return of, step, false
}

// Floor is the least that the next dose of a version may be where it goes up or stays: what was done of it the last
// time that it counted, when that was clean; false where nothing binds. Reps of sides in turn are those of the ladder.
func (l *Log) Floor(v *catalogue.Version) (a Amount, ok bool) {
	var last *Session
	var items []Item
	for i := range l.Sessions {
		s := &l.Sessions[i]
		if last != nil && s.Date.Before(last.Date) || s.Doses != "" {
			continue
		}
		var own []Item
		for k := range s.Items {
			if it := &s.Items[k]; it.Version == v.Slug && it.Begun() && it.counts(s) {
				own = append(own, *it)
			}
		}
		if own != nil {
			last, items = s, own
		}
	}
	if last == nil || worse(last) || oldPainSettled(last) > settledH {
		return a, false
	}
	return clean(v, turn{session: *last, items: items})
}

// Less tells whether a dose of the ladder of a version is less than an amount in any measure that they have in common.
func (a Amount) Less(d dose.Dose) bool {
	return comparable(&d, a) && !amountOf(&d).atLeast(a)
}
