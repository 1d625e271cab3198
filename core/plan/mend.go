package plan

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/solve"
	"restbend/core/trade"
)

// Mend is one change that would make a broken rule hold.
type Mend struct {
	Say  string
	Edit Edit
}

// Mends proposes up to three changes for each broken rule of a plan, by the rule's name.
func (r *Request) Mends(p *Plan) map[string][]Mend { return r.about(p).allMends(p) }

func (r *Request) allMends(p *Plan) map[string][]Mend {
	out := map[string][]Mend{}
	for i := range p.Checks {
		if k := &p.Checks[i]; !k.OK {
			m := r.mends(p, k)
			out[k.Rule] = append(out[k.Rule], m[:min(len(m), 3)]...)
		}
	}
	return out
}

func (r *Request) mends(p *Plan, k *Check) (out []Mend) {
	name := func(i int) string { return r.nameOf(p.Items[i].Version) }
	suggest := func(e Edit, format string, a ...any) { out = append(out, Mend{fmt.Sprintf(format, a...), e}) }
	remove := func() {
		for _, i := range slices.Backward(k.Items) {
			if i >= 0 {
				suggest(Edit{Op: "remove", Item: i}, "Remove: %s", name(i))
			}
		}
	}
	if outOfOrder(*k) {
		suggest(Edit{Op: "arrange"}, "Put everything in its best order")
	}
	switch k.Rule {
	case "opener-closer":
		r.mendEnds(p, suggest)
	case "hardest-place", "floor-transfers":
		suggest(Edit{Op: "rebuild"}, "Rebuild around what is locked")
	case "families", "new-items", "supine-block", "sitting-block", "few-of":
		remove()
	case "main-count":
		for i := range p.Items {
			if p.Items[i].Role == trade.Main && p.Items[i].Effort >= catalogue.StrongFrom && !p.Items[i].Locked {
				k.Items = append(k.Items, i)
			}
		}
		remove()
		k.Items = nil
	case "effort-cap":
		for _, i := range k.Items {
			if r.easier(&p.Items[i]) {
				suggest(Edit{Op: "easier", Item: i}, "One rung easier: %s", name(i))
			}
		}
		remove()
	case "safe", "no-skipped-rung":
		for _, i := range k.Items {
			if to := r.instead(&p.Items[i]); to != nil {
				suggest(Edit{Op: "swap", Item: i, With: to.Slug}, "%s instead of %s", to.Name, name(i))
			}
		}
		remove()
	case "right-side", "both-sides":
		for _, i := range k.Items {
			if v, ok := r.Catalogue.Version(p.Items[i].Version); ok {
				if c, ok := r.permitted(v); ok {
					suggest(Edit{Op: "side", Item: i, With: string(c.side)}, "%s: %s", name(i), sideWords(c.side))
				}
			}
		}
	case "time":
		r.mendTime(p, name, suggest)
	case "six-directions", "needs":
		r.mendMissing(p, k, suggest)
	}
	return out
}

// easier tells whether the rung below an item may be done instead.
func (r *Request) easier(it *Item) bool {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok {
		return false
	}
	w := r.Catalogue.Previous(v)
	return w != nil && r.waits(w) == ""
}

func (r *Request) mendEnds(p *Plan, suggest func(Edit, string, ...any)) {
	n := len(p.Items)
	if n == 0 || p.Items[0].Role != trade.Open {
		opens := func(c *candidate) bool { return r.opens(c.v.Slug) }
		here := func(c *candidate) bool { return opens(c) && (n == 0 || c.v.Position == p.Items[0].Position) }
		if c := r.firstWho(p, here, opens); c != nil {
			suggest(Edit{Op: "begin", With: c.v.Slug}, "Begin with: %s", c.v.Name)
		}
	}
	if n == 0 || p.Items[n-1].Role != trade.Close {
		calms := func(c *candidate) bool { return r.calms(c.v.Slug) }
		here := func(c *candidate) bool { return calms(c) && (n == 0 || c.v.Position == p.Items[n-1].Position) }
		if c := r.firstWho(p, here, calms); c != nil {
			suggest(Edit{Op: "finish", With: c.v.Slug}, "End with: %s", c.v.Name)
		}
	}
}

// firstWho is the first candidate not in the plan that meets the first wish that any meets.
func (r *Request) firstWho(p *Plan, wishes ...func(*candidate) bool) *candidate {
	cs := r.candidates()
	for _, wish := range wishes {
		for i := range cs {
			if wish(&cs[i]) && !p.has(cs[i].v.Slug) {
				return &cs[i]
			}
		}
	}
	return nil
}

