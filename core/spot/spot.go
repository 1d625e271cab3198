// Package spot decides what follows from what happens in a session: what is eased, capped, left, put in, moved or
// left out, so that what comes after stays within every limit and the hour ends when it should.
package spot

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
)

// Facts are a session under way: its plan, whose items are those of the score, and what is known of the client.
type Facts struct {
	Request *facts.Request
	Plan    *plan.Plan
	Score   *score.Score
	Laid    score.Facts // what scores are made from
	Start   *float64    // the pain at the start
	Limit   float64     // the client's own limit of pain, 0 for none
	InClass bool        // the seconds are everybody's: who does less rests
	Now     float64     // where the clock is, where a mark comes in late: what ran since stays as it ran
}

// Change is what was asked for at a second of the score: one of record.Changes. Item is the one it is about, -1 for
// the one under way.
type Change struct {
	What    string
	At      float64
	Item    int
	Version string
	Ease    string
	Surface trade.Surface
	Seconds float64
}

// Outcome is what follows: a new revision of the score with the plan it belongs to, nil when nothing changes, and
// what is said of it.
type Outcome struct {
	Score *score.Score
	Plan  *plan.Plan
	Say   []string
	Ends  bool // the session ends, and the client is seen first
}

// Refusal is why something cannot be done now, in words for the instructor.
type Refusal struct{ Why string }

func (r *Refusal) Error() string { return r.Why }

func refuse(format string, a ...any) error { return &Refusal{fmt.Sprintf(format, a...)} }

// Happens is what follows from a mark: a sign that ends the session, a pain over the limit that ends the exercise, a
// symptom or a warning that caps the sets still to come.
func (f *Facts) Happens(m *record.Mark) *Outcome {
	felt := append(slices.Clone([]string(m.Felt)), m.Answers()...)
	if slices.ContainsFunc(felt, func(w string) bool { return slices.Contains(progress.Urgent, w) }) {
		return &Outcome{Ends: true, Say: []string{"The session ends here: the client is seen first."}}
	}
	it, at := f.Score.UnderWay(m.Pos), max(m.Pos, f.Now)
	if m.Item != nil && *m.Item < len(f.Score.Items) { // what is asked of one exercise is answered of it
		it = *m.Item
	}
	if it < 0 {
		return &Outcome{}
	}
	if m.Pain != nil && progress.StopRule(f.Start, f.Limit, *m.Pain) {
		return f.less(at, it, score.Cap{Why: fmt.Sprintf("pain %g", *m.Pain)})
	}
	if m.Kind == record.Change && m.What == "skip" && f.InClass {
		return f.less(at, it, score.Cap{Why: "left today"})
	}
	if m.Kind != record.Symptom && m.Kind != record.Warning {
		return &Outcome{}
	}
	sign := record.SignOf(f.Score, m)
	left := sign.Leaves(f.single(it))
	if f.Score.Items[it].Dose.Turn != "" {
		left = left.Even()
	}
	if !left.Binds() { // before it began: what is answered decides
		return &Outcome{}
	}
	return f.less(at, it, score.Cap{Sets: left.Sets, Reps: left.Reps, HoldS: left.HoldS, Why: sign.Words() + " today"})
}

// less does less of an exercise; a cap of nothing leaves it. Of one that is over there is nothing to do less of today.
func (f *Facts) less(at float64, item int, c score.Cap) *Outcome {
	if !f.Score.Remains(at, item) {
		return &Outcome{Say: []string{f.Score.Items[item].Name + " is over: it is kept for next time"}}
	}
	var next *score.Score
	said := ""
	switch {
	case f.InClass:
		next, said = f.Score.Rested(at, item, c)
	case c.Empty():
		next, said = f.Score.Left(at, item, c.Why)
	default:
		next, said = f.Score.Capped(at, item, c)
	}
	return &Outcome{Score: next, Plan: f.Plan, Say: say(said)}
}

