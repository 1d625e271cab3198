package edit

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/solve"
	"restbend/core/trade"
)

// Repair is one change that would make a broken rule hold.
type Repair struct {
	Say  string
	Edit Edit
}

// Mends proposes up to three changes for each broken rule of a plan, by the rule's name.
func Mends(r *facts.Request, p *plan.Plan) map[string][]Repair { return allMends(r.About(p), p) }

func allMends(r *facts.Request, p *plan.Plan) map[string][]Repair {
	out := map[string][]Repair{}
	for i := range p.Checks {
		if k := &p.Checks[i]; !k.OK {
			m := mends(r, p, k)
			out[k.Rule] = append(out[k.Rule], m[:min(len(m), 3)]...)
		}
	}
	return out
}

func mends(r *facts.Request, p *plan.Plan, k *plan.Check) (out []Repair) {
	name := func(i int) string { return r.NameOf(p.Items[i].Version) }
	suggest := func(e Edit, format string, a ...any) { out = append(out, Repair{fmt.Sprintf(format, a...), e}) }
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
		mendEnds(r, p, suggest)
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
			if easier(r, &p.Items[i]) {
				suggest(Edit{Op: "easier", Item: i}, "One rung easier: %s", name(i))
			}
		}
		remove()
	case "safe", "no-skipped-rung":
		for _, i := range k.Items {
			if to := instead(r, &p.Items[i]); to != nil {
				suggest(Edit{Op: "swap", Item: i, With: to.Slug}, "%s instead of %s", to.Name, name(i))
			}
		}
		remove()
	case "right-side", "both-sides":
		for _, i := range k.Items {
			if v, ok := r.Catalogue.Version(p.Items[i].Version); ok {
				if c, ok := r.Permitted(v); ok {
					suggest(Edit{Op: "side", Item: i, With: string(c.Side)}, "%s: %s", name(i), sideWords(c.Side))
				}
			}
		}
	case "time":
		mendTime(r, p, name, suggest)
	case "six-directions", "needs":
		mendMissing(r, p, k, suggest)
	}
	return out
}

// easier tells whether the rung below an item may be done instead.
func easier(r *facts.Request, it *plan.Item) bool {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok {
		return false
	}
	w := r.Catalogue.Previous(v)
	return w != nil && waits(r, w) == ""
}

func mendEnds(r *facts.Request, p *plan.Plan, suggest func(Edit, string, ...any)) {
	n := len(p.Items)
	if n == 0 || p.Items[0].Role != trade.Open {
		opens := func(c *facts.Candidate) bool { return propose.Opens(r, c.V.Slug) }
		here := func(c *facts.Candidate) bool { return opens(c) && (n == 0 || c.V.Position == p.Items[0].Position) }
		if c := firstWho(r, p, here, opens); c != nil {
			suggest(Edit{Op: "begin", With: c.V.Slug}, "Begin with: %s", c.V.Name)
		}
	}
	if n == 0 || p.Items[n-1].Role != trade.Close {
		calms := func(c *facts.Candidate) bool { return propose.Calms(r, c.V.Slug) }
		here := func(c *facts.Candidate) bool { return calms(c) && (n == 0 || c.V.Position == p.Items[n-1].Position) }
		if c := firstWho(r, p, here, calms); c != nil {
			suggest(Edit{Op: "finish", With: c.V.Slug}, "End with: %s", c.V.Name)
		}
	}
}

// firstWho is the first candidate not in the plan that meets the first wish that any meets.
func firstWho(r *facts.Request, p *plan.Plan, wishes ...func(*facts.Candidate) bool) *facts.Candidate {
	cs := r.Candidates()
	for _, wish := range wishes {
		for i := range cs {
			if wish(&cs[i]) && !p.Has(cs[i].V.Slug) {
				return &cs[i]
			}
		}
	}
	return nil
}

// instead is what stands in for an item that may not be: the decided rung, the verdict's
// own answer, the first swap.
func instead(r *facts.Request, it *plan.Item) *catalogue.Version {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok {
		return nil
	}
	var slugs []string
	for i := range r.Decisions {
		if d := &r.Decisions[i]; r.Decides(d, v) && d.ToVersion != v.Slug {
			slugs = append(slugs, d.ToVersion)
		}
	}
	if res, ok := r.Screening.Result(it.Version); ok {
		slugs = append(append(slugs, res.Use), res.Swaps...)
	}
	for _, s := range slugs {
		if c, err := r.Candidate(s); err == nil && s != it.Version {
			return c.V
		}
	}
	return nil
}

