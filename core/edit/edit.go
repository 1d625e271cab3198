// Package edit changes a plan by hand and by mends: every change is checked again at once, and nothing
// unsafe can be put in.
package edit

import (
	"slices"
	"strings"

	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/trade"
)

// Edit is one change by hand. Op is up, down, move, remove, longer, shorter, swap, add,
// harder, easier, side, dose, layer, unlayer, lock, unlock, ban, allow, begin, finish, arrange or rebuild. With
// names the version of a swap or of what is added, allowed again or begins or ends the
// session, or the side; To is where a moved item goes, counted without it.
type Edit struct {
	Op   string
	Item int
	To   int
	With string
	Dose *plan.Typed // of a dose by hand
}

// Ops are the changes by hand.
var Ops = []string{
	"up",
	"down",
	"move",
	"remove",
	"longer",
	"shorter",
	"swap",
	"add",
	"harder",
	"easier",
	"side",
	"dose",
	"layer",
	"unlayer",
	"lock",
	"unlock",
	"ban",
	"allow",
	"begin",
	"finish",
	"arrange",
	"rebuild",
}

// whole are the changes that name no item.
var whole = []string{"add", "allow", "begin", "finish", "arrange", "rebuild"}

// Apply changes a plan by hand; everything is recomputed, and a broken rule is reported
// by the checks rather than refused, except that nothing unsafe can be put in. A change that does not do what its
// name says is refused; the plan is as it was then.
func Apply(r *facts.Request, p *plan.Plan, e Edit) error {
	_, err := Do(r, p, e)
	return err
}

// Do is Apply, and says what the change did, measured.
func Do(r *facts.Request, p *plan.Plan, e Edit) (said string, err error) {
	was := *p
	was.Items = slices.Clone(p.Items)
	if err = applied(r.About(p), p, e); err == nil {
		said, err = measured(r, &was, p, e)
	}
	if err != nil {
		*p = was
	}
	return said, err
}

func applied(r *facts.Request, p *plan.Plan, e Edit) error {
	if !slices.Contains(Ops, e.Op) {
		return plan.Deny("op", "found %q, allowed: %s", e.Op, strings.Join(Ops, ", "))
	}
	if !slices.Contains(whole, e.Op) && (e.Item < 0 || e.Item >= len(p.Items)) {
		return plan.Deny("item", "found %d, allowed: 0 to %d", e.Item, len(p.Items)-1)
	}
	switch e.Op { // what is taken out stays out from here on
	case "ban":
		out := p.Items[e.Item].Version
		r = r.Asking(func(a *facts.Ask) { a.Banned = append(slices.Clone(a.Banned), out) })
	case "allow":
		r = r.Asking(func(a *facts.Ask) {
			a.Banned = slices.DeleteFunc(slices.Clone(a.Banned), func(s string) bool { return s == e.With })
		})
	}
	out := ""
	if e.Op == "remove" || e.Op == "swap" {
		if it := &p.Items[e.Item]; it.Role != trade.Reset {
			out = it.Version
		}
	}
	if err := apply(r, p, e); err != nil {
		return err
	}
	switch e.Op { // what was changed by hand stays when the rest is rebuilt
	case "longer", "shorter", "dose", "layer", "unlayer", "side", "swap", "harder", "easier":
		p.Items[e.Item].ByHand = true
	case "add", "begin", "finish":
		for i := range p.Items {
			p.Items[i].ByHand = p.Items[i].ByHand || p.Items[i].Version == e.With && p.Items[i].Role != trade.Reset
		}
	}
	p.Proven = p.Proven &&
		(e.Op == "lock" || e.Op == "rebuild") // a lock takes nothing better away from what is the best
	roles(r, p)
	appraise.Reckon(r, p)
	takenOut(p, out)
	return nil
}