func say(text ...string) []string {
	return slices.DeleteFunc(text, func(s string) bool { return s == "" })
}

// single tells that an item is one hold: what happens in it is a matter of seconds.
func (f *Facts) single(item int) bool {
	d := &f.Score.Items[item].Dose
	return d.TotalReps() <= d.SetCount() && (d.HoldS > 0 || d.HoldBreaths > 0)
}

// Apply is what follows from something asked for.
func (f *Facts) Apply(c Change) (*Outcome, error) {
	if !(c.At >= 0 && c.At <= f.Score.Seconds) {
		return nil, refuse("at: found %g, allowed: 0 to %g", c.At, f.Score.Seconds)
	}
	if len(f.Plan.Items) != len(f.Score.Items) {
		return nil, refuse("this session came without its plan: nothing can be changed in it")
	}
	if c.Item < 0 {
		c.Item = f.Score.UnderWay(c.At)
		if c.Item < 0 {
			c.Item = 0
		}
	}
	if c.Item >= len(f.Score.Items) {
		return nil, refuse("item: found %d, allowed: 0 to %d", c.Item, len(f.Score.Items)-1)
	}
	simple := func(next *score.Score, said string, err error) (*Outcome, error) {
		if err != nil {
			return nil, &Refusal{err.Error()}
		}
		return &Outcome{Score: next, Plan: f.Plan, Say: say(said)}, nil
	}
	switch c.What {
	case "repeat", "more":
		return simple(f.Score.OneMoreSet(c.At))
	case "minute":
		if c.Seconds == 0 {
			c.Seconds = 60
		}
		return simple(f.Score.Longer(c.At, c.Seconds))
	case "drop":
		return simple(f.Score.Without(c.At, c.Item))
	case "leave":
		if !f.Score.Remains(c.At, c.Item) {
			return nil, refuse("%s is left already, or over", f.Score.Items[c.Item].Name)
		}
		next, said := f.Score.Left(c.At, c.Item, "")
		return simple(next, said, nil)
	case "ease", "down", "place", "swap", "other-side":
		return f.instead(c)
	case "later", "next":
		return f.moved(c)
	case "add", "trial":
		return f.added(c)
	case "dose":
		return f.lessEach(c)
	}
	return nil, refuse("what: found %q, allowed: %s", c.What, strings.Join(record.Changes, ", "))
}

// instead does the rest of the exercise under way another way.
func (f *Facts) instead(c Change) (*Outcome, error) {
	if c.Item != f.Score.UnderWay(c.At) && c.Item != f.coming(c.At) {
		return nil, refuse("%s is not under way", f.Score.Items[c.Item].Name)
	}
	left, ok := f.remaining(c.Item, c.At)
	if !ok {
		return nil, refuse("nothing of %s is left", f.Score.Items[c.Item].Name)
	}
	p := *f.Plan
	p.Items = slices.Clone(f.Plan.Items)
	p.Items[c.Item] = left
	was := left.Version
	byHand := edit.Edit{Item: c.Item}
	switch c.What {
	case "down":
		byHand.Op = "easier"
	case "swap":
		byHand.Op, byHand.With = "swap", c.Version
	case "ease":
		if err := f.ease(&p.Items[c.Item], c.Ease); err != nil {
			return nil, err
		}
	case "place":
		if err := f.place(&p.Items[c.Item], c.Surface); err != nil {
			return nil, err
		}
	case "other-side":
		it := &p.Items[c.Item]
		order := it.SideOrder()
		if len(order) != 2 {
			return nil, refuse("%s has no other side to begin with", f.Score.Items[c.Item].Name)
		}
		it.First = order[1]
		if it.Dose.Extra != nil { // the side of the extra no longer goes first
			d := it.Dose
			d.Extra = nil
			it.Dose = d
		}
	}
	if byHand.Op != "" {
		if err := edit.Apply(f.Request, &p, byHand); err != nil {
			return nil, &Refusal{err.Error()}
		}
		it := &p.Items[c.Item]
		it.Dose, it.Side = shareOf(it, &left, f.Score.Breaths), sideOf(it, &left)
		it.Replaces = was
	}
	it := &p.Items[c.Item]
	if !appraise.Safe(f.Request, it) {
		return nil, refuse("%s does not suit this client as it stands", f.nameOf(it.Version))
	}
	words := map[string]string{
		"ease":       "with an ease: " + strings.ReplaceAll(c.Ease, "-", " "),
		"place":      "on the " + string(it.Surface),
		"other-side": string(it.First) + " first",
	}
	said := f.nameOf(it.Version)
	if w := words[c.What]; w != "" {
		said += ", " + w
	} else {
		said += " instead of " + f.nameOf(was)
	}
	return f.goOn(c, &p, []int{c.Item}, said)
}

