// Package progress decides from the log what each exercise does next time: up, stay,
// cap, down, rest or refer, always with the rule that fired.
package progress

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"restbend/core/catalogue"
	"restbend/core/dose"
)

// Log is a client's taught sessions; field names are those of the exchange format.
type Log struct {
	Format   string    `json:"format"`
	Sessions []Session `json:"sessions"`
}

// Session is one taught session.
type Session struct {
	Date      string    `json:"date"`
	PainStart *float64  `json:"pain_start,omitempty"`
	PainEnd   *float64  `json:"pain_end,omitempty"`
	Soreness  *Soreness `json:"soreness,omitempty"`
	RedFlags  []string  `json:"red_flags,omitempty"`
	Ended     string    `json:"ended_because,omitempty"` // done, time, pain, symptom, wish or warning-sign
	Notes     string    `json:"notes,omitempty"`
	Items     []Item    `json:"items"`
}

// Soreness after a session; unknown soreness never permits a step up.
type Soreness struct {
	Peak     float64 `json:"peak"`
	SettledH float64 `json:"settled_h"`
	Kind     string  `json:"kind,omitempty"` // muscle or old-pain; empty when nobody said
}

// Item is one exercise as it was done on one side (or both).
type Item struct {
	Version    string   `json:"version"`
	Revision   int      `json:"revision,omitempty"`
	Side       string   `json:"side,omitempty"`
	Target     Amount   `json:"target"`
	Done       Amount   `json:"done"`
	FormLostS  *float64 `json:"form_lost_s,omitempty"`
	WarningRep *int     `json:"warning_at_rep,omitempty"`
	SymptomRep *int     `json:"symptom_at_rep,omitempty"`
	SymptomS   *float64 `json:"symptom_at_s,omitempty"`
	Seen       []string `json:"seen,omitempty"`
	Felt       []string `json:"felt,omitempty"`
	EndedBy    string   `json:"ended_by,omitempty"` // target, form, symptom, breath or choice
	Load       *Load    `json:"load,omitempty"`
	Pain       *float64 `json:"pain,omitempty"`
	Where      string   `json:"where,omitempty"`
	Trial      bool     `json:"trial,omitempty"`
}

// Amount is what was asked or done.
type Amount struct {
	Sets        int `json:"sets"`
	Reps        int `json:"reps"`
	HoldS       int `json:"hold_s,omitempty"`
	HoldBreaths int `json:"hold_breaths,omitempty"`
}

// Load is the settings that make the real dose.
type Load struct {
	SurfaceCM   float64  `json:"surface_cm,omitempty"`
	Band        string   `json:"band,omitempty"`
	AnchorCM    float64  `json:"anchor_cm,omitempty"`
	PadLevel    int      `json:"pad_level,omitempty"`
	PadOffsetCM float64  `json:"pad_offset_cm,omitempty"`
	Spring      string   `json:"spring,omitempty"`
	WeightKG    float64  `json:"weight_kg,omitempty"`
	Help        []string `json:"help,omitempty"`
}

func (a Amount) volume() int {
	return max(1, a.Sets) * max(1, a.Reps) * max(1, a.HoldS+a.HoldBreaths)
}

// words says an amount as an instructor would, in the shape of its target.
func (a Amount) words(target Amount) string {
	var parts []string
	if target.Sets > 1 || a.Sets > 1 {
		parts = append(parts, strconv.Itoa(max(1, a.Sets)))
	}
	held := target.HoldS+target.HoldBreaths > 0
	if target.Reps > 1 || !held {
		parts = append(parts, strconv.Itoa(a.Reps))
	}
	switch {
	case !held && a.Reps == 1:
		parts[len(parts)-1] += " repetition"
	case !held:
		parts[len(parts)-1] += " repetitions"
	case target.HoldS > 0:
		parts = append(parts, fmt.Sprintf("%d s", a.HoldS))
	case target.HoldBreaths > 0:
		parts = append(parts, fmt.Sprintf("%d breaths", a.HoldBreaths))
	}
	if a.doneOf(target) == 0 {
		return "nothing"
	}
	return strings.Join(parts, " x ")
}

// doneOf is the volume done of a target. No repetition done counts as nothing, except in
// one long hold, which may be left half way.
func (a Amount) doneOf(target Amount) int {
	if a.Reps == 0 && (target.Reps > 1 || a.HoldS+a.HoldBreaths == 0) {
		return 0
	}
	return a.volume()
}

