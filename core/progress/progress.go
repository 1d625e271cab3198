// Package progress decides from the log what each exercise does next time: up, stay,
// cap, down, rest or refer, always with the rule that fired and what would change it.
package progress

import (
	"cmp"
	"fmt"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/trade"
)

// Decision is what one branch of a family does next.
type Decision struct {
	Family    string         `json:"family"`
	Version   string         `json:"version"`
	Decision  trade.Decision `json:"decision"`
	ToVersion string         `json:"to_version"`
	Instead   string         `json:"instead,omitempty"` // what replaces a version that no longer suits
	Dose      dose.Dose      `json:"dose"`
	Step      int            `json:"step"`
	Extra     trade.Side     `json:"extra_side,omitempty"` // the lagging side gets more
	Rule      string         `json:"rule"`
	Because   string         `json:"because"`
	Change    string         `json:"would_change,omitempty"`
}

// Whole is what holds for the whole client today: refer or rest.
type Whole struct {
	Decision trade.Decision `json:"decision"`
	Rule     string         `json:"rule"`
	Because  string         `json:"because"`
	Change   string         `json:"would_change,omitempty"`
}

// Change is something of a client that changed: a condition, an operation, a limit.
type Change struct {
	Day  trade.Day
	What string
}

// Input is what decisions depend on.
type Input struct {
	Catalogue *catalogue.Catalogue
	School    string
	SidePlank string // the school of side planks
	Breaths   float64
	Log       Log
	Today     trade.Day
	Suits     func(slug string) bool // may the client do this version now
	// Unread tells whether a version must still be held against a clinician's words.
	Unread func(slug string) bool
	// Instead is what screening puts in the place of a version that does not suit now, the nearest first.
	Instead   func(slug string) []string
	StopAbove float64  // the client's pain limit, 0 for the default
	PainNow   *float64 // pain now, where it was asked
	Refer     string   // why the client must see a clinician today, empty when not
	EffortCap int      // the hardest effort for this client, 0 for none
	Levels    map[string]string
	Changed   []Change
	// Cleared tells whether a clinician has cleared a red flag raised on a day; nobody has when nil.
	Cleared func(flag string, since trade.Day) bool
	// Cap fits a dose to what the client's conditions allow, and says why; nothing is changed
	// when nil.
	Cap func(v *catalogue.Version, d dose.Dose) (capped dose.Dose, why string)
}

// Decide says what holds for the whole client, nil when nothing does, and gives one decision
// per branch that appears in the log, in catalogue order.
func Decide(in Input) (*Whole, []Decision) {
	sessions := in.ordered()
	whole, stay := in.everyone(sessions)
	var out []Decision
	for _, f := range in.Catalogue.Families {
		for b := range f.Branches {
			if d, ok := in.branch(f, b, sessions, whole, stay); ok {
				out = append(out, d)
			}
		}
	}
	return whole, out
}

// ForEveryone says what holds for the whole client today, nil when nothing does: what a list of
// clients shows.
func ForEveryone(in Input) *Whole {
	whole, _ := in.everyone(in.ordered())
	return whole
}

func (in *Input) everyone(sessions []Session) (whole *Whole, stay hit) {
	l := &look{in: in, sessions: sessions, window: sessions[max(0, len(sessions)-2):]}
	rows := seen(l, func(s *Stopper) bool { return s.Who == everyone })
	for _, strict := range []trade.Decision{trade.Refer, trade.Rest} {
		if hit, ok := rows[strict]; ok {
			return &Whole{strict, hit.rule, hit.why, hit.change}, rows[trade.Stay]
		}
	}
	return nil, rows[trade.Stay]
}

