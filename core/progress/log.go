package progress

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"restbend/core/dose"
	"restbend/core/say"
	"restbend/core/trade"
)

// Log is a client's taught sessions; field names are those of the exchange format.
type Log struct {
	Format   string    `json:"format"`
	Sessions []Session `json:"sessions"`
}

// Session is one taught session.
type Session struct {
	Date      trade.Day `json:"date"`
	PainStart *float64  `json:"pain_start,omitempty"`
	PainEnd   *float64  `json:"pain_end,omitempty"`
	Soreness  *Soreness `json:"soreness,omitempty"`
	FollowUp  *FollowUp `json:"follow_up,omitempty"`
	RedFlags  []string  `json:"red_flags,omitempty"`
	Ended     string    `json:"ended_because,omitempty"` // one of Endings
	Home      int       `json:"home,omitempty"`          // days of practice at home since the session before
	Checks    *Checks   `json:"checks,omitempty"`
	ScoreRev  int       `json:"score_rev,omitempty"`
	Seconds   int       `json:"seconds,omitempty"` // of the score that really ran
	Doses     string    `json:"doses,omitempty"`   // of a kind with doses of its own: one of dose.Kinds
	Notes     string    `json:"notes,omitempty"`
	TakenBack []string  `json:"taken_back,omitempty"` // signs marked by mistake: the client was asked again, and it was none
	Items     []Item    `json:"items"`
}

// Endings are why a session ended.
var Endings = []string{"done", "time", "pain", "symptom", "wish", WarningSign}

// WarningSign ended a session after which the client is seen first.
const WarningSign = "warning-sign"

// Soreness after a session; unknown soreness never permits a step up.
type Soreness struct {
	Peak     float64 `json:"peak"`
	SettledH float64 `json:"settled_h"`
	Kind     string  `json:"kind,omitempty"` // one of Sorenesses; empty when nobody said
}

// What can be sore: muscles, or what hurt before.
const (
	Muscle  = "muscle"
	OldPain = "old-pain"
)

// Sorenesses are the kinds of soreness.
var Sorenesses = []string{Muscle, OldPain}

// FollowUp is what was said afterwards; what it says of soreness wins (shared ruling 48).
type FollowUp struct {
	On        trade.Day `json:"on,omitzero"`
	Soreness  *float64  `json:"soreness,omitempty"`
	SettledH  *float64  `json:"settled_h,omitempty"`
	Kind      string    `json:"kind,omitempty"`
	Effect    string    `json:"effect,omitempty"` // one of Effects
	Travelled bool      `json:"travelled,omitempty"`
	Home      int       `json:"home,omitempty"` // days of practice at home since
}

// Effects are how somebody was after a session.
var Effects = []string{"better", "same", Worse}

// Worse is the effect that holds a step up.
const Worse = "worse"

// Checks are what was compared in a session.
type Checks struct {
	SIJSide   trade.Side `json:"sij_side,omitempty"`
	TightTurn trade.Side `json:"tight_turn,omitempty"`
	Clock     []int      `json:"clock_hours,omitempty"`

	FromMemory *bool `json:"from_memory,omitempty"` // the fixed beginning and end of the kind were done from memory
}