// ease puts an ease on an exercise, when its props are there.
func (f *Facts) ease(it *plan.Item, slug string) error {
	v, ok := f.Request.Catalogue.Version(it.Version)
	if !ok || v.Ease(slug) == nil {
		return refuse("ease: found %q, %s has no such ease", slug, f.nameOf(it.Version))
	}
	if !f.owns(v.Ease(slug)) {
		return refuse("what %s needs is not here", strings.ReplaceAll(slug, "-", " "))
	}
	d := catalogue.Doing{Surface: it.Surface, Side: it.Side, Ease: slug}
	if !f.Request.Screener.Fits(v, d) {
		return refuse("%s with %s does not suit", v.Name, strings.ReplaceAll(slug, "-", " "))
	}
	it.Eases, it.EasedSide, it.Eased = []string{slug}, "", f.Request.Screener.Measures(v, d)
	it.EaseSays = v.EaseSide(d)
	return nil
}

func (f *Facts) owns(e *catalogue.Ease) bool {
	for _, one := range [][]string{e.Kit, e.Also} {
		if len(one) > 0 && !slices.ContainsFunc(one, f.Request.Screener.Owns) {
			return false
		}
	}
	return true
}

// place does an exercise elsewhere, where the client has that place and the exercise is made for it.
func (f *Facts) place(it *plan.Item, to trade.Surface) error {
	v, ok := f.Request.Catalogue.Version(it.Version)
	if !ok || !slices.Contains(v.Surfaces, to) || to == it.Surface {
		return refuse("surface: found %q, %s is not done there", to, f.nameOf(it.Version))
	}
	if !f.Request.Screener.Owns(string(to)) {
		return refuse("there is no %s here", to)
	}
	it.Surface, it.Kit = to, slices.Clone(v.KitAt(to))
	return nil
}

// slack is how much longer something done instead may last than what was left, seconds (product default).
const slack = 20

// shareOf is the dose of what is done instead: for as many sets as are left and about as long, never more than it has
// itself.
func shareOf(it, left *plan.Item, rate float64) (d dose.Dose) {
	d = it.Dose
	for d.Apart == nil && d.Seconds(rate, it.Sides()) > left.Dose.Seconds(rate, left.Sides())+slack {
		less, ok := d.FewerSets()
		if !ok {
			break
		}
		d = less
	}
	if n := left.Dose.SetCount(); n < d.SetCount() {
		d.Sets = n
		if len(d.Pattern) > n {
			d.Pattern = d.Pattern[len(d.Pattern)-n:]
		}
	}
	return d
}

// sideOf is the side of what is done instead: only what is still owed.
func sideOf(it, left *plan.Item) trade.Side {
	if it.Side == trade.Each && left.Side.One() {
		return left.Side
	}
	return it.Side
}