func apply(r *facts.Request, p *plan.Plan, e Edit) error {
	switch e.Op {
	case "up":
		shift(p, e.Item, beside(p, e.Item, -1))
	case "down":
		shift(p, e.Item, beside(p, e.Item, 1))
	case "move":
		if e.To < 0 || e.To >= len(p.Items) {
			return plan.Deny("to", "found %d, allowed: 0 to %d", e.To, len(p.Items)-1)
		}
		shift(p, e.Item, e.To)
	case "remove":
		p.Items = slices.Delete(p.Items, e.Item, e.Item+1)
	case "ban":
		out := p.Items[e.Item].Version
		p.Items = slices.DeleteFunc(p.Items,
			func(it plan.Item) bool { return it.Version == out }) // a reset stands there more than once
	case "longer", "shorter":
		return stepDose(r, &p.Items[e.Item], map[string]int{"longer": 1, "shorter": -1}[e.Op])
	case "swap":
		return replace(r, p, e.Item, e.With, "Swapped for "+p.Items[e.Item].Version+" by hand.")
	case "harder", "easier":
		return rungs(r, p, e)
	case "side":
		return setSide(r, &p.Items[e.Item], trade.Side(e.With))
	case "dose":
		return r.TypeDose(&p.Items[e.Item], e.Dose)
	case "layer":
		return layer(r, &p.Items[e.Item])
	case "unlayer":
		return unlayer(r, &p.Items[e.Item])
	case "lock", "unlock":
		p.Items[e.Item].Locked = e.Op == "lock"
	case "add":
		return insert(r, p, e.With)
	case "begin", "finish":
		return end(r, p, e)
	case "arrange":
		return arrange(r, p)
	case "rebuild":
		q, err := Rebuild(r, p)
		if err != nil {
			return err
		}
		p.Items, p.Proven, p.Removed = q.Items, q.Proven, q.Removed
	}
	return nil
}

// beside is the place of the exercise before or after one, resets passed over.
func beside(p *plan.Plan, from, by int) int {
	to := from + by
	for to >= 0 && to < len(p.Items) && p.Items[to].Role == trade.Reset {
		to += by
	}
	return to
}

func shift(p *plan.Plan, from, to int) {
	if to < 0 || to >= len(p.Items) {
		return
	}
	it := p.Items[from]
	p.Items = slices.Insert(slices.Delete(p.Items, from, from+1), to, it)
}

// roles keeps opener and closer at the ends after items moved.
func roles(r *facts.Request, p *plan.Plan) {
	prepare, finish := r.Template.Fixed()
	for i := range p.Items {
		it := &p.Items[i]
		switch {
		case it.Role == trade.Reset && i < len(p.Items)-1:
		case i == 0 && (propose.Opens(r, it.Version) || slices.Contains(prepare, it.Version)),
			i > 0 && p.Items[i-1].Role == trade.Open && slices.Contains(prepare, it.Version):
			it.Role = trade.Open
		case i == len(p.Items)-1 && propose.Calms(r, it.Version), allFrom(r, p, i, finish):
			it.Role = trade.Close
		default:
			it.Role = trade.Main
		}
	}
}

// allFrom tells whether everything from an item on belongs to a fixed finish.
func allFrom(r *facts.Request, p *plan.Plan, i int, finish []string) bool {
	for _, it := range p.Items[i:] {
		if !slices.Contains(finish, it.Version) {
			return false
		}
	}
	return len(finish) > 0
}

// stepDose makes an item longer or shorter by the next dose that really is, within what the client's limits allow:
// longer is less in no measure, by the ladder or by one set more; shorter is a step down the ladder or one set less.
func stepDose(r *facts.Request, it *plan.Item, by int) error {
	c, err := r.Candidate(it.Version)
	if err != nil {
		return err
	}
	c.Side = it.Side
	next, step, ok := r.Beside(&c, it, by)
	if !ok && by > 0 {
		return plan.Deny("dose", "%s is at the top of its doses, or at what this client's limits allow", c.V.Name)
	}
	if !ok {
		return plan.Deny("dose", "%s is at its lowest dose", c.V.Name)
	}
	it.Dose, it.Step, it.Length = next, step, plan.Normal
	if len(c.Doses) > 0 {
		normal := c.Doses[c.Normal()].Dose.Seconds(r.Client.BreathRate, c.Sides())
		switch now := it.Dose.Seconds(r.Client.BreathRate, it.Sides()); {
		case now > normal:
			it.Length = plan.Long
		case now < normal:
			it.Length = plan.Short
		}
	}
	return nil
}

// replace exchanges an item for another version that suits.
func replace(r *facts.Request, p *plan.Plan, i int, slug, note string) error {
	c, err := r.Candidate(slug)
	if err != nil {
		return err
	}
	if p.Has(slug) {
		return plan.Deny("with", "%s is already in this session", c.V.Name)
	}
	was := &p.Items[i]
	it := r.Item(&c, was.Role, &c.Doses[c.Normal()])
	it.Why += " " + note
	it.Locked = was.Locked
	p.Items[i] = it
	return nil
}