// ordered are the sessions by day; within one the items stand by rung and side, for their order
// says nothing.
func (in *Input) ordered() []Session {
	sessions := slices.Clone(in.Log.Sessions)
	slices.SortStableFunc(sessions, func(a, b Session) int { return a.Date.Since(b.Date) })
	rung := func(it *Item) int {
		if v, ok := in.Catalogue.Version(it.Version); ok {
			return v.Rung
		}
		return -1
	}
	for i := range sessions {
		items := slices.Clone(sessions[i].Items)
		slices.SortStableFunc(items, func(a, b Item) int {
			if n := cmp.Or(cmp.Compare(rung(&a), rung(&b)), cmp.Compare(a.Version, b.Version), cmp.Compare(a.Side, b.Side),
				cmp.Compare(a.Target.volume(), b.Target.volume())); n != 0 {
				return n
			}
			return cmp.Compare(a.text(), b.text()) // seldom: it costs much
		})
		sessions[i].Items = items
	}
	return sessions
}

// turn is one session's work on a branch: what counts, and what else was tried or broken off.
type turn struct {
	session Session
	items   []Item
	tried   []Item // trials, and what ended by choice without a sign: they count for nothing
}

// all are the items with those that do not count.
func (t *turn) all() []Item { return append(slices.Clone(t.items), t.tried...) }

// turns are the sessions' work on a branch, oldest first.
func (in *Input) turns(f *catalogue.Family, branch int, sessions []Session) (out []turn) {
	here := func(slug string) bool {
		v, ok := in.Catalogue.Version(slug)
		return ok && v.Family == f.Name && v.Branch == branch
	}
	for i := range sessions {
		s := &sessions[i]
		t := turn{session: *s}
		for k := range s.Items {
			it := &s.Items[k]
			for _, tr := range it.Tried { // a layer tried on the way is a trial of its own branch
				slug := cmp.Or(tr.Version, it.Version)
				if here(slug) {
					t.tried = append(
						t.tried,
						Item{
							Version:    slug,
							Side:       it.Side,
							Load:       tr.Load,
							WarningRep: tr.WarningRep,
							SymptomRep: tr.SymptomRep,
							SymptomS:   tr.SymptomS,
							Felt:       tr.Felt,
							Trial:      true,
						},
					)
				}
			}
			switch {
			case !here(it.Version), !it.Begun() && !it.signed(s): // never reached is nothing done, and nothing tried
			case it.counts(s):
				t.items = append(t.items, *it)
			default:
				t.tried = append(t.tried, *it)
			}
		}
		if t.items != nil || t.tried != nil {
			out = append(out, t)
		}
	}
	return out
}

func (in *Input) branch(f *catalogue.Family, branch int, sessions []Session, whole *Whole, stay hit) (Decision, bool) {
	turns := in.turns(f, branch, sessions)
	last := -1             // the last turn that counts
	plain, before := -1, 0 // the last two that would count had no sign come: a sign widens the window, it never narrows it
	for i, t := range turns {
		if t.items == nil {
			continue
		}
		last = i
		if slices.ContainsFunc(t.items, func(it Item) bool { return it.plain(&t.session) }) {
			plain, before = i, max(0, plain)
		}
	}
	if last < 0 {
		return Decision{}, false
	}
	plain = max(0, plain) // where every one was broken off, all of them
	done := turns[last]
	v, _ := in.Catalogue.Version(done.items[len(done.items)-1].Version)
	step := in.step(v, done.items)
	d := Decision{Family: f.Name, Version: v.Slug, ToVersion: v.Slug, Step: step, Dose: in.own(v, step, turns, last)}
	if whole != nil {
		d.Decision, d.Rule, d.Because, d.Change = whole.Decision, whole.Rule, whole.Because, whole.Change
	} else {
		from := slices.IndexFunc(sessions, func(s Session) bool { return !s.Date.Before(turns[before].session.Date) })
		l := &look{in, sessions, sessions[from:], turns[before:], turns[plain:]}
		in.decide(&d, v, turns, last, l, stay)
	}
	if ladder := v.Dose(in.School, step); d.ToVersion == v.Slug && (d.Decision == trade.Stay || d.Decision == trade.Up) &&
		amountOf(&d.Dose) != amountOf(&ladder) && d.Step == step {
		d.Because += "; kept: your own step, " + d.Dose.Words()
	}
	if to, ok := in.Catalogue.Version(d.ToVersion); ok && in.Cap != nil {
		why := ""
		if d.Dose, why = in.Cap(to, d.Dose); why != "" {
			d.Because += "; " + why
		}
	}
	return d, true
}