// moved does an item later, or next.
func (f *Facts) moved(c Change) (*Outcome, error) {
	p := *f.Plan
	p.Items = slices.Clone(f.Plan.Items)
	last := f.Score.LastRunning(c.At)
	if c.What == "next" {
		if c.Item <= last {
			return nil, refuse("%s was begun already", f.Score.Items[c.Item].Name)
		}
		it := p.Items[c.Item]
		it.Block = 0
		p.Items = slices.Insert(slices.Delete(p.Items, c.Item, c.Item+1), last+1, it)
		return f.goOn(c, &p, nil, f.nameOf(it.Version)+" comes next")
	}
	left, ok := f.remaining(c.Item, c.At)
	if !ok {
		return nil, refuse("nothing of %s is left", f.Score.Items[c.Item].Name)
	}
	end := len(p.Items)
	for end > 0 && (p.Items[end-1].Role == trade.Close || p.Items[end-1].Role == trade.Reset) {
		end--
	}
	if !f.before(c.Item, last, end) {
		return nil, refuse("%s is the last before the close", f.Score.Items[c.Item].Name)
	}
	left.Block = 0
	at := max(end, last+1)
	p.Items = slices.Insert(p.Items, at, left)
	if c.Item > last { // not begun: it moves as a whole
		p.Items = slices.Delete(p.Items, c.Item, c.Item+1)
	}
	return f.goOn(c, &p, []int{}, f.nameOf(left.Version)+" comes later")
}

// before tells that something comes after an item and before the close.
func (f *Facts) before(item, last, end int) bool {
	if item <= last { // what is done together with it comes to its end first
		item = last
	}
	return item < end-1
}

// added puts a version in after the exercise under way; a trial is one set of the next rung, easily, and decides
// nothing.
func (f *Facts) added(c Change) (*Outcome, error) {
	p := *f.Plan
	p.Items = slices.Clone(f.Plan.Items)
	last := f.Score.LastRunning(c.At)
	version := c.Version
	if c.What == "trial" {
		v, ok := f.Request.Catalogue.Version(f.Plan.Items[c.Item].Version)
		if !ok || f.Request.Catalogue.Next(v) == nil {
			return nil, refuse("%s has no harder rung", f.Score.Items[c.Item].Name)
		}
		next := f.Request.Catalogue.Next(v)
		if why := edit.Waits(f.Request, f.Plan, next); why != "" {
			return nil, refuse("%s waits: %s", next.Name, why)
		}
		version = next.Slug
	}
	if slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Version == version }) {
		return nil, refuse("%s is in this session already", f.nameOf(version))
	}
	if err := edit.Apply(f.Request, &p, edit.Edit{Op: "add", With: version}); err != nil {
		return nil, &Refusal{err.Error()}
	}
	i := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Version == version })
	it := p.Items[i]
	p.Items = slices.Clone(f.Plan.Items)
	it.Block = 0
	said := f.nameOf(version) + " is put in"
	if c.What == "trial" {
		it.Trial = true
		d := it.Dose
		d.Sets, d.Extra = 1, nil
		if len(d.Pattern) > 0 {
			d.Pattern = d.Pattern[:1]
		}
		it.Dose = d
		said = f.nameOf(version) + " is tried, once: it decides nothing"
	}
	p.Items = slices.Insert(p.Items, last+1, it)
	return f.goOn(c, &p, []int{last + 1}, said)
}

// lessEach takes a set from everything still to come that has more than one, but the close.
func (f *Facts) lessEach(c Change) (*Outcome, error) {
	p := *f.Plan
	p.Items = slices.Clone(f.Plan.Items)
	n := 0
	for i := f.Score.LastRunning(c.At) + 1; i < len(p.Items); i++ {
		if it := &p.Items[i]; it.Role == trade.Main && it.Dose.Apart == nil {
			if d, ok := it.Dose.FewerSets(); ok {
				it.Dose, n = d, n+1
			}
		}
	}
	if n == 0 {
		return nil, refuse("nothing still to come has more than one set")
	}
	return f.goOn(c, &p, nil, fmt.Sprintf("a set less of %d exercises", n))
}

