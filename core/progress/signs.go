package progress

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/trade"
)

// Sign is where a symptom or a warning came in an exercise: in which set of its side, at which repetition of the set,
// at which second of the hold, each counted from one and 0 where it was in none. All 0 is before it began; a sign in
// the rest before a set, or in the extra after the last one, is one of that set.
type Sign struct {
	Warning bool // odd, not yet pain
	Set     int
	Rep     int
	HoldS   float64
}

// Cap is what a sign leaves: the sets, the repetitions of a set or the seconds of a hold that are still clean, 0 for
// what is not bound. Nothing tells that no part of it was clean.
type Cap struct {
	Sets    int
	Reps    int
	HoldS   int
	Nothing bool
}

// LeastHold is the seconds under which a hold is none: what is clean for less is not done (product default).
const LeastHold = 3

// Leaves is what a sign does to an exercise, in the sets still to come today and next time alike: it binds the measure
// in which it came, and that alone. In a later set what came before it were whole clean sets; in the first set whole
// clean repetitions; in the first repetition the seconds of the hold. A symptom binds below it, a warning there, but
// a later set with a warning in it was not clean either. Single tells that a set is one hold.
// (Common practice: the last clean value.)
func (s Sign) Leaves(single bool) Cap {
	below := 1
	if s.Warning {
		below = 0
	}
	switch held := int(s.HoldS) - below; {
	case s.Set > 1:
		return Cap{Sets: s.Set - 1}
	case s.Rep > 1:
		return Cap{Reps: s.Rep - below}
	case s.before():
		return Cap{}
	case s.Warning && (single || s.HoldS > 0):
		return Cap{HoldS: max(LeastHold, held)}
	case s.Warning:
		return Cap{Reps: 1}
	case held >= LeastHold:
		return Cap{HoldS: held}
	}
	return Cap{Nothing: true}
}

// before tells that a sign came before anything of it was done.
func (s Sign) before() bool { return s.Set == 0 && s.Rep == 0 && s.HoldS == 0 }

// Words say when a sign came: "a symptom at repetition 8".
func (s Sign) Words() string { return strings.TrimSpace(s.what() + " " + s.where()) }

func (s Sign) what() string {
	if s.Warning {
		return "a warning"
	}
	return "a symptom"
}

func (s Sign) where() string {
	switch {
	case s.Set > 1:
		return fmt.Sprintf("in set %d", s.Set)
	case s.HoldS > 0 && s.Rep <= 1:
		return fmt.Sprintf("at %d s", int(s.HoldS))
	case s.Rep > 0:
		return fmt.Sprintf("at repetition %d", s.Rep)
	case s.before():
		return "before it began"
	}
	return ""
}

// With is what two caps leave together, the stricter in each measure.
func (c Cap) With(o Cap) Cap {
	least := func(a, b int) int {
		if a == 0 || b > 0 && b < a {
			return b
		}
		return a
	}
	return Cap{least(c.Sets, o.Sets), least(c.Reps, o.Reps), least(c.HoldS, o.HoldS), c.Nothing || o.Nothing}
}

// Even is a cap of work in which sides or directions change: the same number of each.
func (c Cap) Even() Cap {
	if c.Reps > 1 {
		c.Reps -= c.Reps % 2
	}
	return c
}

// Binds tells that a cap says anything.
func (c Cap) Binds() bool { return c != Cap{} }

// Of is a dose within a cap.
func (c Cap) Of(d dose.Dose, breaths float64) dose.Dose {
	if c.Sets > 0 {
		d = d.CapSets(c.Sets)
	}
	if c.Reps > 0 {
		d = d.CapReps(c.Reps)
	}
	if c.HoldS > 0 {
		d, _ = d.CapHold(c.HoldS, breaths)
	}
	return d
}

// Words say a cap: "at most 2 sets".
func (c Cap) Words() string {
	switch {
	case c.Nothing:
		return "nothing of it was clean"
	case c.Sets == 1:
		return "at most 1 set"
	case c.Sets > 0:
		return fmt.Sprintf("at most %d sets", c.Sets)
	case c.Reps > 0:
		return fmt.Sprintf("at most %d in a set", c.Reps)
	case c.HoldS > 0:
		return fmt.Sprintf("at most %d s in a hold", c.HoldS)
	}
	return ""
}