// instead is what stands in for an item that may not be: the decided rung, the verdict's
// own answer, the first swap.
func (r *Request) instead(it *Item) *catalogue.Version {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok {
		return nil
	}
	var slugs []string
	for i := range r.Decisions {
		if d := &r.Decisions[i]; r.decides(d, v) && d.ToVersion != v.Slug {
			slugs = append(slugs, d.ToVersion)
		}
	}
	if res, ok := r.Screening.Result(it.Version); ok {
		slugs = append(append(slugs, res.Use), res.Swaps...)
	}
	for _, s := range slugs {
		if c, err := r.candidate(s); err == nil && s != it.Version {
			return c.v
		}
	}
	return nil
}

func (r *Request) mendTime(p *Plan, name func(int) string, suggest func(Edit, string, ...any)) {
	over := p.Seconds > 60*p.Minutes
	if !over {
		suggest(Edit{Op: "rebuild"}, "Fill it: rebuild around what is locked")
		return
	}
	longest := make([]int, 0, len(p.Items))
	for i := range p.Items {
		if p.Items[i].Role == trade.Main && !p.Items[i].Locked {
			longest = append(longest, i)
		}
	}
	slices.SortStableFunc(longest, func(a, b int) int {
		return (p.Items[b].End - p.Items[b].Start) - (p.Items[a].End - p.Items[a].Start)
	})
	for _, i := range longest[:min(2, len(longest))] {
		suggest(Edit{Op: "shorter", Item: i}, "Shorter: %s", name(i))
	}
	if len(longest) > 0 {
		i := longest[len(longest)-1]
		suggest(Edit{Op: "remove", Item: i}, "Remove: %s", name(i))
	}
}

// mendMissing adds what visits a missing direction or is asked for by the template, where
// the session already is if possible.
func (r *Request) mendMissing(p *Plan, k *Check, suggest func(Edit, string, ...any)) {
	here := map[trade.Position]bool{}
	for i := range p.Items {
		here[p.Items[i].Position] = true
	}
	offer := func(what string, wish func(*candidate) bool) {
		body := func(c *candidate) bool { return bodyItem(c.v) && wish(c) }
		if c := r.firstWho(p, func(c *candidate) bool { return here[c.v.Position] && body(c) }, body); c != nil {
			suggest(Edit{Op: "add", With: c.v.Slug}, "Add for %s: %s", what, c.v.Name)
		}
	}
	if k.Rule == "six-directions" {
		for n, d := range p.Directions {
			if d.Reach && !d.Visited {
				offer(strings.ReplaceAll(d.Name, "_", " "), func(c *candidate) bool { return r.visits(c)>>n&1 == 1 })
			}
		}
		return
	}
	for _, need := range r.needs() {
		if k.need == need.Name() {
			offer(need.Name(), func(c *candidate) bool { return need.takes(c.v) })
		}
	}
}

// arrange puts the items of a plan in their best order, and changes nothing else.
func (r *Request) arrange(p *Plan) error {
	locked := slices.DeleteFunc(slices.Clone(p.Items), func(it Item) bool { return it.Role == trade.Reset })
	r.appoint(locked)
	t := r.Asking(func(a *Ask) { a.Only, a.Locked = true, locked })
	m := State(t)
	s, ok := solve.NewSearch(m.Model)
	var best solve.Selection
	if ok {
		s.Greedy()
		best, _, ok = s.Best()
	}
	if !ok {
		return denied("order", "no order of these items keeps every rule; remove or swap one first")
	}
	q := m.Layout(t, best)
	for i := range q.Items {
		for k := range p.Items {
			if was := &p.Items[k]; was.Version == q.Items[i].Version && was.Role != trade.Reset {
				q.Items[i].Locked, q.Items[i].Why = was.Locked, was.Why
			}
		}
	}
	p.Items = q.Items
	return nil
}

// appoint gives the first item that may open and the last that may close these roles when
// nobody has them.
func (r *Request) appoint(items []Item) {
	has := func(role trade.Role) bool {
		return slices.ContainsFunc(items, func(it Item) bool { return it.Role == role })
	}
	if !has(trade.Open) {
		if i := slices.IndexFunc(items, func(it Item) bool { return it.Role == trade.Main && r.opens(it.Version) }); i >= 0 {
			items[i].Role = trade.Open
		}
	}
	if has(trade.Close) {
		return
	}
	for i := len(items) - 1; i >= 0; i-- {
		if items[i].Role == trade.Main && r.calms(items[i].Version) {
			items[i].Role = trade.Close
			return
		}
	}
}

// Mend makes a plan fit the client as they are now: what no longer suits gives way to what
// stands in for it or leaves, wrong sides are left, rungs and doses follow the log. Said
// is what was changed.
func (r *Request) Mend(p *Plan) (said []string) { return r.about(p).mend(p) }