// goOn makes the new rest: of the exercise under way what is left when its place in the plan was changed, else all of
// it, then what follows. It ends when the session would have ended; what gives way is said. Kept are the items that
// must not give way.
func (f *Facts) goOn(c Change, p *plan.Plan, kept []int, said string) (*Outcome, error) {
	last := f.Score.LastRunning(c.At)
	under := f.Score.UnderWay(c.At)
	finish := !slices.Contains(kept, under) && !(c.What == "later" && c.Item == under)
	var rest []plan.Item
	if !finish { // what is left of everything begun with it
		for i := 0; i <= last; i++ {
			if i == c.Item && c.What != "later" {
				rest = append(rest, p.Items[i])
				continue
			}
			if i != c.Item && f.Score.Together(i, c.Item) {
				if left, ok := f.remaining(i, c.At); ok {
					rest = append(rest, left)
				}
			}
		}
	}
	rest = append(rest, p.Items[last+1:]...)
	f.explained(rest, c.At)
	out, gave, err := f.inTime(c, rest, under, finish)
	if err != nil {
		return nil, err
	}
	next, err := score.Changed(f.Score, c.At, c.What, score.Next{Finish: finish, Items: out}, f.Laid)
	if err != nil {
		return nil, &Refusal{err.Error()}
	}
	if err := f.did(c, next); err != nil {
		return nil, err
	}
	made := *f.Plan
	made.Items = append(slices.Clone(f.Plan.Items[:min(last+1, len(f.Plan.Items))]), out...)
	if len(made.Items) != len(next.Items) {
		return nil, fmt.Errorf("the plan has %d items, its score %d", len(made.Items), len(next.Items))
	}
	text := []string{said}
	for _, g := range gave {
		text = append(text, "so that it ends in time, "+g)
	}
	if late := next.Seconds - f.Score.Seconds; late > 30 {
		text = append(text, fmt.Sprintf("it ends %d s later", int(late)))
	}
	return &Outcome{Score: next, Plan: &made, Say: text}, nil
}

// explained shortens the set-up of what was explained in this session already: what is left of the explaining, and at
// least what a known exercise takes.
func (f *Facts) explained(rest []plan.Item, at float64) {
	ran, asked := map[string]float64{}, map[string]float64{}
	for i := range f.Score.Segments {
		g := &f.Score.Segments[i]
		if g.Kind != score.Setup {
			continue
		}
		version := f.Score.Items[g.Item].Version
		if heard := min(g.End, at) - g.Start; heard > 0 {
			ran[version] += heard
			asked[version] += g.End - g.Start
		}
	}
	known := catalogue.Explain(catalogue.Familiar)
	for i := range rest {
		if it := &rest[i]; ran[it.Version] > 0 {
			left := max(known, int(math.Ceil(asked[it.Version]-ran[it.Version])))
			it.Dose.SetupS = min(it.Dose.SetupS, left)
		}
	}
}

// did holds what a change says against the score it made: what was asked for is there, and where it was asked for.
func (f *Facts) did(c Change, next *score.Score) error {
	var coming []int // the items still to come, in their order; one under way is among them
	for i := range next.Segments {
		g := &next.Segments[i]
		if g.Kind == score.Work && g.End > c.At && !slices.Contains(coming, g.Item) {
			coming = append(coming, g.Item)
		}
	}
	at := func(is func(*score.Item) bool) int {
		return slices.IndexFunc(coming, func(i int) bool { return is(&next.Items[i]) })
	}
	name := func(version string) func(*score.Item) bool {
		return func(it *score.Item) bool { return it.Version == version }
	}
	was := &f.Score.Items[max(0, min(c.Item, len(f.Score.Items)-1))]
	where := at(name(was.Version))
	running := -1
	if k := f.Score.UnderWay(c.At); k >= 0 {
		running = at(name(f.Score.Items[k].Version))
	}
	switch c.What {
	case "later":
		if where < 1 {
			return refuse("%s cannot be done later here", was.Name)
		}
	case "next":
		if where < 0 || where > running+1 {
			return refuse("%s cannot come next here", was.Name)
		}
	case "swap", "down":
		if where >= 0 || c.What == "swap" && at(name(c.Version)) < 0 {
			return refuse("%s cannot be taken in place of %s here", f.nameOf(c.Version), was.Name)
		}
	case "add", "trial":
		if c.Version != "" && at(name(c.Version)) < 0 {
			return refuse("%s finds no place here", f.nameOf(c.Version))
		}
	case "ease":
		if where < 0 || !slices.Contains(next.Items[coming[where]].Eases, c.Ease) {
			return refuse("%s cannot be eased so here", was.Name)
		}
	case "place":
		if where < 0 || next.Items[coming[where]].Surface != c.Surface {
			return refuse("%s cannot be done there", was.Name)
		}
	case "dose":
		if next.Seconds >= f.Score.Seconds {
			return refuse("nothing becomes shorter by that")
		}
	}
	return nil
}

