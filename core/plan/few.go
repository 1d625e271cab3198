package plan

import (
	"cmp"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// fewOf leaves as many of the candidates that have a capped quantity as a session may hold: what
// is locked, then what serves the client best.
func (r *Request) fewOf(cs []candidate) []candidate {
	for _, limit := range r.Screener.ItemCaps() {
		var kept []string
		for _, it := range r.Ask.Locked {
			if v, ok := r.Catalogue.Version(it.Version); ok && v.Quantities[limit.Of].Value > 0 {
				kept = append(kept, r.counted(v))
			}
		}
		having := slices.DeleteFunc(
			slices.Clone(cs),
			func(c candidate) bool { return c.v.Quantities[limit.Of].Value == 0 },
		)
		slices.SortStableFunc(having, func(a, b candidate) int {
			return cmp.Or(cmp.Compare(b.fit, a.fit), a.v.Effort-b.v.Effort)
		})
		for i := range having {
			if key := r.counted(having[i].v); len(kept) < limit.Items && !slices.Contains(kept, key) {
				kept = append(kept, key)
			}
		}
		cs = slices.DeleteFunc(cs, func(c candidate) bool {
			return c.v.Quantities[limit.Of].Value > 0 && !slices.Contains(kept, r.counted(c.v))
		})
	}
	return cs
}

// counted is what counts as one: a branch, but in a lesson about its family each version.
func (r *Request) counted(v *catalogue.Version) string {
	if v.Family == r.skill() {
		return v.Slug
	}
	return branchKey(v)
}

// transfers is the client's number of rises from the floor; with help one, else three
// (product defaults).
func (r *Request) transfers() int {
	rises := 3
	switch {
	case r.Client.FloorMax != nil:
		rises = *r.Client.FloorMax
	case r.helped():
		rises = 1
	}
	if most, ok := r.Screener.RisesCap(); ok {
		rises = min(rises, most)
	}
	return rises
}

// run finds the longest unbroken stretch of items that are done in some way: its last item and
// seconds.
func (r *Request) run(p *Plan, how func(*catalogue.Version) bool) (last, seconds int) {
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

// above tells whether a version is a rung above what progress decided.
func (r *Request) above(v *catalogue.Version) bool {
	if v.Set {
		return false
	}
	for i := range r.Decisions {
		d := &r.Decisions[i]
		if w, ok := r.Catalogue.Version(d.ToVersion); ok && !w.Set && branchKey(w) == branchKey(v) && v.Rung > w.Rung &&
			d.Instead == "" {
			return d.Decision != trade.Stay || v.Rung > w.Rung+1 // an instructor may try the next rung once
		}
	}
	return false
}