// Item is one exercise as it was done on one side (or both).
type Item struct {
	Version     string       `json:"version"`
	Revision    int          `json:"revision,omitempty"`
	Side        trade.Side   `json:"side,omitempty"`
	Target      Amount       `json:"target"`
	Done        Amount       `json:"done"`
	SetsDone    []Amount     `json:"sets_done,omitempty"` // falling sets, one a set
	Confirmed   *bool        `json:"confirmed,omitempty"` // false: the clock ran with nobody there
	Reached     *bool        `json:"reached,omitempty"`   // false: the session ended before
	FormLostS   *float64     `json:"form_lost_s,omitempty"`
	WarningRep  *int         `json:"warning_at_rep,omitempty"`
	WarningS    *float64     `json:"warning_at_s,omitempty"`   // second of the hold
	WarningSet  *int         `json:"warning_at_set,omitempty"` // where it was not the first
	SymptomRep  *int         `json:"symptom_at_rep,omitempty"`
	SymptomS    *float64     `json:"symptom_at_s,omitempty"`   // second of the hold; 0 before it began
	SymptomSet  *int         `json:"symptom_at_set,omitempty"` // where it was not the first
	Seen        []string     `json:"seen,omitempty"`           // faults as words; ReadFault reads them
	Fault       []Fault      `json:"fault,omitempty"`
	Felt        []string     `json:"felt,omitempty"` // of Felt
	EndedBy     string       `json:"ended_by,omitempty"`
	Load        *Load        `json:"load,omitempty"`
	Helped      string       `json:"helped,omitempty"` // guided, held or anchored
	Pain        *float64     `json:"pain,omitempty"`
	Where       string       `json:"where,omitempty"`
	Trial       bool         `json:"trial,omitempty"`
	Short       bool         `json:"short,omitempty"` // made shorter by hand for the day: no base for the next
	Tried       []Tried      `json:"tried,omitempty"`
	Compare     string       `json:"compare,omitempty"` // which side was better: left, right or same
	Next        string       `json:"next,omitempty"`    // the instructor's word for next time: SameAgain or NotAgain
	Corrections []Correction `json:"corrections,omitempty"`
}

// What an instructor may say of an item for next time. Neither lifts a cap or a verdict.
const (
	SameAgain = "same"
	NotAgain  = "not"
)

// What ended an item.
const (
	ByTarget  = "target"
	ByForm    = "form"
	BySymptom = "symptom"
	ByBreath  = "breath"
	ByChoice  = "choice"
)

// Tried is what was tried on the way and left again: another version, or another setting of the
// item's own where it names none. As a document it may be the version's name alone.
type Tried struct {
	Version    string   `json:"version,omitempty"`
	Load       *Load    `json:"load,omitempty"`
	Clean      bool     `json:"clean,omitempty"`
	WarningRep *int     `json:"warning_at_rep,omitempty"`
	SymptomRep *int     `json:"symptom_at_rep,omitempty"`
	SymptomS   *float64 `json:"symptom_at_s,omitempty"`
	Felt       []string `json:"felt,omitempty"`
}

// UnmarshalJSON reads a version's name or the whole.
func (t *Tried) UnmarshalJSON(data []byte) error {
	*t = Tried{}
	if len(data) > 0 && data[0] == '"' {
		return json.Unmarshal(data, &t.Version)
	}
	type plain Tried
	return json.Unmarshal(data, (*plain)(t))
}

// Fault is something seen going wrong: a code of say.FaultCodes, with its side. One that
// a single cue mended stops nothing.
type Fault struct {
	Code      string     `json:"code"`
	Side      trade.Side `json:"side,omitempty"`
	S         float64    `json:"s,omitempty"`
	Corrected bool       `json:"corrected,omitempty"`
}

// Correction is a change of what was logged, afterwards.
type Correction struct {
	At    string `json:"at,omitempty"`
	By    string `json:"by,omitempty"`
	Field string `json:"field"`
	From  any    `json:"from,omitempty"`
	To    any    `json:"to,omitempty"`
	Why   string `json:"why,omitempty"`
}

// ReadFault reads a fault written as a word: a code, alone or with -left or -right.
func ReadFault(word string) (code string, side trade.Side, ok bool) {
	code = word
	for _, s := range trade.BothSides {
		if c, cut := strings.CutSuffix(word, "-"+string(s)); cut {
			code, side = c, s
		}
	}
	return code, side, slices.Contains(say.FaultCodes, code)
}

// Felt is the closed list of what a client can say; another word permits no step up until it
// is sorted.
var Felt = []string{
	"pulling",
	"tiring",
	"pain",
	"tingling",
	"numbness",
	"travels-down",
	"new-weakness",
	"dizziness",
	"chest",
	"breathless",
	"palpitations",
	"heaviness",
	"leaking",
	"doming",
}

// feltWords say a felt word where it stands in a sentence.
var feltWords = map[string]string{
	"travels-down": "travelling down a limb",
	"new-weakness": "a new weakness",
	"chest":        "a feeling in the chest",
	"breathless":   "breathlessness",
	"doming":       "doming of the belly",
}