// inTime makes what follows fit into what is left of the hour; what was just asked for does not give way.
func (f *Facts) inTime(c Change, rest []plan.Item, under int, finish bool) (out []plan.Item, gave []string, err error) {
	locked := make([]bool, len(rest))
	for i := range rest {
		locked[i] = rest[i].Locked
		if rest[i].Replaces != "" || rest[i].Trial || c.Version != "" && rest[i].Version == c.Version || !finish && i == 0 {
			rest[i].Locked = true
		}
	}
	from := plan.Place{Position: f.Score.Items[max(0, under)].Position, Surface: f.Score.Items[max(0, under)].Surface}
	at := c.At
	if finish {
		at = f.Score.EndOf(under, c.At)
	}
	out, gave, _ = score.KeepEnd(rest, from, int(f.Score.Seconds-at), f.Laid)
	for i := range out {
		out[i].Locked = false
		for k := range rest {
			if rest[k].Version == out[i].Version && rest[k].Side == out[i].Side {
				out[i].Locked = locked[k]
			}
		}
		if out[i].Role != trade.Reset && !appraise.Safe(f.Request, &out[i]) {
			return nil, nil, refuse("%s does not suit this client now", f.nameOf(out[i].Version))
		}
	}
	return out, gave, nil
}

// coming is the item that comes next while the way to it is under way, -1 when none does.
func (f *Facts) coming(at float64) int {
	if len(f.Score.Segments) == 0 {
		return -1
	}
	return f.Score.Segments[f.Score.Running(at)].Item
}

// remaining is what is left of an item: the sets that are not over, on the sides that are still owed. The set under
// way counts as left.
func (f *Facts) remaining(item int, at float64) (it plan.Item, ok bool) {
	it = f.Plan.Items[item]
	open := map[trade.Side]map[int]bool{}
	for i := range f.Score.Segments {
		g := &f.Score.Segments[i]
		if g.Item != item || g.Kind != score.Work || g.Extra || g.End <= at {
			continue
		}
		side := g.Side
		if f.Score.Items[item].Side == trade.Alternate {
			side = trade.Alternate
		}
		if open[side] == nil {
			open[side] = map[int]bool{}
		}
		open[side][g.Set] = true
	}
	sets := 0
	for _, s := range open {
		sets = max(sets, len(s))
	}
	if sets == 0 {
		return it, false
	}
	d := it.Dose
	if sets < d.SetCount() {
		d.Sets = sets
		if len(d.Pattern) > sets {
			d.Pattern = d.Pattern[len(d.Pattern)-sets:]
		}
		d.Extra = nil
	}
	if c := f.Score.Items[item].Cap; c != nil { // what today has shown holds for the rest
		if c.Reps > 0 {
			d = d.CapReps(c.Reps)
		}
		if c.HoldS > 0 {
			d, _ = d.CapHold(c.HoldS, f.Score.Breaths)
		}
		d.Extra = nil
	}
	it.Dose = d
	if it.Side == trade.Each && len(open) == 1 {
		for s := range open {
			it.Side, it.First, it.Block, it.TurnS = s, "", 0, 0
		}
		if it.Dose.Apart != nil {
			it.Dose = it.Dose.Apart[map[trade.Side]int{trade.Left: 0, trade.Right: 1}[it.Side]]
			it.DoseLeft, it.DoseRight = nil, nil
		}
	}
	return it, true
}