func mendTime(r *facts.Request, p *plan.Plan, name func(int) string, suggest func(Edit, string, ...any)) {
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
func mendMissing(r *facts.Request, p *plan.Plan, k *plan.Check, suggest func(Edit, string, ...any)) {
	here := map[trade.Position]bool{}
	for i := range p.Items {
		here[p.Items[i].Position] = true
	}
	offer := func(what string, wish func(*facts.Candidate) bool) {
		body := func(c *facts.Candidate) bool { return facts.BodyItem(c.V) && wish(c) }
		if c := firstWho(r, p, func(c *facts.Candidate) bool { return here[c.V.Position] && body(c) }, body); c != nil {
			suggest(Edit{Op: "add", With: c.V.Slug}, "Add for %s: %s", what, c.V.Name)
		}
	}
	if k.Rule == "six-directions" {
		for n, d := range p.Directions {
			if d.Reach && !d.Visited {
				offer(strings.ReplaceAll(d.Name, "_", " "), func(c *facts.Candidate) bool { return r.Visits(c)>>n&1 == 1 })
			}
		}
		return
	}
	for _, need := range r.Needs() {
		if k.Need == need.Name() {
			offer(need.Name(), func(c *facts.Candidate) bool { return need.Takes(c.V) })
		}
	}
}

// arrange puts the items of a plan in their best order, and changes nothing else.
func arrange(r *facts.Request, p *plan.Plan) error {
	locked := slices.DeleteFunc(slices.Clone(p.Items), func(it plan.Item) bool { return it.Role == trade.Reset })
	appoint(r, locked)
	t := r.Asking(func(a *facts.Ask) { a.Only, a.Locked = true, locked })
	m := propose.State(t)
	s, ok := solve.NewSearch(m.Model)
	var best solve.Selection
	if ok {
		s.Greedy()
		best, _, ok = s.Best()
	}
	if !ok {
		return plan.Deny("order", "no order of these items keeps every rule; remove or swap one first")
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
func appoint(r *facts.Request, items []plan.Item) {
	has := func(role trade.Role) bool {
		return slices.ContainsFunc(items, func(it plan.Item) bool { return it.Role == role })
	}
	if !has(trade.Open) {
		if i := slices.IndexFunc(items, func(it plan.Item) bool {
			return it.Role == trade.Main &&
				propose.Opens(r, it.Version)
		}); i >= 0 {
			items[i].Role = trade.Open
		}
	}
	if has(trade.Close) {
		return
	}
	for i := len(items) - 1; i >= 0; i-- {
		if items[i].Role == trade.Main && propose.Calms(r, items[i].Version) {
			items[i].Role = trade.Close
			return
		}
	}
}

// Mend makes a plan fit the client as they are now: what no longer suits gives way to what
// stands in for it or leaves, wrong sides are left, rungs and doses follow the log. Said
// is what was changed.
func Mend(r *facts.Request, p *plan.Plan) (said []string) { return mend(r.About(p), p) }

func mend(r *facts.Request, p *plan.Plan) (said []string) {
	p.Proven = false
	var items []plan.Item
	for _, it := range p.Items {
		was := it.Eases
		r.Dress(&it) // with an ease it may still fit
		v, known := r.Catalogue.Version(it.Version)
		limit := r.EffortCap()
		over := limit > 0 && it.Effort > limit
		if known && appraise.Safe(r, &it) && !r.Above(v) && !over && !slices.Contains(r.Ask.Banned, it.Version) {
			it.Eases = was
			if changes, err := Fit(r, &it); err == nil {
				said = append(said, words(changes)...)
			}
			items = append(items, it)
			continue
		}
		name := r.NameOf(it.Version)
		if to := instead(r, &it); to != nil && it.Role != trade.Reset && !p.Has(to.Slug) &&
			!crowded(r, p, to, it.Version) &&
			!slices.ContainsFunc(items, func(x plan.Item) bool { return x.Version == to.Slug }) {
			c, _ := r.Candidate(to.Slug)
			next := r.Item(&c, it.Role, &c.Doses[c.Normal()])
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
	roles(r, p)
	appraise.Reckon(r, p)
	if slices.ContainsFunc(p.Checks, outOfOrder) {
		if q, err := Tried(r, p, Edit{Op: "arrange"}); err == nil && broken(q) < broken(p) {
			*p = *q
			said = append(said, "put in the best order")
		}
	}
	return said
}

// crowded tells whether a session holds as many of a version's family as it may, one item left out.
func crowded(r *facts.Request, p *plan.Plan, v *catalogue.Version, without string) bool {
	n := 0
	for i := range p.Items {
		n += facts.CountIf(p.Items[i].Family == v.Family && p.Items[i].Version != without && p.Items[i].Role != trade.Reset)
	}
	return n >= facts.MaxFamily && !r.ManyOf(v)
}

// outOfOrder tells whether a check fails that another order of the same items may mend.
func outOfOrder(k plan.Check) bool {
	switch k.Rule {
	case "positions-once", "effort-rises", "order", "hardest-place", "floor-transfers":
		return !k.OK
	}
	return false
}

func broken(p *plan.Plan) (n int) {
	for i := range p.Checks {
		n += facts.CountIf(!p.Checks[i].OK)
	}
	return n
}

// Rebuild makes the best session around what is locked. What is locked keeps its dose as far
// as the log and the client's limits allow it now; what may not be done any more has to be
// unlocked first.
func Rebuild(r *facts.Request, p *plan.Plan) (*plan.Plan, error) {
	t, err := Around(r, p)
	if err != nil {
		return nil, err
	}
	q, err := propose.Build(t)
	if err == nil {
		q.Removed = p.Removed
	}
	return q, err
}

// Around is the request for a session around what is locked in a plan, without what was taken out
// of it.
func Around(r *facts.Request, p *plan.Plan) (*facts.Request, error) {
	t := r.About(p)
	var locked []plan.Item
	for _, it := range p.Items {
		if !it.Locked && !it.ByHand || it.Role == trade.Reset {
			continue
		}
		if _, err := Fit(t, &it); err != nil {
			return nil, plan.Deny("locked", "%s; unlock or remove it first", plan.Why(err))
		}
		locked = append(locked, it)
	}
	return t.Asking(func(a *facts.Ask) {
		a.Locked, a.Spared = locked, append(slices.Clone(a.Spared), p.Removed...)
	}), nil
}

// Repeat makes a session of what was done last time, whatever its rung and dose then;
// with progress every item follows its decision. What the log caps or steps back follows it
// either way. Said is what had to change.
func Repeat(r *facts.Request, last *plan.Plan, withProgress bool) (p *plan.Plan, said []string, err error) {
	if err := propose.Refused(r); err != nil {
		return nil, nil, err
	}
	p = &plan.Plan{Format: "restbend.plan/1", Rules: last.Rules, Minutes: r.Minutes, Items: slices.Clone(last.Items)}
	p.Items = slices.DeleteFunc(p.Items, func(it plan.Item) bool { return it.Role == trade.Reset })
	for i := range p.Items {
		it := &p.Items[i]
		it.Locked, it.ByHand = false, false
		v, ok := r.Catalogue.Version(it.Version)
		if !ok {
			continue
		}
		for k := range r.Decisions {
			d := &r.Decisions[k]
			if !withProgress && facts.MayAdd(d) {
				continue // as it was, but what was capped or stepped back stays so
			}
			w, ok := r.Catalogue.Version(d.ToVersion)
			if !ok || !r.Decides(d, v) || p.Has(w.Slug) && w != v {
				continue
			}
			c, err := r.Candidate(w.Slug)
			if err != nil || len(c.Doses) == 0 {
				continue
			}
			before := it.Dose
			*it = r.Item(&c, it.Role, &c.Doses[c.Normal()])
			if w != v || before.Words() != it.Dose.Words() {
				said = append(said, fmt.Sprintf("%s: %s, %s", w.Name, d.Decision, it.Dose.Words()))
			}
		}
	}
	said = append(said, mend(r, p)...)
	if len(p.Items) == 0 {
		return nil, nil, &facts.Refused{Reason: "nothing of the last session suits now; plan a new one"}
	}
	return p, said, nil
}