// Signs are where a symptom and a warning came in an item, the symptom first.
func (it *Item) Signs() (out []Sign) {
	whole := func(n *int) int {
		if n == nil {
			return 0
		}
		return *n
	}
	second := func(s *float64) float64 {
		if s == nil {
			return 0
		}
		return *s
	}
	if it.SymptomRep != nil || it.SymptomS != nil || it.SymptomSet != nil {
		out = append(out, Sign{Set: whole(it.SymptomSet), Rep: whole(it.SymptomRep), HoldS: second(it.SymptomS)})
	}
	if it.WarningRep != nil || it.WarningS != nil || it.WarningSet != nil {
		out = append(out, Sign{Warning: true, Set: whole(it.WarningSet), Rep: whole(it.WarningRep), HoldS: second(it.WarningS)})
	}
	return out
}

// Mark takes a sign into an item. Of two of a kind what stands is the earlier set, repetition and second of both: what
// they leave together is never more than each alone.
func (it *Item) Mark(s Sign) {
	rep, hold, set := &it.SymptomRep, &it.SymptomS, &it.SymptomSet
	if s.Warning {
		rep, hold, set = &it.WarningRep, &it.WarningS, &it.WarningSet
	}
	for _, was := range it.Signs() {
		switch {
		case was.Warning != s.Warning || was.before():
		case s.before():
			s = was
		default:
			s.Set = min(max(1, s.Set), max(1, was.Set))
			switch a, b := max(1, s.Rep), max(1, was.Rep); {
			case b < a:
				s.Rep, s.HoldS = b, was.HoldS
			case b == a:
				s.HoldS = min(s.HoldS, was.HoldS)
			}
		}
	}
	*rep, *hold, *set = nil, nil, nil
	if s.Set > 1 {
		*set = &s.Set
	}
	switch {
	case s.before():
		*hold = new(float64)
	case s.HoldS > 0 && s.Rep <= 1:
		*hold = &s.HoldS
	case s.Rep > 0 || s.Set <= 1:
		first := max(1, s.Rep)
		*rep = &first
	}
}

// single tells that a set of a target is one hold.
func (a Amount) single() bool { return a.Reps <= 1 && a.HoldS+a.HoldBreaths > 0 }

// leaves is what the signs of an item leave, in the measures of the log. Nothing of it was clean where a sign came
// before it began and it was not done.
func (it *Item) leaves() (c Cap) {
	for _, s := range it.Signs() {
		c = c.With(s.Leaves(it.Target.single()))
		if s.before() && it.amount().doneOf(it.Target) == 0 {
			c.Nothing = true
		}
	}
	return c
}

// lastClean is what the signs of a turn leave of a version: both sides, the stricter. It is in the measures of its
// dose ladder, in which sides in turn are counted together. The rule is empty where no sign binds anything.
func (in *Input) lastClean(v *catalogue.Version, done turn) (c Cap, rule, why string) {
	for i := range done.items {
		it := &done.items[i]
		own := it.leaves()
		if !own.Binds() {
			continue
		}
		own.Reps = Amount{Reps: own.Reps}.onLadder(v, it.Side).Reps
		c = c.With(own)
		first := it.Signs()[0]
		for _, s := range it.Signs() {
			if l := s.Leaves(it.Target.single()); l.Binds() && l == it.leaves() {
				first = s
			}
		}
		what := strings.TrimPrefix(first.what(), "a ")
		measure := "second"
		switch {
		case own.Sets > 0:
			measure = "set"
		case own.Reps > 0:
			measure = "repetition"
		}
		rule = fmt.Sprintf("cap: below the %s of the %s", measure, what)
		if first.Warning && own.Sets == 0 {
			rule = fmt.Sprintf("cap: at the %s of the warning", measure)
		}
		if own.Nothing {
			rule = "cap: nothing of it was clean"
		}
		why = strings.TrimSpace(first.what()+" came "+first.where()) + "; " + it.leaves().Words()
	}
	return c, rule, why
}