func (f *Facts) nameOf(slug string) string {
	if v, ok := f.Request.Catalogue.Version(slug); ok {
		return v.Name
	}
	return slug
}

// Anew lays out what follows again, from facts that have changed: the exercise under way is finished first.
func (f *Facts) Anew(at float64, because string) (*Outcome, error) {
	if len(f.Plan.Items) != len(f.Score.Items) {
		return nil, refuse("this session came without its plan: nothing can be changed in it")
	}
	last := f.Score.LastRunning(at)
	rest := slices.Clone(f.Plan.Items[min(last+1, len(f.Plan.Items)):])
	next, err := score.Changed(f.Score, at, because, score.Next{Finish: true, Items: rest}, f.Laid)
	if err != nil {
		return nil, &Refusal{err.Error()}
	}
	return &Outcome{Score: next, Plan: f.Plan}, nil
}

// Refitted fits what is still to come to what is known now: sides, extras and doses follow, what no longer suits is
// left out, what its kind waited for comes in, and the end is kept.
func (f *Facts) Refitted(at float64, because string) (*Outcome, error) {
	if len(f.Plan.Items) != len(f.Score.Items) {
		return nil, refuse("this session came without its plan: nothing can be changed in it")
	}
	p := *f.Plan
	last := f.Score.LastRunning(at)
	p.Items = slices.Clone(f.Plan.Items[:min(last+1, len(f.Plan.Items))])
	var said []string
	rest, owed := f.Request.Owed(f.Plan, last+1)
	for i := range owed {
		one := f.nameOf(owed[i].Version) + " comes in"
		if v, ok := f.Request.Catalogue.Version(owed[i].Version); ok && owed[i].Side.One() && v.SaySide(owed[i].Side) != "" {
			one += ": " + strings.TrimSuffix(v.SaySide(owed[i].Side), ".")
		}
		said = append(said, one)
	}
	for _, it := range rest {
		own := it
		if own.Role != trade.Reset {
			changes, err := edit.Fit(f.Request, &own)
			if err != nil || !appraise.Safe(f.Request, &own) {
				said = append(said, f.nameOf(own.Version)+" is left out")
				continue
			}
			for _, ch := range changes {
				said = append(said, ch.Name+": "+ch.To)
			}
		}
		p.Items = append(p.Items, own)
	}
	if len(said) == 0 {
		return &Outcome{Say: []string{"kept for today; the rest stays as it is"}}, nil
	}
	c := Change{What: because, At: at, Item: -1}
	if len(owed) > 0 {
		c.Version = owed[0].Version // does not give way itself
	}
	return f.goOn(c, &p, nil, strings.Join(said, "; "))
}

// Checked takes what was compared into what holds for the day.
func Checked(t *intake.Today, check string, value json.RawMessage) error {
	var side trade.Side
	var hours []int
	switch check {
	case "sij_side":
		if json.Unmarshal(value, &side) != nil || side != trade.Even && !side.One() {
			return refuse("sij_side: allowed: left, right, even")
		}
		t.SIJSide = side
	case "tight_turn":
		if json.Unmarshal(value, &side) != nil || side != "" && !side.One() {
			return refuse("tight_turn: allowed: left, right, or nothing")
		}
		t.TightTurn = side
	case "clock_hours":
		if json.Unmarshal(value, &hours) != nil || len(hours) > 12 ||
			slices.ContainsFunc(hours, func(h int) bool { return h < 1 || h > 12 }) {
			return refuse("clock_hours: allowed: hours from 1 to 12")
		}
		slices.Sort(hours)
		t.ClockWeak = slices.Compact(hours)
	default:
		return refuse("check: found %q, allowed: sij_side, tight_turn, clock_hours", check)
	}
	return nil
}
