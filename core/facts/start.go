package facts

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/progress"
	"restbend/core/trade"
)

// Where a client starts (domain/07). Without a log it follows from how much the client moves,
// one lower when acute, sore or afraid; the log raises it.

// startAt is the start effort by activity, and openTo the effort to which the activity opens gates.
var (
	startAt = map[string]int{"inactive": 3, "": 5, "light": 5, "regular": 6, "trained": 7}
	openTo  = map[string]int{"regular": 6, "trained": 7}
)

const (
	leastStart = 3 // the start effort is never lower
	soreFrom   = 4 // pain from which it is one lower
	askedAbove = 2 // what a kind or the composition asks for may be so far above (shared ruling 35)
)

// startEffort bounds what is chosen freely.
func (r *Request) startEffort() int {
	n := startAt[r.Client.Activity]
	r.eachClean(func(it *progress.Item) {
		if v, ok := r.Catalogue.Version(it.Version); ok && !it.Trial {
			n = max(n, v.Effort)
		}
	})
	if r.Client.Afraid || r.Acute() || r.Client.Pain != nil && r.Client.Pain.Now >= soreFrom {
		n = max(leastStart, n-1)
	}
	return n
}

// Opened tells whether a rung is a place to start for this client or its gate is open: by the log,
// by what was seen elsewhere, by how much the client moves, or because the client works down on
// the mat and the gate only leads there.
func (r *Request) Opened(v *catalogue.Version) bool {
	g := v.Gate
	if v.Start || g == nil || r.working(v) {
		return true
	}
	if most := openTo[r.Client.Activity]; v.Effort <= most {
		return true
	}
	if g.School != "" && g.School == r.Client.Schools.SidePlank {
		return true
	}
	if g.Effort > 0 && !r.cleanBefore(v, g.Effort) {
		return false
	}
	reached := 0
	for i := range g.Steps {
		s := &g.Steps[i]
		w, ok := r.Catalogue.Version(s.Version)
		if !ok {
			continue
		}
		before := len(g.Steps) == 1 && s.HoldS == 0 && s.Reps == 0
		_, may := r.Permitted(w)
		switch {
		case w.InsteadOf == "floor" && r.Place() != kinds.PlaceUpright, // binds only who stays upright
			// who cannot do the rung before must be able to begin
			before && !may && w.Branch == v.Branch && w.Family == v.Family,
			s.HoldS == 0 && s.Sets == 0 && r.levelAt(w), r.reached(s):
			reached++
		}
	}
	if g.Any {
		return reached > 0
	}
	return reached == len(g.Steps)
}

// MayBegin tells whether a version may be in a session: opened, decided by the log, or begun because
// nothing easier of its branch can be done.
func (r *Request) MayBegin(v *catalogue.Version) bool {
	return r.Opened(v) || slices.ContainsFunc(r.Candidates(), func(c Candidate) bool { return c.V == v }) ||
		r.Times(v.Slug) > 0
}

// levelAt tells whether the client was seen elsewhere at a version or above it. That says nothing of how
// long it was held: what must be held opens by the log alone.
func (r *Request) levelAt(w *catalogue.Version) bool {
	l, ok := r.Catalogue.Version(r.Client.Levels[w.Family])
	return ok && (l.Slug == w.Slug || l.Branch == w.Branch && l.Rung >= w.Rung || l.Effort > w.Effort)
}

// eachClean calls do for every item of the log that was done cleanly.
func (r *Request) eachClean(do func(it *progress.Item)) {
	if r.Log == nil {
		return
	}
	for i := range r.Log.Sessions {
		if len(progress.Signs(r.Log.Sessions[i])) > 0 {
			continue // a session with a warning sign is never clean
		}
		for k := range r.Log.Sessions[i].Items {
			it := &r.Log.Sessions[i].Items[k]
			if len(it.Signs()) == 0 && it.FormLostS == nil && it.Begun() {
				do(it)
			}
		}
	}
}

// reached tells whether a step of a gate was done cleanly and held as long as it asks.
func (r *Request) reached(s *catalogue.GateStep) (ok bool) {
	r.eachClean(func(it *progress.Item) {
		if it.Version != s.Version {
			return
		}
		held := s.HoldS == 0 || it.Done.HoldS >= s.HoldS ||
			it.Done.HoldS >= 10 && it.Done.Reps*max(1, it.Done.Sets) >= sum(s.Pattern)
		ok = ok || held && (s.Reps == 0 || it.Done.Reps >= s.Reps) && (s.Sets == 0 || it.Done.Sets >= s.Sets)
	})
	return ok
}

