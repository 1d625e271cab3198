package plan

import (
	"cmp"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// What a client's conditions say of the whole session and the model does not hold: how many
// exercises may have a quantity, and how long they sit in one go.

// fewOf leaves as many of the candidates that have a capped quantity as a session may hold: what
// is locked, then what serves the client best.
func (r *Request) fewOf(cs []candidate) []candidate {
	for _, limit := range r.Screener.ItemCaps() {
		var kept []string
		for _, it := range r.ask.locked {
			if v, ok := r.Catalogue.Version(it.Version); ok && v.Quantities[limit.Of].Value > 0 {
				kept = append(kept, r.counted(v))
			}
		}
		having := slices.DeleteFunc(slices.Clone(cs), func(c candidate) bool { return c.v.Quantities[limit.Of].Value == 0 })
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

// sits tells whether a version is done sitting on a seat.
func sits(v *catalogue.Version) bool { return v.Position == trade.Sitting }

// mostTries is how often a session that sits too long is made anew without the exercises beyond
// the limit.
const mostTries = 12

// within makes a session and, while it sits too long in one go, leaves out what lies
// beyond the limit. A session made that way is not proven.
func (r *Request) within(build func(*Request) (*Plan, error)) (*Plan, error) {
	p, err := build(r)
	limit, _ := r.Screener.SittingCap()
	if err != nil || limit == 0 {
		return p, err
	}
	t := *r
	for range mostTries {
		last, longest := r.run(p, sits)
		if longest <= limit {
			return p, nil
		}
		first := last
		for first > 0 && sits(r.version(&p.Items[first-1])) {
			first--
		}
		before := len(t.ask.spared)
		for i := last; i >= first && (p.Items[i].End-p.Items[first].Start > limit || len(t.ask.spared) == before); i-- {
			if it := &p.Items[i]; !it.Locked && it.Role == trade.Main {
				t.ask.spared = append(t.ask.spared, it.Version)
			}
		}
		if len(t.ask.spared) == before {
			break
		}
		next, err := build(&t)
		if err != nil {
			break // the check names what is too long
		}
		p = next
		p.Proven = false
	}
	return p, nil
}

// version is what an item is, an empty one when it is in the catalogue no more.
func (r *Request) version(it *Item) *catalogue.Version {
	if v, ok := r.Catalogue.Version(it.Version); ok {
		return v
	}
	return &catalogue.Version{}
}

// caps checks them.
func (c *checker) caps() {
	r := c.r
	lying, why := r.Screener.SupineCap()
	c.stretch("supine-block", lying, why, onBack)
	sitting, why := r.Screener.SittingCap()
	c.stretch("sitting-block", sitting, why, sits)
	for _, limit := range r.Screener.ItemCaps() {
		at := c.where(func(_ int, it *Item) bool { return r.version(it).Quantities[limit.Of].Value > 0 })
		c.say("few-of", len(at) <= limit.Items, at, "%s; the session has %d", limit.Reason, len(at))
	}
}

// stretch checks the longest unbroken stretch of one kind.
func (c *checker) stretch(rule string, limit int, why string, how func(*catalogue.Version) bool) {
	if limit == 0 {
		return
	}
	last, longest := c.r.run(c.p, how)
	c.say(rule, longest <= limit, []int{last}, "%s; the longest stretch is %d:%02d", why, longest/60, longest%60)
}