// asDone are the measures of a turn of a version as it was done, in those of its dose ladder, on the side that did
// least; of what a cap binds as it was asked, and where it binds the sets as the clean ones were. It is false where
// nothing was done.
func asDone(v *catalogue.Version, done turn, c Cap) (a Amount, ok bool) {
	for i := range done.items {
		it := &done.items[i]
		if it.Version != v.Slug || it.amount().doneOf(it.Target) == 0 {
			continue
		}
		own, sets := it.Target, it.SetsDone
		own.Sets = min(max(1, it.Done.Sets), max(1, own.Sets))
		if len(sets) == 0 {
			sets = []Amount{it.Done}
		} else if c.Sets > 0 {
			sets = sets[:min(c.Sets, len(sets))]
		}
		for _, s := range sets {
			if s.HoldS > 0 && c.HoldS == 0 {
				own.HoldS = min(own.HoldS, s.HoldS)
			}
			if s.HoldBreaths > 0 && c.HoldS == 0 {
				own.HoldBreaths = min(own.HoldBreaths, s.HoldBreaths)
			}
		}
		if own = own.onLadder(v, it.Side); ok {
			own = own.least(a)
		}
		a, ok = own, true
	}
	return a, ok
}

// onLadder is an amount of a side in the measures of a version's dose ladder, in which sides in turn are counted
// together.
func (a Amount) onLadder(v *catalogue.Version, side trade.Side) Amount {
	if v.SideMode == trade.Alternate && side.One() {
		a.Reps *= 2
	}
	return a
}

// amountOf are the measures of a dose.
func amountOf(d *dose.Dose) Amount {
	return Amount{Sets: d.SetCount(), Reps: d.Reps, HoldS: d.HoldS + d.HoldCounts, HoldBreaths: d.HoldBreaths}
}

// fixed tells that the measures of a dose are not the client's to have otherwise: falling sets, a window that is
// counted, and what ends with what is felt.
func fixed(d *dose.Dose) bool { return len(d.Pattern) > 0 || d.WindowS > 0 || d.ByFeel }

// restBetween is the rest between sets where a ladder has none, seconds (product default).
const restBetween = 30

// put is a dose with other measures; what is held in the unit of the ladder stays in it.
func put(d dose.Dose, a Amount) dose.Dose {
	if fixed(&d) || a.Reps == 0 {
		return d
	}
	if d.Sets = max(1, a.Sets); d.Sets > 1 && d.RestS == 0 {
		d.RestS = restBetween
	}
	if d.Reps != a.Reps {
		d.Reps, d.RepsFrom = a.Reps, 0
	}
	if a.HoldS == d.HoldS+d.HoldCounts && a.HoldBreaths == d.HoldBreaths {
		return d
	}
	counts := d.HoldCounts > 0
	d.HoldFrom, d.HoldBreaths, d.HoldS, d.HoldCounts = 0, a.HoldBreaths, a.HoldS, 0
	if a.HoldBreaths == 0 {
		d.Rate = 0
	}
	if counts {
		d.HoldS, d.HoldCounts = 0, a.HoldS
	}
	return d
}

func (a Amount) least(b Amount) Amount {
	return Amount{min(a.Sets, b.Sets), min(a.Reps, b.Reps), min(a.HoldS, b.HoldS), min(a.HoldBreaths, b.HoldBreaths)}
}

func (a Amount) most(b Amount) Amount {
	return Amount{max(a.Sets, b.Sets), max(a.Reps, b.Reps), max(a.HoldS, b.HoldS), max(a.HoldBreaths, b.HoldBreaths)}
}

// atLeast tells that an amount is no less than another in any measure.
func (a Amount) atLeast(b Amount) bool { return a.most(b) == a }

// SecondOf is a second of a hold as it is recorded, milliseconds at most.
func SecondOf(s float64) float64 { return math.Round(1000*s) / 1000 }