// decide reads the last two turns that count, everything tried since, and what came up in any
// session since the first of the two. Stay is what makes the whole client stay.
func (in *Input) decide(d *Decision, v *catalogue.Version, turns []turn, last int, l *look, stay hit) {
	say := func(decision trade.Decision, rule, change, format string, a ...any) {
		d.Decision, d.Rule, d.Change, d.Because = decision, rule, change, fmt.Sprintf(format, a...)
	}
	done := turns[last]
	own := seen(l, func(*Stopper) bool { return true })
	switch {
	case own[trade.Refer].rule != "":
		say(trade.Refer, own[trade.Refer].rule, own[trade.Refer].change, "%s", own[trade.Refer].why)
	case own[trade.Rest].rule != "":
		say(trade.Rest, own[trade.Rest].rule, own[trade.Rest].change, "%s", own[trade.Rest].why)
	case own[trade.Down].rule != "":
		in.rungDown(d, v)
		say(trade.Down, own[trade.Down].rule, own[trade.Down].change, "%s", own[trade.Down].why)
		in.keepCap(d, v, done)
	case in.absent(d, v, turns, l.sessions, say):
		in.keepCap(d, v, done)
	case !in.Suits(v.Slug):
		in.replaced(d, v, say)
		in.keepCap(d, v, done)
	case in.capped(d, v, done, say):
	default:
		if side, why := lagging(done); why != "" {
			d.Extra = side
			say(trade.Stay, "stay: form ended the set or one side lags", clean2, "%s", why)
			return
		}
		for _, hit := range []hit{own[trade.Stay], stay} {
			if hit.rule != "" {
				say(trade.Stay, hit.rule, hit.change, "%s", hit.why)
				return
			}
		}
		for i := range done.items {
			if w := done.items[i].Next; w != "" {
				say(
					trade.Stay,
					"stay: the instructor's word",
					"another word, or the next session of it",
					"%s",
					map[string]string{SameAgain: "the same again was asked for", NotAgain: "it is not to be done again"}[w],
				)
				return
			}
		}
		in.up(d, v, turns, say)
	}
}

type sayer func(decision trade.Decision, rule, change, format string, a ...any)

// replaced is for a version that no longer suits: what stands in for it keeps its main aim.
func (in *Input) replaced(d *Decision, v *catalogue.Version, say sayer) {
	const rule, change = "instead: it no longer suits", "a verdict that lets it in again"
	to := in.standIn(v)
	if to == nil {
		d.Step, d.Dose = 0, v.Dose(in.School, 0)
		say(
			trade.Instead,
			rule,
			change,
			"%s does not suit this client now and is left out; nothing here keeps its purpose",
			v.Name,
		)
		return
	}
	d.ToVersion, d.Instead, d.Step, d.Dose = to.Slug, to.Slug, 0, to.Dose(in.School, 0)
	say(trade.Instead, rule, change, "%s does not suit this client now; %s does", v.Name, to.Name)
}

// standIn is the nearest easier rung that suits and keeps the main aim of a version, else what screening or its entry
// puts in its place and does, no harder; nil where nothing is.
func (in *Input) standIn(v *catalogue.Version) *catalogue.Version {
	keeps := func(w *catalogue.Version) bool { return in.Suits(w.Slug) && catalogue.Has(w.MainAims, v.MainAims[0]) }
	for p := in.Catalogue.Previous(v); p != nil; p = in.Catalogue.Previous(p) {
		if keeps(p) {
			return p
		}
	}
	var others []string
	if in.Instead != nil {
		others = in.Instead(v.Slug)
	}
	for _, s := range v.Swaps {
		others = append(others, s.Version)
	}
	for _, slug := range others {
		if w, ok := in.Catalogue.Version(slug); ok && w.Slug != v.Slug && w.Effort <= v.Effort && keeps(w) {
			return w
		}
	}
	return nil
}