// The decisions.
const (
	Up      = "up"
	Stay    = "stay"
	Cap     = "cap"
	Down    = "down"
	Rest    = "rest"
	ReferOn = "refer"
)

// Decision is what one branch of a family does next.
type Decision struct {
	Family    string    `json:"family"`
	Version   string    `json:"version"`
	Decision  string    `json:"decision"`
	ToVersion string    `json:"to_version"`
	Dose      dose.Dose `json:"dose"`
	Step      int       `json:"step"`
	Extra     string    `json:"extra_side,omitempty"` // the lagging side gets more
	Rule      string    `json:"rule"`
	Because   string    `json:"because"`
}

// Input is what decisions depend on.
type Input struct {
	Catalogue *catalogue.Catalogue
	School    string
	Breaths   float64
	Log       Log
	Today     time.Time
	Suits     func(slug string) bool // may the client do this version now
	StopAbove float64                // the client's pain limit, 0 for the default
	PainNow   *float64               // pain today, where it was asked
	Refer     string                 // why the client must see a clinician today, empty when not
	// Cleared tells whether a clinician has cleared a red flag raised on a day; nobody has when nil.
	Cleared func(flag string, since time.Time) bool
	// Cap fits a hold to what the client's conditions allow, and says why; nothing is changed
	// when nil.
	Cap func(v *catalogue.Version, d dose.Dose) (capped dose.Dose, why string)
}

// The absence and pain rules, in days and points of 10 (common practice).
const (
	absenceStep   = 22
	absenceRung   = 28
	absenceRetest = 56
	restPain      = 7
)

// Decide gives one decision per branch that appears in the log, in catalogue order.
func Decide(in Input) []Decision {
	var out []Decision
	sessions := slices.Clone(in.Log.Sessions)
	slices.SortStableFunc(sessions, func(a, b Session) int {
		if a.Date < b.Date {
			return -1
		} else if a.Date > b.Date {
			return 1
		}
		return 0
	})
	for _, f := range in.Catalogue.Families {
		for b := range f.Branches {
			if d, ok := in.branch(f, b, sessions); ok {
				out = append(out, d)
			}
		}
	}
	return out
}

// turn is one session's work on a branch: what counts, and what else was tried or broken off.
type turn struct {
	session Session
	items   []Item
	tried   []Item // trials, and what ended by choice without a sign: they count for nothing
}

// signed tells that something came up that must not be lost, however the item ended.
func (it *Item) signed() bool {
	return it.SymptomRep != nil || it.SymptomS != nil || it.WarningRep != nil || it.FormLostS != nil || it.Pain != nil || len(it.Felt) > 0
}

// all are the items with those that do not count.
func (t *turn) all() []Item { return append(slices.Clone(t.items), t.tried...) }

func (in *Input) branch(f *catalogue.Family, branch int, sessions []Session) (Decision, bool) {
	var turns []turn
	for _, s := range sessions {
		t := turn{session: s}
		for _, it := range s.Items {
			if v, ok := in.Catalogue.Version(it.Version); ok && v.Family == f.Name && v.Branch == branch {
				if it.Trial || it.EndedBy == "choice" && !it.signed() {
					t.tried = append(t.tried, it)
				} else {
					t.items = append(t.items, it)
				}
			}
		}
		if t.items != nil || t.tried != nil {
			turns = append(turns, t)
		}
	}
	last, before := -1, 0 // the turns that count: the last one and the one before
	for i, t := range turns {
		if t.items != nil {
			last, before = i, max(0, last)
		}
	}
	if last < 0 {
		return Decision{}, false
	}
	done := turns[last]
	v, _ := in.Catalogue.Version(done.items[len(done.items)-1].Version)
	step := in.step(v, done.items)
	d := Decision{Family: f.Name, Version: v.Slug, ToVersion: v.Slug, Step: step, Dose: v.Dose(in.School, step)}
	in.decide(&d, v, turns, before, last, sessions)
	if to, ok := in.Catalogue.Version(d.ToVersion); ok && in.Cap != nil {
		why := ""
		if d.Dose, why = in.Cap(to, d.Dose); why != "" {
			d.Because += "; " + why
		}
	}
	return d, true
}