func (r *Request) mend(p *Plan) (said []string) {
	p.Proven = false
	var items []Item
	for _, it := range p.Items {
		was := it.Eases
		r.dress(&it) // with an ease it may still fit
		v, known := r.Catalogue.Version(it.Version)
		limit := r.effortCap()
		over := limit > 0 && it.Effort > limit
		if known && r.Safe(&it) && !r.above(v) && !over && !slices.Contains(r.Ask.Banned, it.Version) {
			it.Eases = was
			if changes, err := r.Fit(&it); err == nil {
				said = append(said, words(changes)...)
			}
			items = append(items, it)
			continue
		}
		name := r.nameOf(it.Version)
		if to := r.instead(&it); to != nil && it.Role != trade.Reset && !p.has(to.Slug) &&
			!r.crowded(p, to, it.Version) &&
			!slices.ContainsFunc(items, func(x Item) bool { return x.Version == to.Slug }) {
			c, _ := r.candidate(to.Slug)
			next := r.item(&c, it.Role, &c.doses[c.normal()])
			next.Why += " In place of " + name + ", which no longer fits."
			items = append(items, next)
			said = append(said, fmt.Sprintf("%s instead of %s", to.Name, name))
			continue
		}
		if over {
			name += fmt.Sprintf(" (effort %d, now at most %d)", it.Effort, limit)
		}
		said = append(said, name+" left")
	}
	p.Items = items
	r.roles(p)
	r.retime(p)
	if slices.ContainsFunc(p.Checks, outOfOrder) {
		if q, err := r.Tried(p, Edit{Op: "arrange"}); err == nil && q.broken() < p.broken() {
			*p = *q
			said = append(said, "put in the best order")
		}
	}
	return said
}

// crowded tells whether a session holds as many of a version's family as it may, one item left out.
func (r *Request) crowded(p *Plan, v *catalogue.Version, without string) bool {
	n := 0
	for i := range p.Items {
		n += b2i(p.Items[i].Family == v.Family && p.Items[i].Version != without && p.Items[i].Role != trade.Reset)
	}
	return n >= maxFamily && !r.manyOf(v)
}

// outOfOrder tells whether a check fails that another order of the same items may mend.
func outOfOrder(k Check) bool {
	switch k.Rule {
	case "positions-once", "effort-rises", "order", "hardest-place", "floor-transfers":
		return !k.OK
	}
	return false
}

func (p *Plan) broken() (n int) {
	for i := range p.Checks {
		n += b2i(!p.Checks[i].OK)
	}
	return n
}

// Rebuild makes the best session around what is locked. What is locked keeps its dose as far
// as the log and the client's limits allow it now; what may not be done any more has to be
// unlocked first.
func (r *Request) Rebuild(p *Plan) (*Plan, error) {
	t, err := r.Around(p)
	if err != nil {
		return nil, err
	}
	return Build(t)
}

// Around is the request for a session around what is locked in a plan, without what was taken out
// of it.
func (r *Request) Around(p *Plan) (*Request, error) {
	t := r.about(p)
	var locked []Item
	for _, it := range p.Items {
		if !it.Locked && !it.ByHand || it.Role == trade.Reset {
			continue
		}
		if _, err := t.Fit(&it); err != nil {
			return nil, denied("locked", "%s; unlock or remove it first", Why(err))
		}
		locked = append(locked, it)
	}
	return t.Asking(func(a *Ask) { a.Locked = locked }), nil
}

// Repeat makes a session of what was done last time, whatever its rung and dose then;
// with progress every item follows its decision. What the log caps or steps back follows it
// either way. Said is what had to change.
func (r *Request) Repeat(last *Plan, withProgress bool) (p *Plan, said []string, err error) {
	if err := r.refused(); err != nil {
		return nil, nil, err
	}
	p = &Plan{Format: "restbend.plan/1", Rules: last.Rules, Minutes: r.Minutes, Items: slices.Clone(last.Items)}
	p.Items = slices.DeleteFunc(p.Items, func(it Item) bool { return it.Role == trade.Reset })
	for i := range p.Items {
		it := &p.Items[i]
		it.Locked, it.ByHand = false, false
		v, ok := r.Catalogue.Version(it.Version)
		if !ok {
			continue
		}
		for k := range r.Decisions {
			d := &r.Decisions[k]
			if !withProgress && mayAdd(d) {
				continue // as it was, but what was capped or stepped back stays so
			}
			w, ok := r.Catalogue.Version(d.ToVersion)
			if !ok || !r.decides(d, v) || p.has(w.Slug) && w != v {
				continue
			}
			c, err := r.candidate(w.Slug)
			if err != nil || len(c.doses) == 0 {
				continue
			}
			before := it.Dose
			*it = r.item(&c, it.Role, &c.doses[c.normal()])
			if w != v || before.Words() != it.Dose.Words() {
				said = append(said, fmt.Sprintf("%s: %s, %s", w.Name, d.Decision, it.Dose.Words()))
			}
		}
	}
	said = append(said, r.mend(p)...)
	if len(p.Items) == 0 {
		return nil, nil, &Refused{Reason: "nothing of the last session suits now; plan a new one"}
	}
	return p, said, nil
}