// step finds where on the version's dose ladder the largest target of the version lay.
func (in *Input) step(v *catalogue.Version, items []Item) int {
	steps, _ := v.Steps(in.School)
	best := 0
	for i := range items {
		it := &items[i]
		if it.Version != v.Slug {
			continue
		}
		target := it.Target
		if v.SideMode == trade.Alternate && it.Side.One() {
			target.Reps *= 2 // done one side after the other, the ladder counts both together
		}
		for k, s := range steps {
			vol := s.TotalReps() * max(1, s.HoldS+s.HoldBreaths+s.HoldCounts)
			if target.volume() >= vol || target.HoldBreaths > 0 && s.HoldS > 0 && k == 0 {
				best = max(best, k)
			}
		}
	}
	return best
}

func (in *Input) rungDown(d *Decision, v *catalogue.Version) {
	d.Step, d.Dose = 0, v.Dose(in.School, 0)
	if p := in.Catalogue.Previous(v); p != nil && in.Suits(p.Slug) {
		d.ToVersion, d.Dose = p.Slug, p.Dose(in.School, 0)
		return
	}
	if !in.Suits(v.Slug) {
		in.replaced(d, v, func(trade.Decision, string, string, string, ...any) {})
	}
}

// absent counts the days since it was last practised, at home too.
func (in *Input) absent(d *Decision, v *catalogue.Version, turns []turn, sessions []Session, say sayer) bool {
	at := turns[0].session.Date
	for i := range turns { // what was left half way was practised too
		t := &turns[i]
		if slices.ContainsFunc(t.all(), func(it Item) bool { a := it.amount(); return a.doneOf(it.Target) > 0 }) {
			at = later(at, t.session.practised())
		}
	}
	for i := range sessions {
		s := &sessions[i]
		if s.Home > 0 {
			at = later(at, s.Date)
		}
		if p := s.practised(); p.After(s.Date) {
			at = later(at, p)
		}
	}
	days := in.Today.Since(at)
	switch {
	case at.IsZero() || days < absenceStep:
		return false
	case !in.Suits(v.Slug):
		in.replaced(d, v, say) // its cap is kept by whoever asked
		return true
	case days < absenceRung:
		own := amountOf(&d.Dose)
		d.Step = max(0, d.Step-1)
		if d.Dose = v.Dose(in.School, d.Step); comparable(&d.Dose, own) {
			d.Dose = put(d.Dose, own.least(amountOf(&d.Dose)))
		}
		say(trade.Down, "down: one dose step after an absence", clean2, "%d days since it was last done", days)
	case days < absenceTest:
		in.rungDown(d, v)
		say(trade.Down, "down: one rung after 4 weeks", clean2, "%d days since it was last done", days)
	default:
		in.rungDown(d, v)
		say(
			trade.Down,
			"down: re-test after 8 weeks",
			"new tests, and "+clean2,
			"%d days since it was last done; test before building up again",
			days,
		)
	}
	return true
}

func later(a, b trade.Day) trade.Day {
	if b.After(a) {
		return b
	}
	return a
}

// capped limits the next target to what the signs of the last turn leave; where nothing of it was clean an easier rung
// takes its place. A sign in a trial, or in the session before a clean one, caps nothing and permits no step up.
func (in *Input) capped(d *Decision, v *catalogue.Version, done turn, say sayer) bool {
	c, rule, why := in.lastClean(v, done)
	switch {
	case rule == "":
		return false
	case c.Nothing && in.easier(d, v):
		say(trade.Down, "down: nothing of it was clean", clean2, "%s", why)
	case c.Nothing && in.standIn(v) != nil:
		to := in.standIn(v)
		d.ToVersion, d.Instead, d.Step, d.Dose = to.Slug, to.Slug, 0, to.Dose(in.School, 0)
		say(trade.Instead, "instead: nothing of it was clean", clean2, "%s; %s keeps its purpose", why, to.Name)
	default:
		in.within(d, v, done, c)
		say(trade.Cap, rule, clean2, "%s", why)
	}
	return true
}

