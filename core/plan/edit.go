package plan

import (
	"slices"
	"strings"

	"restbend/core/catalogue"
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
	Dose *Typed // of a dose by hand
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
// by the checks rather than refused, except that nothing unsafe can be put in.
func (r *Request) Apply(p *Plan, e Edit) error { return r.about(p).applied(p, e) }

func (r *Request) applied(p *Plan, e Edit) error {
	if !slices.Contains(Ops, e.Op) {
		return denied("op", "found %q, allowed: %s", e.Op, strings.Join(Ops, ", "))
	}
	if !slices.Contains(whole, e.Op) && (e.Item < 0 || e.Item >= len(p.Items)) {
		return denied("item", "found %d, allowed: 0 to %d", e.Item, len(p.Items)-1)
	}
	switch e.Op { // what is taken out stays out from here on
	case "ban":
		out := p.Items[e.Item].Version
		r = r.Asking(func(a *Ask) { a.Banned = append(slices.Clone(a.Banned), out) })
	case "allow":
		r = r.Asking(func(a *Ask) {
			a.Banned = slices.DeleteFunc(slices.Clone(a.Banned), func(s string) bool { return s == e.With })
		})
	}
	if err := r.apply(p, e); err != nil {
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
	r.roles(p)
	r.retime(p)
	return nil
}

func (r *Request) apply(p *Plan, e Edit) error {
	switch e.Op {
	case "up":
		r.shift(p, e.Item, e.Item-1)
	case "down":
		r.shift(p, e.Item, e.Item+1)
	case "move":
		if e.To < 0 || e.To >= len(p.Items) {
			return denied("to", "found %d, allowed: 0 to %d", e.To, len(p.Items)-1)
		}
		r.shift(p, e.Item, e.To)
	case "remove":
		p.Items = slices.Delete(p.Items, e.Item, e.Item+1)
	case "ban":
		out := p.Items[e.Item].Version
		p.Items = slices.DeleteFunc(p.Items,
			func(it Item) bool { return it.Version == out }) // a reset stands there more than once
	case "longer", "shorter":
		return r.stepDose(&p.Items[e.Item], map[string]int{"longer": 1, "shorter": -1}[e.Op])
	case "swap":
		return r.replace(p, e.Item, e.With, "Swapped for "+p.Items[e.Item].Version+" by hand.")
	case "harder", "easier":
		return r.rungs(p, e)
	case "side":
		return r.setSide(&p.Items[e.Item], trade.Side(e.With))
	case "dose":
		return r.typeDose(&p.Items[e.Item], e.Dose)
	case "layer":
		return r.layer(&p.Items[e.Item])
	case "unlayer":
		return r.unlayer(&p.Items[e.Item])
	case "lock", "unlock":
		p.Items[e.Item].Locked = e.Op == "lock"
	case "add":
		return r.insert(p, e.With)
	case "begin", "finish":
		return r.end(p, e)
	case "arrange":
		return r.arrange(p)
	case "rebuild":
		q, err := r.Rebuild(p)
		if err != nil {
			return err
		}
		p.Items, p.Proven = q.Items, q.Proven
	}
	return nil
}

func (r *Request) shift(p *Plan, from, to int) {
	if to < 0 || to >= len(p.Items) {
		return
	}
	it := p.Items[from]
	p.Items = slices.Insert(slices.Delete(p.Items, from, from+1), to, it)
}

// roles keeps opener and closer at the ends after items moved.
func (r *Request) roles(p *Plan) {
	prepare, finish := r.Template.fixed()
	for i := range p.Items {
		it := &p.Items[i]
		switch {
		case it.Role == trade.Reset && i < len(p.Items)-1:
		case i == 0 && (r.opens(it.Version) || slices.Contains(prepare, it.Version)),
			i > 0 && p.Items[i-1].Role == trade.Open && slices.Contains(prepare, it.Version):
			it.Role = trade.Open
		case i == len(p.Items)-1 && r.calms(it.Version), r.allFrom(p, i, finish):
			it.Role = trade.Close
		default:
			it.Role = trade.Main
		}
	}
}

// allFrom tells whether everything from an item on belongs to a fixed finish.
func (r *Request) allFrom(p *Plan, i int, finish []string) bool {
	for _, it := range p.Items[i:] {
		if !slices.Contains(finish, it.Version) {
			return false
		}
	}
	return len(finish) > 0
}

// stepDose goes a step up or down the dose ladder of an item, within what the client's
// limits allow.
func (r *Request) stepDose(it *Item, by int) error {
	c, err := r.candidate(it.Version)
	if err != nil {
		return err
	}
	c.side = it.Side
	steps, _ := c.v.Steps(r.doseSchool())
	step := min(max(it.Step+by, 0), len(steps)-1)
	was := it.Dose
	before := it.Dose.Seconds(r.Client.BreathRate, it.Sides())
	shorter, fewer := it.Dose.FewerSets()
	switch d := c.v.Dose(r.doseSchool(), step); {
	case step == it.Step && by < 0 && fewer: // below the ladder: fewer sets
		it.Dose = r.fitSides(&c, shorter)
	case c.side == trade.Each && c.v.SideMode == trade.Alternate:
		it.Dose, _ = r.fitDose(&c, d.PerSide())
	default:
		it.Dose, _ = r.fitDose(&c, d)
	}
	after := it.Dose.Seconds(r.Client.BreathRate, it.Sides())
	switch {
	case after == before && by > 0:
		it.Dose = was
		return denied("dose", "%s is at the top of its doses, or at what this client's limits allow", c.v.Name)
	case after == before:
		it.Dose = was
		return denied("dose", "%s is at its lowest dose", c.v.Name)
	}
	it.Step = step
	it.Length = Normal
	if k := c.normal(); len(c.doses) > 0 {
		normal := c.doses[k].dose.Seconds(r.Client.BreathRate, c.sides())
		if after > normal {
			it.Length = Long
		} else if after < normal {
			it.Length = Short
		}
	}
	return nil
}

// replace exchanges an item for another version that suits.
func (r *Request) replace(p *Plan, i int, slug, note string) error {
	c, err := r.candidate(slug)
	if err != nil {
		return err
	}
	if p.has(slug) {
		return denied("with", "%s is already in this session", c.v.Name)
	}
	was := &p.Items[i]
	it := r.item(&c, was.Role, &c.doses[c.normal()])
	it.Why += " " + note
	it.Locked = was.Locked
	p.Items[i] = it
	return nil
}

// rungs goes one rung up or down the item's branch.
func (r *Request) rungs(p *Plan, e Edit) error {
	v, ok := r.Catalogue.Version(p.Items[e.Item].Version)
	if !ok {
		return denied("item", "there is no version %q", p.Items[e.Item].Version)
	}
	w := r.Catalogue.Next(v)
	if e.Op == "easier" {
		w = r.Catalogue.Previous(v)
	}
	if w == nil {
		return denied("item", "%s has no %s rung in its branch", v.Name, e.Op)
	}
	return r.replace(p, e.Item, w.Slug,
		map[string]string{"harder": "One rung up by hand: ", "easier": "One rung down by hand: "}[e.Op]+w.Changes+".")
}

// setSide works one side, or both.
func (r *Request) setSide(it *Item, side trade.Side) error {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok || v.SideMode == trade.None {
		return denied("side", "%s is not done to one side", it.Version)
	}
	allowed := []trade.Side{trade.Left, trade.Right, trade.Each}
	if v.SideMode == trade.Alternate {
		allowed = []trade.Side{trade.Each, trade.Alternate}
	}
	if !slices.Contains(allowed, side) {
		return denied("side", "found %q, allowed: %s", side, strings.Join(trade.Words(allowed), ", "))
	}
	res, _ := r.Screening.Result(it.Version)
	for _, s := range trade.BothSides {
		if (side == s || side == trade.Each) && res != nil && res.Sides[s] == trade.LeaveOut && !res.Overridden {
			return denied("side", "the %s does not suit this client", s)
		}
	}
	if res != nil && res.NeedsEase(side) && res.EaseFor(side) == "" {
		return denied(
			"side",
			"no ease makes %s suit on %s",
			v.Name,
			map[trade.Side]string{
				trade.Left: "the left", trade.Right: "the right", trade.Each: "both sides at once",
			}[side],
		)
	}
	c, err := r.candidate(it.Version)
	if err != nil {
		return err
	}
	old := it.Side
	it.Side, c.side = side, side
	switch d := v.Dose(r.doseSchool(), it.Step); {
	case v.SideMode != trade.Alternate || side == old:
		it.Dose = r.fitSides(&c, it.Dose)
	case side == trade.Each:
		it.Dose, _ = r.fitDose(&c, d.PerSide())
	default:
		it.Dose, _ = r.fitDose(&c, d)
	}
	return nil
}

// insert puts a version where it fits: in the block of its posture by effort, else before
// the first posture that the order school puts later, always before the closer.
func (r *Request) insert(p *Plan, slug string) error {
	c, err := r.candidate(slug)
	if err != nil {
		return err
	}
	if p.has(slug) {
		return denied("with", "%s is already in this session", c.v.Name)
	}
	it := r.item(&c, trade.Main, &c.doses[c.normal()])
	it.Why += " Added by hand."
	p.Items = slices.Insert(p.Items, r.spot(p, &it), it)
	return nil
}

// end puts an opener first or a closer last.
func (r *Request) end(p *Plan, e Edit) error {
	c, err := r.candidate(e.With)
	if err != nil {
		return err
	}
	role, at, allowed := trade.Open, 0, r.opens(e.With)
	if e.Op == "finish" {
		role, at, allowed = trade.Close, len(p.Items), r.calms(e.With)
	}
	if !allowed {
		return denied("with", "%s neither sets the breath nor calms down", c.v.Name)
	}
	if p.has(e.With) {
		return denied("with", "%s is already in this session", c.v.Name)
	}
	p.Items = slices.Insert(p.Items, at, r.item(&c, role, &c.doses[c.normal()]))
	return nil
}

func (r *Request) spot(p *Plan, it *Item) int {
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
		if x.Position != it.Position || x.place().ground() != it.place().ground() {
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
	rank := func(pos trade.Position) int { return r.rank(pos) }
	for i := first; i < last; i++ {
		if p.Items[i].Role == trade.Main && p.Items[i].Position != p.Items[0].Position &&
			rank(p.Items[i].Position) > rank(it.Position) {
			return i
		}
	}
	return last
}

// Swaps lists versions that could take an item's place, nearest purpose first.
func (r *Request) Swaps(p *Plan, item int) []string { return r.about(p).swaps(p, item) }

func (r *Request) swaps(p *Plan, item int) []string {
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
	for _, c := range r.candidates() {
		shared := table.Shared(v, c.v)
		if used[c.v.Slug] || shared == 0 || !bodyItem(c.v) {
			continue
		}
		if c.v.Position == v.Position {
			shared += 0.5
		}
		d := c.v.Effort - v.Effort
		shared -= 0.2 * float64(max(d, -d))
		if slices.ContainsFunc(v.Swaps, func(s catalogue.Swap) bool { return s.Version == c.v.Slug }) {
			shared += 2
		}
		cs = append(cs, cand{c.v.Slug, shared})
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
func (r *Request) Adoptable(p *Plan) []*catalogue.Version {
	var out []*catalogue.Version
	for _, c := range r.about(p).candidates() {
		if bodyItem(c.v) && !slices.ContainsFunc(p.Items, func(it Item) bool { return it.Version == c.v.Slug }) {
			out = append(out, c.v)
		}
	}
	return out
}

// SideChoices are the sides an item may be worked on, as things are for this client.
func (r *Request) SideChoices(it *Item) (out []trade.Side) {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok || v.SideMode == trade.None || it.Role == trade.Reset {
		return nil
	}
	for _, side := range []trade.Side{trade.Each, trade.Alternate, trade.Left, trade.Right} {
		try := *it
		if side == it.Side || r.setSide(&try, side) == nil {
			out = append(out, side)
		}
	}
	return out
}

// Waits says why a version may not come into a plan now, empty when it may.
func (r *Request) Waits(p *Plan, v *catalogue.Version) string { return r.about(p).waits(v) }

func (r *Request) waits(v *catalogue.Version) string {
	if _, err := r.candidate(v.Slug); err != nil {
		return Why(err)
	}
	return ""
}

// BestTask is the client's real task that a version matches best, nil when none is known.
func (r *Request) BestTask(v *catalogue.Version) *catalogue.Task { return r.bestTask(v) }

// Tried is the plan as it would be after a change; the plan itself stays as it is.
func (r *Request) Tried(p *Plan, e Edit) (*Plan, error) {
	q := *p
	q.Items = slices.Clone(p.Items)
	return &q, r.Apply(&q, e)
}