func sum(list []int) (n int) {
	for _, x := range list {
		n += x
	}
	return n
}

// cleanBefore tells whether work at an effort and an easier exercise of the same main aim went cleanly.
func (r *Request) cleanBefore(v *catalogue.Version, effort int) bool {
	hard, easier := false, false
	r.eachClean(func(it *progress.Item) {
		w, ok := r.Catalogue.Version(it.Version)
		if !ok {
			return
		}
		hard = hard || w.Effort >= effort
		easier = easier || w.Effort < v.Effort && catalogue.Has(w.MainAims, v.MainAims[0])
	})
	return hard && easier
}

// shownFirst tells whether what opens a rung is shown in the same lesson before it: easier rungs of its own
// family that need not have been held for long.
func (r *Request) shownFirst(v *catalogue.Version) bool {
	return v.Gate == nil || v.Gate.Effort == 0 && !slices.ContainsFunc(v.Gate.Steps, func(s catalogue.GateStep) bool {
		w, ok := r.Catalogue.Version(s.Version)
		return !ok || w.Family != v.Family || s.HoldS > 0 || s.Sets > 0 || w.Effort >= v.Effort && w.Rung >= v.Rung
	})
}

// Times is in how many sessions a version was done.
func (r *Request) Times(slug string) int {
	m := r.known()
	if m.done == nil {
		m.done = map[string]int{}
		if r.Log != nil {
			for i := range r.Log.Sessions {
				in := map[string]bool{}
				for k := range r.Log.Sessions[i].Items {
					if it := &r.Log.Sessions[i].Items[k]; it.Begun() && !in[it.Version] {
						in[it.Version] = true
						m.done[it.Version]++
					}
				}
			}
		}
	}
	return m.done[slug]
}

// startRung is the rung of a branch that a client without a log in it begins with: the easiest open
// one, for who exercises the hardest within the start effort; one that exists for people who cannot
// only where nothing else can be begun. Nil when nothing of the branch is open.
func (r *Request) startRung(rungs []*catalogue.Version) (best *catalogue.Version) {
	start := r.startEffort()
	hardest := openTo[r.Client.Activity] > 0
	down := r.Place() == kinds.PlaceMat || r.Place() == kinds.PlaceMixed
	better := func(a, b *catalogue.Version) bool { // a than b
		if down && (a.InsteadOf == "floor") != (b.InsteadOf == "floor") {
			real, other := a, b
			if a.InsteadOf == "floor" {
				real, other = b, a
			}
			if real.Effort <= start+askedAbove {
				return real == a
			}
			return other == a
		}
		if within := a.Effort <= start; hardest && (within != (b.Effort <= start) || within) {
			return within && (b.Effort > start || a.Rung > b.Rung)
		}
		return a.Rung < b.Rung
	}
	for _, v := range rungs {
		if r.Opened(v) && (best == nil || better(v, best)) {
			best = v
		}
	}
	return best
}

// withinStart leaves of the candidates what may be chosen freely, and beyond it the easiest of what a
// kind or the composition asks for and nothing easier serves: an aim is never closed.
func (r *Request) withinStart(cs []Candidate) (out []Candidate) {
	start := r.startEffort()
	free := func(c *Candidate) bool {
		return c.V.Effort <= start || c.Decision != nil || r.working(c.V) || r.FixedPart(c.V.Slug) ||
			c.V.Position == trade.Standing && c.V.InsteadOf == "free"
	}
	var above []*Candidate
	for i := range cs {
		if free(&cs[i]) {
			out = append(out, cs[i])
		} else if cs[i].V.Effort <= start+askedAbove {
			above = append(above, &cs[i])
		}
	}
	for _, ask := range r.asked() {
		if slices.ContainsFunc(out, func(c Candidate) bool { return ask(c.V) }) {
			continue
		}
		var easiest *Candidate
		for _, c := range above {
			if ask(c.V) && (easiest == nil || c.V.Effort < easiest.V.Effort) {
				easiest = c
			}
		}
		if easiest != nil {
			out = append(out, *easiest)
		}
	}
	return out
}

// asked is what a session must be able to hold: what its kind needs, the front, the side and the
// back, and every aim.
func (r *Request) asked() (out []func(*catalogue.Version) bool) {
	for _, n := range r.Needs() {
		out = append(out, n.Takes)
	}
	if r.ThreeSides() {
		for _, s := range Sides {
			out = append(out, s.Takes)
		}
	}
	wanted := r.aims()
	for _, a := range catalogue.Aims {
		if wanted[a] > 0 {
			out = append(out, func(v *catalogue.Version) bool { return catalogue.Has(v.MainAims, a) })
		}
	}
	return out
}