// step finds where on the version's dose ladder the last target lay.
func (in *Input) step(v *catalogue.Version, items []Item) int {
	steps, _ := v.Steps(in.School)
	best := 0
	last := items[len(items)-1]
	target := last.Target
	if v.SideMode == "alternate" && (last.Side == "left" || last.Side == "right") {
		target.Reps *= 2 // done one side after the other, the ladder counts both together
	}
	for i, s := range steps {
		reps := s.TotalReps()
		vol := reps * max(1, s.HoldS+s.HoldBreaths+s.HoldCounts)
		if target.volume() >= vol || (target.HoldBreaths > 0 && s.HoldS > 0 && i == 0) {
			best = i
		}
	}
	return best
}

// decide reads the last two turns that count and everything tried since.
func (in *Input) decide(d *Decision, v *catalogue.Version, turns []turn, before, last int, sessions []Session) {
	say := func(decision, rule, format string, a ...any) {
		d.Decision, d.Rule, d.Because = decision, rule, fmt.Sprintf(format, a...)
	}
	done := turns[last]
	whole := in.seen(everyone, &look{in: in, sessions: sessions})
	for _, strict := range []string{ReferOn, Rest} {
		if hit, ok := whole[strict]; ok {
			say(strict, hit.rule, "%s", hit.why)
			return
		}
	}
	own := in.seen(family, &look{in, sessions, turns[before:], turns[last:]})
	switch {
	case own[Down].rule != "":
		in.rungDown(d, v)
		say(Down, own[Down].rule, "%s", own[Down].why)
		in.keepCap(d, v, done)
	case in.absent(d, v, done, say):
		in.keepCap(d, v, done)
	case !in.Suits(v.Slug) && in.suiting(d, v, say):
	case in.capped(d, done, say):
	case !in.Suits(v.Slug):
		d.Step, d.Dose = 0, v.Dose(in.School, 0)
		say(Stay, "stay: it no longer suits, and nothing easier here does", "%s does not suit this client now and is left out; see its verdict for what replaces it", v.Name)
	default:
		if side, why := lagging(done); why != "" {
			d.Extra = side
			say(Stay, "stay: form ended the set or one side lags", "%s", why)
			return
		}
		for _, hit := range []hit{own[Stay], whole[Stay]} {
			if hit.rule != "" {
				say(Stay, hit.rule, "%s", hit.why)
				return
			}
		}
		in.up(d, v, turns, say)
	}
}

// suiting is for a version that no longer suits: the nearest easier rung that does.
func (in *Input) suiting(d *Decision, v *catalogue.Version, say sayer) bool {
	for p := in.Catalogue.Previous(v); p != nil; p = in.Catalogue.Previous(p) {
		if in.Suits(p.Slug) {
			d.ToVersion, d.Step, d.Dose = p.Slug, 0, p.Dose(in.School, 0)
			say(Down, "down: it no longer suits", "%s does not suit this client now; %s does", v.Name, p.Name)
			return true
		}
	}
	return false
}

type sayer func(decision, rule, format string, a ...any)

func (in *Input) rungDown(d *Decision, v *catalogue.Version) {
	d.Step = 0
	if p := in.Catalogue.Previous(v); p != nil && in.Suits(p.Slug) {
		d.ToVersion = p.Slug
		d.Dose = p.Dose(in.School, 0)
		return
	}
	d.Dose = v.Dose(in.School, 0)
}

func (in *Input) absent(d *Decision, v *catalogue.Version, last turn, say sayer) bool {
	when, err := time.Parse(time.DateOnly, last.session.Date)
	if err != nil {
		return false
	}
	days := int(in.Today.Sub(when).Hours() / 24)
	switch {
	case days < absenceStep:
		return false
	case days < absenceRung:
		d.Step = max(0, d.Step-1)
		d.Dose = v.Dose(in.School, d.Step)
		say(Down, "down: one dose step after an absence", "%d days since it was last done", days)
	case days < absenceRetest:
		in.rungDown(d, v)
		say(Down, "down: one rung after 4 weeks", "%d days since it was last done", days)
	default:
		in.rungDown(d, v)
		say(Down, "down: re-test after 8 weeks", "%d days since it was last done; test before building up again", days)
	}
	return true
}

// capped limits the next target to the last clean value. A sign in a trial, or in the session
// before a clean one, caps nothing and permits no step up.
func (in *Input) capped(d *Decision, done turn, say sayer) bool {
	capped, rule, why := in.lastClean(d.Dose, done)
	if rule != "" {
		d.Dose = capped
		say(Cap, rule, "%s", why)
	}
	return rule != ""
}