// FeltWords says a felt word as people do.
func FeltWords(word string) string {
	if w, ok := feltWords[word]; ok {
		return w
	}
	return word
}

// Urgent are the felt words that end a session: the client is seen first.
var Urgent = []string{"travels-down", "new-weakness", "numbness", "chest", "breathless", "palpitations"}

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

// setting is what a result counts for: its load and its help.
func (it *Item) setting() string {
	l := Load{}
	if it.Load != nil {
		l = *it.Load
	}
	help := slices.Sorted(slices.Values(l.Help))
	if it.Helped != "" {
		help = append(help, it.Helped)
	}
	l.Help = nil
	return fmt.Sprint(l, help)
}

// helped tells that somebody or something helped.
func (it *Item) helped() bool {
	return it.Helped != "" || it.Load != nil && len(it.Load.Help) > 0
}

// Faults are what was seen and not mended by one cue.
func (it *Item) Faults() (out []string) {
	for _, word := range it.Seen {
		out = append(out, strings.ReplaceAll(word, "-", " "))
	}
	for _, f := range it.Fault {
		if !f.Corrected {
			out = append(out, strings.TrimSpace(strings.ReplaceAll(f.Code, "-", " ")+" "+string(f.Side)))
		}
	}
	return out
}

// harmless are felt words that are part of the work.
var harmless = []string{"pulling", "tiring"}

// allFelt are the felt words with those of what was tried on the way.
func (it *Item) allFelt() []string {
	out := slices.Clone(it.Felt)
	for _, t := range it.Tried {
		out = append(out, t.Felt...)
	}
	return out
}

// signed tells that something came up that must not be lost, however the item ended: a symptom,
// a warning, lost form, a pain above that of the start, or a felt word that is no part of work.
func (it *Item) signed(s *Session) bool {
	return len(it.Signs()) > 0 || it.FormLostS != nil ||
		it.EndedBy == BySymptom ||
		it.Pain != nil && *it.Pain > start(s) ||
		slices.ContainsFunc(it.Felt, func(f string) bool { return !slices.Contains(harmless, f) })
}

// counts tells whether an item counts for its branch: not a trial, and not what ended by
// choice, by the time or was never reached, unless a sign came.
func (it *Item) counts(s *Session) bool {
	switch {
	case it.Trial:
		return false
	case it.signed(s):
		return true
	case it.Short, s.Doses == dose.Desk, s.Doses == dose.Comfort: // practised, and no base
		return false
	}
	return it.plain(s)
}

// plain tells whether an item counts whatever came up in it.
func (it *Item) plain(s *Session) bool {
	switch {
	case it.Trial, it.EndedBy == ByChoice, !it.Begun():
		return false
	}
	return it.Whole() || s.Ended != "time" && s.Ended != "wish"
}

// NotAgain are the versions of which it was last said that they are not done again.
func (l *Log) NotAgain() (out []string) {
	sessions := slices.Clone(l.Sessions)
	slices.SortStableFunc(sessions, func(a, b Session) int { return a.Date.Since(b.Date) })
	for i := range sessions {
		for k := range sessions[i].Items {
			it := &sessions[i].Items[k]
			at := slices.Index(out, it.Version)
			switch {
			case it.Next == NotAgain && at < 0:
				out = append(out, it.Version)
			case it.Next != NotAgain && at >= 0 && it.Begun():
				out = slices.Delete(out, at, at+1)
			}
		}
	}
	return out
}

// Begun tells that an item was reached: what a session ended before was never done or seen.
func (it *Item) Begun() bool { return it.Reached == nil || *it.Reached }

// Whole tells that all of the target was done.
func (it *Item) Whole() bool { return it.amount().doneOf(it.Target) >= it.Target.volume() }