// rungs goes one rung up or down the item's branch.
func rungs(r *facts.Request, p *plan.Plan, e Edit) error {
	v, ok := r.Catalogue.Version(p.Items[e.Item].Version)
	if !ok {
		return plan.Deny("item", "there is no version %q", p.Items[e.Item].Version)
	}
	w := r.Catalogue.Next(v)
	if e.Op == "easier" {
		w = r.Catalogue.Previous(v)
	}
	if w == nil {
		return plan.Deny("item", "%s has no %s rung in its branch", v.Name, e.Op)
	}
	return replace(r, p, e.Item, w.Slug,
		map[string]string{"harder": "One rung up by hand: ", "easier": "One rung down by hand: "}[e.Op]+w.Changes+".")
}

// needsMissingEase tells that a side could only be worked with an ease, and no ease serves it.
func needsMissingEase(res *safety.Result, side trade.Side) bool {
	_, _, ok := res.As(side)
	return !ok && res.NeedsEase(side)
}

// setSide works one side, or both.
func setSide(r *facts.Request, it *plan.Item, side trade.Side) error {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok || v.SideMode == trade.None {
		return plan.Deny("side", "%s is not done to one side", it.Version)
	}
	allowed := []trade.Side{trade.Left, trade.Right, trade.Each}
	if v.SideMode == trade.Alternate {
		allowed = []trade.Side{trade.Each, trade.Alternate}
	}
	if !slices.Contains(allowed, side) {
		return plan.Deny("side", "found %q, allowed: %s", side, strings.Join(trade.Words(allowed), ", "))
	}
	res, _ := r.Screening.Result(it.Version)
	for _, s := range trade.BothSides {
		if (side == s || side == trade.Each) && res != nil && res.Sides[s] == trade.LeaveOut && !res.Overridden {
			return plan.Deny("side", "the %s does not suit this client", s)
		}
	}
	if res != nil && needsMissingEase(res, side) {
		return plan.Deny(
			"side",
			"no ease makes %s suit on %s",
			v.Name,
			map[trade.Side]string{
				trade.Left: "the left", trade.Right: "the right", trade.Each: "both sides at once",
			}[side],
		)
	}
	c, err := r.Candidate(it.Version)
	if err != nil {
		return err
	}
	old := it.Side
	it.Side, c.Side = side, side
	switch d := v.Dose(r.DoseSchool(), it.Step); {
	case v.SideMode != trade.Alternate || side == old:
		it.Dose = r.FitSides(&c, it.Dose)
	case side == trade.Each:
		it.Dose, _ = r.FitDose(&c, d.PerSide())
	default:
		it.Dose, _ = r.FitDose(&c, d)
	}
	return nil
}

// insert puts a version where it fits: in the block of its posture by effort, else before
// the first posture that the order school puts later, always before the closer.
func insert(r *facts.Request, p *plan.Plan, slug string) error {
	c, err := r.Candidate(slug)
	if err != nil {
		return err
	}
	if p.Has(slug) {
		return plan.Deny("with", "%s is already in this session", c.V.Name)
	}
	it := r.Item(&c, trade.Main, &c.Doses[c.Normal()])
	it.Why += " Added by hand."
	p.Items = slices.Insert(p.Items, spot(r, p, &it), it)
	return nil
}

// end puts an opener first or a closer last.
func end(r *facts.Request, p *plan.Plan, e Edit) error {
	c, err := r.Candidate(e.With)
	if err != nil {
		return err
	}
	role, at, allowed := trade.Open, 0, propose.Opens(r, e.With)
	if e.Op == "finish" {
		role, at, allowed = trade.Close, len(p.Items), propose.Calms(r, e.With)
	}
	if !allowed {
		return plan.Deny("with", "%s neither sets the breath nor calms down", c.V.Name)
	}
	if p.Has(e.With) {
		return plan.Deny("with", "%s is already in this session", c.V.Name)
	}
	p.Items = slices.Insert(p.Items, at, r.Item(&c, role, &c.Doses[c.Normal()]))
	return nil
}