// easier takes the nearest rung below that suits, at its lowest dose.
func (in *Input) easier(d *Decision, v *catalogue.Version) bool {
	for p := in.Catalogue.Previous(v); p != nil; p = in.Catalogue.Previous(p) {
		if in.Suits(p.Slug) {
			d.ToVersion, d.Step, d.Dose = p.Slug, 0, p.Dose(in.School, 0)
			return true
		}
	}
	return false
}

// nothing is the least of an exercise of which nothing was clean and which nothing easier stands in for.
var nothing = Cap{Sets: 1, Reps: 1, HoldS: LeastHold}

// within keeps a dose at what signs leave; the measures that they do not bind stay as they were done.
func (in *Input) within(d *Decision, v *catalogue.Version, done turn, c Cap) {
	if c.Nothing {
		d.Step, d.Dose, c = 0, v.Dose(in.School, 0), c.With(nothing)
	} else if a, ok := asDone(v, done, c); ok {
		d.Dose = put(d.Dose, a)
	}
	d.Dose = c.Of(d.Dose, in.Breaths)
}

// keepCap keeps what a sign capped where a stricter decision leaves the version as it is.
func (in *Input) keepCap(d *Decision, v *catalogue.Version, done turn) {
	if d.ToVersion != v.Slug {
		return
	}
	c, rule, why := in.lastClean(v, done)
	if rule == "" {
		return
	}
	d.Step, d.Dose = 0, v.Dose(in.School, 0)
	if c.Nothing {
		c = c.With(nothing)
	} else if a, ok := asDone(v, done, c); ok {
		d.Dose = put(d.Dose, a.least(amountOf(&d.Dose)))
	}
	d.Dose = c.Of(d.Dose, in.Breaths)
	d.Because += "; " + why
}

// lagging explains why the target was not reached with form, and which side is behind.
func lagging(t turn) (side trade.Side, why string) {
	short := map[trade.Side]bool{}
	for i := range t.items {
		it := &t.items[i]
		away := it.Confirmed != nil && !*it.Confirmed
		if it.EndedBy == ByForm || it.FormLostS != nil || it.EndedBy == ByBreath || away || !it.Whole() {
			short[it.Side] = true
			how := "it ended before the target"
			switch {
			case (it.EndedBy == ByForm || it.FormLostS != nil) && it.Whole():
				how = "form was lost at the end of it"
			case it.EndedBy == ByForm || it.FormLostS != nil:
				how = "form was lost before the target"
			case it.EndedBy == ByBreath:
				how = "the breath was held before the target"
			case away:
				how = "nobody confirmed that it was done"
			}
			if why = how; !it.Whole() {
				why = fmt.Sprintf("%s: %s of %s", how, it.amount().words(it.Target), it.Target.words(it.Target))
			}
		}
	}
	if len(short) == 1 && len(t.items) > 1 {
		for s := range short {
			if s.One() {
				return s, "the " + string(s) + " side lags and sets the level"
			}
		}
	}
	return "", why
}

// settings tells in which setting a version was done in a turn.
func settings(v *catalogue.Version, t *turn) (out []string) {
	for i := range t.items {
		if it := &t.items[i]; it.Version == v.Slug && !slices.Contains(out, string(it.Side)+it.setting()) {
			out = append(out, string(it.Side)+it.setting())
		}
	}
	slices.Sort(out)
	return out
}

func (in *Input) up(d *Decision, v *catalogue.Version, all []turn, say sayer) {
	if in.Unread != nil && in.Unread(v.Slug) {
		say(
			trade.Stay,
			"stay: not held against the clinician's limits yet",
			"confirming "+v.Name+" against the limits",
			"%s must be held against the clinician's limits first",
			v.Name,
		)
		return
	}
	last := in.twice(d, v, all, say)
	if last == nil {
		return
	}
	if next, step, ok := in.above(v, d.Step, d.Dose); ok {
		d.Dose, d.Step = next, step
		say(
			trade.Up,
			"up: the next dose step",
			"a sign, a fault or pain before then",
			"the target was reached with form in two sessions running",
		)
		return
	}
	in.nextRung(d, v, last, say)
}