// amount is what was done, falling sets together.
func (it *Item) amount() Amount {
	if len(it.SetsDone) == 0 {
		return it.Done
	}
	out, first := Amount{Sets: 1}, true
	for _, a := range it.SetsDone {
		if a.Reps == 0 {
			continue // nothing done has no length
		}
		out.Reps += max(1, a.Sets) * a.Reps
		if first {
			out.HoldS, out.HoldBreaths, first = a.HoldS, a.HoldBreaths, false
		}
		out.HoldS, out.HoldBreaths = min(out.HoldS, a.HoldS), min(out.HoldBreaths, a.HoldBreaths)
	}
	return out
}

// Sore is how sore a client was after a session, nil when nobody knows.
func (s *Session) Sore() *Soreness {
	f := s.FollowUp
	if f == nil || f.Soreness == nil && f.SettledH == nil {
		return s.Soreness
	}
	out := Soreness{Kind: f.Kind}
	if s.Soreness != nil {
		out = *s.Soreness
		if f.Kind != "" {
			out.Kind = f.Kind
		}
	}
	if f.Soreness != nil {
		out.Peak = *f.Soreness
	}
	if f.SettledH != nil {
		out.SettledH = *f.SettledH
	} else if s.Soreness == nil && out.Peak > 0 {
		return nil // sore, and nobody knows for how long
	}
	return &out
}

// practised is the last day on which a session or the practice at home it was followed by is
// known to have happened.
func (s *Session) practised() trade.Day {
	if f := s.FollowUp; f != nil && f.Home > 0 && f.On.After(s.Date) {
		return f.On
	}
	return s.Date
}

func (a Amount) volume() int {
	return max(1, a.Sets) * max(1, a.Reps) * max(1, a.HoldS+a.HoldBreaths)
}

// Words says an amount as an instructor would, in the shape of its target.
func (a Amount) Words(target Amount) string { return a.words(target) }

// Did says what was done of an item: falling sets, and sets that differ, one by one.
func (it *Item) Did() string {
	if !it.Begun() {
		return "not reached"
	}
	if len(it.SetsDone) == 0 {
		return it.Done.words(it.Target)
	}
	var sets []string
	for _, s := range it.SetsDone {
		sets = append(sets, strconv.Itoa(s.Reps))
	}
	out := strings.Join(sets, ", ")
	switch {
	case it.Target.HoldS > 0:
		out += fmt.Sprintf(" x %d s", it.Done.HoldS)
	case it.Target.HoldBreaths > 0:
		out += fmt.Sprintf(" x %d breaths", it.Done.HoldBreaths)
	}
	return out
}

// LoadBefore is the load an item's version was last done with on its side before a day, nil when nobody knows.
func (l *Log) LoadBefore(day trade.Day, it *Item) (load *Load) {
	var last trade.Day
	for i := range l.Sessions {
		s := &l.Sessions[i]
		for k := range s.Items {
			o := &s.Items[k]
			if o.Version == it.Version && o.Side == it.Side && o.Load != nil && s.Date.Before(day) && !s.Date.Before(last) {
				load, last = o.Load, s.Date
			}
		}
	}
	return load
}

// Heavier says whether a setting is lighter or harder than one before, empty when it is the same: a higher surface
// is lighter, more weight, a higher pad level and a pad further out are harder; another band or spring is only
// another one (common practice).
func Heavier(before, now *Load) string {
	if before == nil || now == nil {
		return ""
	}
	harder := 0
	for _, d := range []float64{before.SurfaceCM - now.SurfaceCM, now.WeightKG - before.WeightKG,
		float64(now.PadLevel - before.PadLevel), now.PadOffsetCM - before.PadOffsetCM, float64(len(before.Help) - len(now.Help))} {
		switch {
		case d > 0:
			harder |= 1
		case d < 0:
			harder |= 2
		}
	}
	switch {
	case harder == 1:
		return "harder than last time"
	case harder == 2:
		return "lighter than last time"
	case harder == 3 || before.Band != now.Band || before.Spring != now.Spring || before.AnchorCM != now.AnchorCM:
		return "other than last time"
	}
	return ""
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

// text is an item written out, to tell two of them apart.
func (it *Item) text() string {
	out, _ := json.Marshal(it) // plain values: it cannot fail
	return string(out)
}