func spot(r *facts.Request, p *plan.Plan, it *plan.Item) int {
	last := len(p.Items)
	for last > 0 && p.Items[last-1].Role == trade.Close {
		last--
	}
	first := 0
	for first < last && p.Items[first].Role == trade.Open {
		first++
	}
	end := -1 // after the block of the same place
	for i := 0; i < last; i++ {
		x := &p.Items[i]
		if x.Position != it.Position || x.Place().Ground() != it.Place().Ground() {
			continue
		}
		if x.Role == trade.Main && x.Effort > it.Effort && i >= first {
			return i
		}
		end = i + 1
	}
	if end >= 0 {
		return max(end, first)
	}
	rank := func(pos trade.Position) int { return appraise.Rank(r, pos) }
	for i := first; i < last; i++ {
		if p.Items[i].Role == trade.Main && p.Items[i].Position != p.Items[0].Position &&
			rank(p.Items[i].Position) > rank(it.Position) {
			return i
		}
	}
	return last
}

// Swaps lists versions that could take an item's place, nearest purpose first.
func Swaps(r *facts.Request, p *plan.Plan, item int) []string { return swaps(r.About(p), p, item) }

func swaps(r *facts.Request, p *plan.Plan, item int) []string {
	if item < 0 || item >= len(p.Items) {
		return nil
	}
	v, ok := r.Catalogue.Version(p.Items[item].Version)
	if !ok {
		return nil
	}
	used := map[string]bool{}
	for i := range p.Items {
		used[p.Items[i].Version] = true
	}
	type cand struct {
		slug  string
		score float64
	}
	table := r.Catalogue.Table()
	var cs []cand
	for _, c := range r.Candidates() {
		shared := table.Shared(v, c.V)
		if used[c.V.Slug] || shared == 0 || !facts.BodyItem(c.V) {
			continue
		}
		if c.V.Position == v.Position {
			shared += 0.5
		}
		d := c.V.Effort - v.Effort
		shared -= 0.2 * float64(max(d, -d))
		if slices.ContainsFunc(v.Swaps, func(s catalogue.Swap) bool { return s.Version == c.V.Slug }) {
			shared += 2
		}
		cs = append(cs, cand{c.V.Slug, shared})
	}
	slices.SortStableFunc(cs, func(a, b cand) int {
		switch {
		case a.score > b.score:
			return -1
		case a.score < b.score:
			return 1
		}
		return 0
	})
	var out []string
	for i := 0; i < len(cs) && i < maxSwaps; i++ {
		out = append(out, cs[i].slug)
	}
	return out
}

// maxSwaps is how many swaps the bench offers.
const maxSwaps = 6

// Adoptable is every version that may be added by hand now.
func Adoptable(r *facts.Request, p *plan.Plan) []*catalogue.Version {
	var out []*catalogue.Version
	for _, c := range r.About(p).Candidates() {
		if facts.BodyItem(c.V) && !slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Version == c.V.Slug }) {
			out = append(out, c.V)
		}
	}
	return out
}

// SideChoices are the sides an item may be worked on, as things are for this client.
func SideChoices(r *facts.Request, it *plan.Item) (out []trade.Side) {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok || v.SideMode == trade.None || it.Role == trade.Reset {
		return nil
	}
	for _, side := range []trade.Side{trade.Each, trade.Alternate, trade.Left, trade.Right} {
		try := *it
		if side == it.Side || setSide(r, &try, side) == nil {
			out = append(out, side)
		}
	}
	return out
}

// Waits says why a version may not come into a plan now, empty when it may.
func Waits(r *facts.Request, p *plan.Plan, v *catalogue.Version) string { return waits(r.About(p), v) }

func waits(r *facts.Request, v *catalogue.Version) string {
	if _, err := r.Candidate(v.Slug); err != nil {
		return plan.Why(err)
	}
	return ""
}

// BestTask is the client's real task that a version matches best, nil when none is known.
func BestTask(r *facts.Request, v *catalogue.Version) *catalogue.Task { return r.BestTask(v) }

// Tried is the plan as it would be after a change; the plan itself stays as it is.
func Tried(r *facts.Request, p *plan.Plan, e Edit) (*plan.Plan, error) {
	q := *p
	q.Items = slices.Clone(p.Items)
	return &q, Apply(r, &q, e)
}