// keepCap keeps what a sign capped where a stricter decision leaves the version as it is.
func (in *Input) keepCap(d *Decision, v *catalogue.Version, done turn) {
	if d.ToVersion != v.Slug {
		return
	}
	if capped, rule, why := in.lastClean(v.Dose(in.School, 0), done); rule != "" {
		d.Step, d.Dose = 0, capped
		d.Because += "; " + why
	}
}

// lastClean is a dose kept at the last clean value of a turn, with the rule and why; the rule
// is empty when no sign came.
func (in *Input) lastClean(to dose.Dose, done turn) (capped dose.Dose, rule, why string) {
	for _, it := range done.items { // both sides: the stricter
		switch {
		case it.SymptomRep != nil:
			n := *it.SymptomRep - 1
			if it.WarningRep != nil {
				n = min(n, *it.WarningRep)
			}
			to = to.CapReps(n)
			rule, why = "cap: below the repetition of the symptom", fmt.Sprintf("a symptom came at repetition %d; the last clean one is %d", *it.SymptomRep, max(1, n))
		case it.SymptomS != nil:
			s := max(1, int(*it.SymptomS)-1)
			to, _ = to.CapHold(s, in.Breaths)
			rule, why = "cap: below the second of the symptom", fmt.Sprintf("a symptom came at %g s; the next hold stays at %d s", *it.SymptomS, s)
		case it.WarningRep != nil:
			to = to.CapReps(*it.WarningRep)
			rule, why = "cap: at the repetition of the warning", fmt.Sprintf("a warning came at repetition %d", *it.WarningRep)
		}
	}
	return to, rule, why
}

// lagging explains why the target was not reached with form, and which side is behind.
func lagging(t turn) (side, why string) {
	short := map[string]bool{}
	for _, it := range t.items {
		if it.EndedBy == "form" || it.FormLostS != nil || it.EndedBy == "breath" || it.Done.doneOf(it.Target) < it.Target.volume() {
			short[it.Side] = true
			how := "it ended before the target"
			switch {
			case it.EndedBy == "form" || it.FormLostS != nil:
				how = "form was lost before the target"
			case it.EndedBy == "breath":
				how = "the breath was held before the target"
			}
			why = fmt.Sprintf("%s: %s of %s", how, it.Done.words(it.Target), it.Target.words(it.Target))
		}
	}
	if len(short) == 1 && len(t.items) > 1 {
		for s := range short {
			if s == "left" || s == "right" {
				return s, "the " + s + " side lags and sets the level"
			}
		}
	}
	return "", why
}

func (in *Input) up(d *Decision, v *catalogue.Version, all []turn, say sayer) {
	var turns []turn
	for _, t := range all {
		if t.items != nil {
			turns = append(turns, t)
		}
	}
	if len(turns) < 2 {
		say(Stay, "stay: the target must be reached in two sessions running", "reached once so far; one more clean session and it goes up")
		return
	}
	turns = turns[len(turns)-2:]
	for _, t := range turns {
		if _, why := lagging(t); why != "" || t.items[0].Version != v.Slug || in.step(v, t.items) < d.Step {
			say(Stay, "stay: the target must be reached in two sessions running", "the session of %s did not reach this target cleanly", t.session.Date)
			return
		}
	}
	if a, b := date(turns[0].session), date(turns[1].session); !b.After(a) || b.Sub(a).Hours() > 24*farApart {
		say(Stay, "stay: two sessions on different days within three weeks", "the last two were on %s and %s", turns[0].session.Date, turns[1].session.Date)
		return
	}
	steps, _ := v.Steps(in.School)
	if d.Step < len(steps)-1 {
		d.Step++
		d.Dose = v.Dose(in.School, d.Step)
		say(Up, "up: the next dose step", "the target was reached with form in two sessions running")
		return
	}
	next := in.Catalogue.Next(v)
	switch {
	case next == nil:
		say(Stay, "stay: this is the last rung here", "the top dose was reached twice; there is no higher rung in this branch")
	case !in.Suits(next.Slug):
		say(Stay, "stay: the next rung does not suit", "%s does not suit this client now", next.Name)
	default:
		d.ToVersion, d.Step, d.Dose = next.Slug, 0, next.Dose(in.School, 0)
		say(Up, "up: one rung, at its lowest dose", "the top dose was reached with form in two sessions running")
	}
}
