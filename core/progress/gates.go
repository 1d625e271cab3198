package progress

import (
	"slices"

	"restbend/core/catalogue"
)

// open tells whether the log, or what was seen elsewhere, opens the gate of a version. Gates
// that bind only a place do not bind here: who goes up one rung has just done the one before.
func (in *Input) open(v *catalogue.Version) bool {
	g := v.Gate
	if g == nil || g.Upright || g.School != "" && g.School == in.SidePlank {
		return true
	}
	if g.Effort > 0 && !in.worked(v, g.Effort) {
		return false
	}
	if len(g.Steps) == 0 {
		return true
	}
	reached := func(s catalogue.GateStep) bool { return in.reached(&s) }
	if g.Any {
		return slices.ContainsFunc(g.Steps, reached)
	}
	return !slices.ContainsFunc(g.Steps, func(s catalogue.GateStep) bool { return !reached(s) })
}

// clean are the log's items done to their target without a sign or a fault.
func (in *Input) clean(do func(*Item) bool) bool {
	for i := range in.Log.Sessions {
		s := &in.Log.Sessions[i]
		for k := range s.Items {
			it := &s.Items[k]
			_, why := lagging(turn{items: s.Items[k : k+1]})
			mild := *it // a pain below the stop limit is no sign
			if it.Pain != nil && !in.stops(s.PainStart, *it.Pain) {
				mild.Pain, mild.Felt = nil, slices.DeleteFunc(slices.Clone(it.Felt), func(f string) bool { return f == "pain" })
			}
			if why == "" && len(Signs(*s)) == 0 && it.counts(s) && !mild.signed(s) && len(it.Faults()) == 0 && do(it) {
				return true
			}
		}
	}
	return false
}

// reached tells whether a step of a gate was done clean and far enough.
func (in *Input) reached(g *catalogue.GateStep) bool {
	if v, ok := in.Catalogue.Version(g.Version); ok {
		if w, ok := in.Catalogue.Version(in.Levels[v.Family]); ok && w.Branch == v.Branch && w.Rung >= v.Rung {
			return true
		}
	}
	pyramid := 0
	for _, n := range g.Pattern {
		pyramid += n
	}
	return in.clean(func(it *Item) bool {
		a := it.amount()
		held := a.HoldS >= g.HoldS || pyramid > 0 && a.HoldS >= pyramidHold && max(1, a.Sets)*max(1, a.Reps) >= pyramid
		return it.Version == g.Version && held && (g.Reps == 0 || a.Reps >= g.Reps) && (g.Sets == 0 || a.Sets >= g.Sets)
	})
}

// pyramidHold is the seconds of one hold in falling sets.
const pyramidHold = 10

// worked tells whether work of an effort was done clean, and an easier exercise of the same
// main aim.
func (in *Input) worked(v *catalogue.Version, effort int) bool {
	hard := in.clean(func(it *Item) bool {
		w, ok := in.Catalogue.Version(it.Version)
		return ok && w.Effort >= effort
	})
	return hard && in.clean(func(it *Item) bool {
		w, ok := in.Catalogue.Version(it.Version)
		return ok && w.Effort < v.Effort &&
			slices.ContainsFunc(w.MainAims, func(a string) bool { return catalogue.Has(v.MainAims, a) })
	})
}
