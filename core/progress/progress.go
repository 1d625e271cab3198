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
	Notes     string    `json:"notes,omitempty"`
	Items     []Item    `json:"items"`
}

// Soreness after a session; unknown soreness never permits a step up.
type Soreness struct {
	Peak     float64 `json:"peak"`
	SettledH float64 `json:"settled_h"`
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
}

// Product defaults of the absence and pain rules (days, points of 10).
const (
	absenceStep   = 15
	absenceRung   = 29
	absenceRetest = 57
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

// turn is one session's work on a branch.
type turn struct {
	session Session
	items   []Item
}

func (in *Input) branch(f *catalogue.Family, branch int, sessions []Session) (Decision, bool) {
	var turns []turn
	for _, s := range sessions {
		t := turn{session: s}
		for _, it := range s.Items {
			if it.Trial { // a trial never counts
				continue
			}
			if v, ok := in.Catalogue.Version(it.Version); ok && v.Family == f.Name && v.Branch == branch {
				t.items = append(t.items, it)
			}
		}
		if t.items != nil {
			turns = append(turns, t)
		}
	}
	if turns == nil {
		return Decision{}, false
	}
	last := turns[len(turns)-1]
	v, _ := in.Catalogue.Version(last.items[len(last.items)-1].Version)
	step := in.step(v, last.items)
	d := Decision{Family: f.Name, Version: v.Slug, ToVersion: v.Slug, Step: step, Dose: v.Dose(in.School, step)}
	in.decide(&d, v, turns, sessions)
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

func (in *Input) decide(d *Decision, v *catalogue.Version, turns []turn, sessions []Session) {
	say := func(decision, rule, format string, a ...any) {
		d.Decision, d.Rule, d.Because = decision, rule, fmt.Sprintf(format, a...)
	}
	last := turns[len(turns)-1]
	if rule, why := referOn(sessions); rule != "" {
		say(ReferOn, rule, "%s", why)
		return
	}
	latest := sessions[len(sessions)-1]
	if latest.PainStart != nil && *latest.PainStart >= restPain {
		say(Rest, "rest: pain at start 7 or more", "pain at the start was %g of 10: only breath, relaxation and comfortable positions", *latest.PainStart)
		return
	}
	if in.down(d, v, last, say) {
		return
	}
	if in.absent(d, v, last, say) {
		return
	}
	if in.capped(d, last, say) {
		return
	}
	if side, why := lagging(last); why != "" {
		d.Extra = side
		say(Stay, "stay: form ended the set or one side lags", "%s", why)
		return
	}
	in.up(d, v, turns, say)
}

type sayer func(decision, rule, format string, a ...any)

// referOn is the list of signs during a course that need a clinician.
func referOn(sessions []Session) (rule, why string) {
	n := len(sessions)
	rising, long := 0, 0
	for i := max(0, n-2); i < n; i++ {
		s := sessions[i]
		if s.PainStart != nil && s.PainEnd != nil && *s.PainEnd > *s.PainStart {
			rising++
		}
		if s.Soreness != nil && s.Soreness.SettledH > 36 {
			long++
		}
	}
	for _, s := range sessions[max(0, n-1):] {
		if len(s.RedFlags) > 0 {
			return "refer: a red flag was recorded", "red flag in the session of " + s.Date
		}
		for _, it := range s.Items {
			for _, f := range it.Felt {
				if f == "travels-down" || f == "new-weakness" {
					return "refer: symptoms travel down the limb or a new weakness", f + " was recorded in " + it.Version
				}
			}
		}
	}
	if rising == 2 {
		return "refer: symptoms rising over two sessions in a row", "pain was higher at the end than at the start in the last two sessions"
	}
	if long == 2 {
		return "refer: soreness beyond 36 h twice", "soreness took longer than 36 h to settle after both of the last two sessions"
	}
	return "", ""
}

func (in *Input) down(d *Decision, v *catalogue.Version, last turn, say sayer) bool {
	why := ""
	lowest, _ := v.Steps(in.School)
	for _, it := range last.items {
		start := 0.0
		if last.session.PainStart != nil {
			start = *last.session.PainStart
		}
		half := float64(lowest[0].HoldSeconds(in.Breaths)) / 2
		switch {
		case it.Pain != nil && it.Where != "" && *it.Pain > start:
			why = fmt.Sprintf("pain of %g of 10 came in the %s", *it.Pain, it.Where)
		case it.FormLostS != nil && lowest[0].TotalReps() == 1 && *it.FormLostS < half:
			why = fmt.Sprintf("form was lost at %g s, under half of the lowest dose", *it.FormLostS)
		}
	}
	if s := last.session.Soreness; s != nil && s.SettledH > 36 {
		why = fmt.Sprintf("soreness took %g h to settle", s.SettledH)
	}
	if why == "" {
		return false
	}
	in.rungDown(d, v)
	say(Down, "down: pain, lost form or long soreness", "%s", why)
	return true
}

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
		say(Down, "down: one rung after more than 4 weeks", "%d days since it was last done", days)
	default:
		in.rungDown(d, v)
		say(Down, "down: re-test after more than 8 weeks", "%d days since it was last done; test before building up again", days)
	}
	return true
}

// capped limits the next target to the last clean value.
func (in *Input) capped(d *Decision, last turn, say sayer) bool {
	for _, it := range last.items {
		switch {
		case it.SymptomRep != nil:
			n := *it.SymptomRep - 1
			if it.WarningRep != nil {
				n = *it.WarningRep
			}
			d.Dose = d.Dose.CapReps(n)
			say(Cap, "cap: below the repetition of the symptom", "a symptom came at repetition %d; the last clean one is %d", *it.SymptomRep, max(1, n))
			return true
		case it.SymptomS != nil:
			s := max(1, int(*it.SymptomS)-1)
			d.Dose, _ = d.Dose.CapHold(s, in.Breaths)
			say(Cap, "cap: below the second of the symptom", "a symptom came at %g s; the next hold stays at %d s", *it.SymptomS, s)
			return true
		}
	}
	return false
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

func (in *Input) up(d *Decision, v *catalogue.Version, turns []turn, say sayer) {
	if len(turns) < 2 {
		say(Stay, "stay: the target must be reached in two sessions running", "reached once so far")
		return
	}
	for i := len(turns) - 2; i < len(turns); i++ {
		t := turns[i]
		if _, why := lagging(t); why != "" || t.items[0].Version != v.Slug || in.step(v, t.items) < d.Step || symptoms(t) {
			say(Stay, "stay: the target must be reached in two sessions running", "the session of %s did not reach this target cleanly", t.session.Date)
			return
		}
		if s := t.session.Soreness; s == nil || s.SettledH > 24 {
			say(Stay, "stay: soreness must settle within 24 h and be known", "soreness after %s is unknown or took longer than 24 h", t.session.Date)
			return
		}
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

func symptoms(t turn) bool {
	for _, it := range t.items {
		if it.SymptomRep != nil || it.SymptomS != nil || it.EndedBy == "symptom" {
			return true
		}
	}
	return false
}
