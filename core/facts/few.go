package facts

import (
	"cmp"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/core/trade"
)

// fewOf leaves as many of the candidates that have a capped quantity as a session may hold: what
// is locked, then what serves the client best.
func (r *Request) fewOf(cs []Candidate) []Candidate {
	for _, limit := range r.Screener.ItemCaps() {
		var kept []string
		for _, it := range r.Ask.Locked {
			if v, ok := r.Catalogue.Version(it.Version); ok && v.Peaks(it.Doing())[limit.Of].Value > 0 {
				kept = append(kept, r.counted(v))
			}
		}
		having := slices.DeleteFunc(
			slices.Clone(cs),
			func(c Candidate) bool { return c.V.Peaks(c.Doing())[limit.Of].Value == 0 },
		)
		slices.SortStableFunc(having, func(a, b Candidate) int {
			return cmp.Or(cmp.Compare(b.Fit, a.Fit), a.V.Effort-b.V.Effort)
		})
		for i := range having {
			if key := r.counted(having[i].V); len(kept) < limit.Items && !slices.Contains(kept, key) {
				kept = append(kept, key)
			}
		}
		cs = slices.DeleteFunc(cs, func(c Candidate) bool {
			return c.V.Peaks(c.Doing())[limit.Of].Value > 0 && !slices.Contains(kept, r.counted(c.V))
		})
	}
	return cs
}

// counted is what counts as one: a branch, but in a lesson about its family each version.
func (r *Request) counted(v *catalogue.Version) string {
	if v.Family == r.Skill() {
		return v.Slug
	}
	return BranchKey(v)
}

// Transfers is the client's number of rises from the floor; with help one, else three
// (product defaults).
func (r *Request) Transfers() int {
	rises := 3
	switch {
	case r.Client.FloorMax != nil:
		rises = *r.Client.FloorMax
	case r.Helped():
		rises = 1
	}
	if most, ok := r.Screener.RisesCap(); ok {
		rises = min(rises, most)
	}
	return rises
}

// Run finds the longest unbroken stretch of items that are done in some way: its last item and
// seconds.
func (r *Request) Run(p *plan.Plan, how func(*catalogue.Version) bool) (last, seconds int) {
	last = -1
	from := -1
	for i := range p.Items {
		it := &p.Items[i]
		v, ok := r.Catalogue.Version(it.Version)
		if !ok || !how(v) {
			from = -1
			continue
		}
		if from < 0 {
			from = it.Start
		}
		if it.End-from > seconds {
			last, seconds = i, it.End-from
		}
	}
	return last, seconds
}

// Above tells whether a version is a rung above what progress decided.
func (r *Request) Above(v *catalogue.Version) bool {
	if v.Set {
		return false
	}
	for i := range r.Decisions {
		d := &r.Decisions[i]
		if w, ok := r.Catalogue.Version(d.ToVersion); ok && !w.Set && BranchKey(w) == BranchKey(v) && v.Rung > w.Rung &&
			d.Instead == "" {
			return d.Decision != trade.Stay || v.Rung > w.Rung+1 // an instructor may try the next rung once
		}
	}
	return false
}