// twice is the last turn of a version when the target was reached in it and in the one before, cleanly, on
// days near enough and in the same setting; nil when it was not, which is said.
func (in *Input) twice(d *Decision, v *catalogue.Version, all []turn, say sayer) *turn {
	const twice, oneMore = "stay: the target must be reached in two sessions running", "one more clean session"
	var turns []turn
	for _, t := range all {
		if t.items != nil {
			turns = append(turns, t)
		}
	}
	if len(turns) < 2 {
		say(trade.Stay, twice, oneMore, "reached once so far; one more clean session and it goes up")
		return nil
	}
	a, b := &turns[len(turns)-2], &turns[len(turns)-1]
	for _, t := range []*turn{a, b} {
		did := slices.ContainsFunc(t.items, func(it Item) bool { return it.Version == v.Slug })
		if _, why := lagging(*t); why != "" || !did || in.step(v, t.items) < d.Step {
			change := clean2
			if t == a {
				change = oneMore
			}
			say(trade.Stay, twice, change, "the session of %s did not reach this target cleanly", t.session.Date)
			return nil
		}
	}
	was, measured := clean(v, *a)
	if now, ok := asked(v, *b); ok && measured && !was.atLeast(now) && comparable(&d.Dose, now) {
		say(trade.Stay, twice, oneMore, "it was the target of one session so far")
		return nil
	}
	if days := b.session.Date.Since(a.session.Date); days < 1 || days > farApart {
		say(
			trade.Stay,
			"stay: two sessions on different days within three weeks",
			"a clean session on another day within three weeks",
			"the last two were on %s and %s",
			a.session.Date,
			b.session.Date,
		)
		return nil
	}
	if !slices.Equal(settings(v, a), settings(v, b)) {
		say(
			trade.Stay,
			"stay: a result counts for its own setting and help",
			"one more clean session at the setting of the last",
			"load or help were not the same on %s and %s",
			a.session.Date,
			b.session.Date,
		)
		return nil
	}
	return b
}

// nextRung goes from the top dose to the next rung, or says what keeps it from that.
func (in *Input) nextRung(d *Decision, v *catalogue.Version, b *turn, say sayer) {
	next := in.Catalogue.Next(v)
	switch {
	case next == nil:
		say(
			trade.Stay,
			"stay: this is the last rung here",
			"another exercise of the same aim",
			"the top dose was reached twice; there is no higher rung in this branch",
		)
	case slices.ContainsFunc(b.items, func(it Item) bool { return it.Version == v.Slug && it.helped() }):
		say(
			trade.Stay,
			"stay: a result counts for its own setting and help",
			clean2+" without help",
			"the top dose was reached with help",
		)
	case in.Unread != nil && in.Unread(next.Slug):
		say(
			trade.Stay,
			"stay: the next rung is not held against the clinician's limits yet",
			"confirming "+next.Name+" against the limits",
			"%s must be held against the clinician's limits first",
			next.Name,
		)
	case !in.Suits(next.Slug):
		say(
			trade.Stay,
			"stay: the next rung does not suit",
			"a verdict that lets "+next.Name+" in",
			"%s does not suit this client now",
			next.Name,
		)
	case in.EffortCap > 0 && next.Effort > in.EffortCap:
		say(
			trade.Stay,
			"stay: the next rung is above the client's effort cap",
			"a higher cap",
			"%s is of effort %d, the cap is %d",
			next.Name,
			next.Effort,
			in.EffortCap,
		)
	case !in.open(next):
		say(
			trade.Stay,
			"stay: the gate of the next rung is closed",
			"its gate: "+next.Gate.Words(in.Catalogue),
			"%s opens after: %s",
			next.Name,
			next.Gate.Words(in.Catalogue),
		)
	default:
		d.ToVersion, d.Step, d.Dose = next.Slug, 0, next.Dose(in.School, 0)
		say(
			trade.Up,
			"up: one rung, at its lowest dose",
			"a sign, a fault or pain before then",
			"the top dose was reached with form in two sessions running",
		)
	}
}
