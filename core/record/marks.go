// Package record replays a session: its score and the marks made while it ran, and afterwards, become the
// log session that every decision rests on. The same score and marks always give the same session.
package record

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"restbend/core/progress"
	"restbend/core/say"
	"restbend/core/score"
	"restbend/core/trade"
)

// Format names the document of marks.
const Format = "restbend.marks/1"

// Marks is what was pressed and said in a session, in any order.
type Marks struct {
	Format string    `json:"format"`
	Date   trade.Day `json:"date"`
	Marks  []Mark    `json:"marks"`
}

// Mark is one thing pressed or said. Pos, the second of the score, decides; wall time orders and audits. To,
// From and Value are read as their kind has them.
type Mark struct {
	Key    string     `json:"key"`
	Device string     `json:"device,omitempty"`
	By     string     `json:"by,omitempty"`
	At     time.Time  `json:"at,omitzero"`
	Rev    int        `json:"rev,omitempty"`
	Pos    float64    `json:"pos"`
	Kind   string     `json:"kind"`
	Item   *int       `json:"item,omitempty"`
	Side   trade.Side `json:"side,omitempty"`
	Set    int        `json:"set,omitempty"`
	Rep    int        `json:"rep,omitempty"`
	Member string     `json:"member,omitempty"`

	Pain      *float64         `json:"pain,omitempty"`
	Clear     bool             `json:"clear,omitempty"`
	On        bool             `json:"on,omitempty"`
	Mode      string           `json:"mode,omitempty"`
	Unit      string           `json:"unit,omitempty"`
	From      json.RawMessage  `json:"from,omitempty"`
	To        json.RawMessage  `json:"to,omitempty"`
	Why       string           `json:"why,omitempty"`
	Because   string           `json:"because,omitempty"`
	Load      *progress.Load   `json:"load,omitempty"`
	How       string           `json:"how,omitempty"`
	Done      *progress.Amount `json:"done,omitempty"`
	Clean     bool             `json:"clean,omitempty"`
	S         float64          `json:"s,omitempty"`
	Fault     string           `json:"fault,omitempty"`
	Of        string           `json:"of,omitempty"`
	Where     string           `json:"where,omitempty"`
	Travels   bool             `json:"travels,omitempty"`
	Numb      bool             `json:"numb_or_weak,omitempty"`
	Dizzy     bool             `json:"dizzy,omitempty"`
	Chest     bool             `json:"chest,omitempty"`
	Felt      Words            `json:"felt,omitempty"`
	Value     json.RawMessage  `json:"value,omitempty"`
	What      string           `json:"what,omitempty"`
	Score     int              `json:"score,omitempty"`
	Say       string           `json:"say,omitempty"`
	Check     string           `json:"check,omitempty"`
	PerMinute float64          `json:"per_minute,omitempty"`
	Text      string           `json:"text,omitempty"`
	Codes     []string         `json:"codes,omitempty"`
	Field     string           `json:"field,omitempty"`

	FollowUp *progress.FollowUp `json:"follow_up,omitempty"`
}

// Words are some words, or one.
type Words []string

// UnmarshalJSON reads a list of words or one word.
func (w *Words) UnmarshalJSON(data []byte) error {
	*w = nil
	if len(data) > 0 && data[0] == '"' {
		*w = Words{""}
		return json.Unmarshal(data, &(*w)[0])
	}
	return json.Unmarshal(data, (*[]string)(w))
}

// Kinds of marks.
const (
	Start    = "start"
	Go       = "go"
	Here     = "here" // somebody is there, and leads
	Tap      = "tap"
	Pause    = "pause"
	Resume   = "resume"
	Talk     = "talk"
	Break    = "break"
	Mode     = "mode"
	Unseen   = "unseen"
	Seek     = "seek"
	Load     = "load"
	Helped   = "helped"
	Set      = "set"
	Layer    = "layer"
	Setting  = "setting"
	Form     = "form"
	Fault    = "fault"
	Warning  = "warning"
	Symptom  = "symptom"
	Felt     = "felt"
	Compare  = "compare"
	Changed  = "changed"
	Change   = "change"
	Check    = "check"
	Breaths  = "breaths"
	Note     = "note"
	Flag     = "flag"
	Undo     = "undo"
	End      = "end"
	Correct  = "correct"
	FollowUp = "follow_up"
)

// Kinds lists them.
var Kinds = []string{
	Start,
	Go,
	Here,
	Tap,
	Pause,
	Resume,
	Talk,
	Break,
	Mode,
	Unseen,
	Seek,
	Load,
	Helped,
	Set,
	Layer,
	Setting,
	Form,
	Fault,
	Warning,
	Symptom,
	Felt,
	Compare,
	Changed,
	Change,
	Check,
	Breaths,
	Note,
	Flag,
	Undo,
	End,
	Correct,
	FollowUp,
}

// Late are the kinds accepted after a session was closed.
var Late = []string{Correct, Note, FollowUp}

// Changes are what a change on the spot can be.
var Changes = []string{
	"ease",
	"down",
	"place",
	"swap",
	"other-side",
	"add",
	"repeat",
	"more",
	"later",
	"next",
	"drop",
	"leave",
	"trial",
	"skip",
	"dose",
	"minute",
}

// Help are the ways an instructor helps.
var Help = []string{"guided", "held", "anchored"}

// Bounds of what is accepted (product defaults; those of amounts are the log document's).
const (
	MostMarks   = 5000
	mostText    = 4000
	mostWord    = 100
	mostPain    = 10
	mostSets    = 20
	mostReps    = 200
	mostHold    = 1200
	mostBreaths = 100
	mostRep     = 1000
	mostSeconds = 4 * 3600
)

// Bounds is what the marks of a session may name: so many items and seconds, and these warning signs.
type Bounds struct {
	Items   int
	Seconds float64
	Flags   []string
}

// Problem says what is wrong with a mark, empty when nothing is.
func (m *Mark) Problem(b Bounds) string {
	items, seconds := b.Items, b.Seconds
	switch {
	case m.Key == "" || len(m.Key) > mostWord:
		return fmt.Sprintf("key: give one of up to %d characters", mostWord)
	case !slices.Contains(Kinds, m.Kind):
		return fmt.Sprintf("kind: found %q, allowed: %s", short(m.Kind), strings.Join(Kinds, ", "))
	case m.At.IsZero():
		return "at: give the time it was made"
	case !(m.Pos >= 0 && m.Pos <= max(seconds, 0)+0.01):
		return fmt.Sprintf("pos: found %g, allowed: 0 to %g", m.Pos, seconds)
	case m.Item != nil && (*m.Item < 0 || *m.Item >= items):
		return fmt.Sprintf("item: found %d, allowed: 0 to %d", *m.Item, items-1)
	case !slices.Contains(sides, m.Side):
		return fmt.Sprintf("side: found %q, allowed: %s", short(string(m.Side)), strings.Join(trade.Words(sides[1:]), ", "))
	case m.Set < 0 || m.Set > mostSets:
		return fmt.Sprintf("set: found %d, allowed: 0 to %d", m.Set, mostSets)
	case m.Rep < 0 || m.Rep > mostRep:
		return fmt.Sprintf("rep: found %d, allowed: 0 to %d", m.Rep, mostRep)
	case !(m.S >= 0 && m.S <= mostSeconds):
		return fmt.Sprintf("s: found %g, allowed: 0 to %d", m.S, mostSeconds)
	case m.Pain != nil && !(*m.Pain >= 0 && *m.Pain <= mostPain):
		return fmt.Sprintf("pain: found %v, allowed: 0 to %d", *m.Pain, mostPain)
	}
	for _, f := range []struct{ name, text string }{{"device", m.Device}, {"by", m.By}, {"member", m.Member},
		{"why", m.Why}, {"where", m.Where}, {"of", m.Of}, {"field", m.Field}, {"say", m.Say}, {"unit", m.Unit}} {
		if len(f.text) > mostWord {
			return fmt.Sprintf("%s: %d characters, allowed: %d", f.name, len(f.text), mostWord)
		}
	}
	if len(m.From)+len(m.To)+len(m.Value) > mostText || len(m.Text) > mostText {
		return fmt.Sprintf("text: more than %d characters", mostText)
	}
	return m.words(b)
}

var sides = []trade.Side{"", trade.None, trade.Left, trade.Right, trade.Each, trade.Alternate}

func short(s string) string {
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}

// words says what is wrong with what a mark says.
func (m *Mark) words(b Bounds) string {
	one := func(name, found string, allowed []string) string {
		if found == "" || slices.Contains(allowed, found) {
			return ""
		}
		return fmt.Sprintf("%s: found %q, allowed: %s", name, short(found), strings.Join(allowed, ", "))
	}
	problems := []string{
		one("fault", m.Fault, say.FaultCodes),
		one("because", m.Because, progress.Endings),
		one("what", m.What, Changes),
		one("how", m.How, Help),
		one("mode", m.Mode, []string{score.Led, score.Flowing}),
		one("check", m.Check, []string{"sij_side", "clock_hours", "tight_turn", "from_memory"}),
	}
	for _, f := range m.Felt {
		problems = append(problems, one("felt", f, progress.Felt))
	}
	for _, f := range m.Codes {
		problems = append(problems, one("codes", f, b.Flags))
	}
	if i := slices.IndexFunc(problems, func(p string) bool { return p != "" }); i >= 0 {
		return problems[i]
	}
	if lacks, ok := needs[m.Kind]; ok {
		if p := lacks(m); p != "" {
			return p
		}
	}
	if m.Done != nil {
		if p := amountProblem("done", *m.Done); p != "" {
			return p
		}
	}
	if m.Load != nil {
		return loadProblem(m.Load)
	}
	return ""
}

// needs says what a mark of a kind lacks, empty when nothing.
var needs = map[string]func(m *Mark) string{
	Set: func(m *Mark) string { return missing("done", m.Done == nil) },
	Felt: func(m *Mark) string {
		if len(m.Felt) == 0 || len(m.Felt) > len(progress.Felt) {
			return "felt: give some words"
		}
		return ""
	},
	Undo: func(m *Mark) string { return missing("of", m.Of == "") },
	Fault: func(m *Mark) string {
		if m.Of == "" || m.Fault == "" {
			return "of, fault: give both"
		}
		return ""
	},
	Change: func(m *Mark) string { return missing("what", m.What == "") },
	Seek: func(m *Mark) string {
		_, ok := number(m.To)
		return missing("to", !ok)
	},
	Unseen: func(m *Mark) string {
		a, ok := number(m.From)
		z, fine := number(m.To)
		if !ok || !fine || a < 0 || z < a {
			return "from, to: give both, in order"
		}
		return ""
	},
	Compare: func(m *Mark) string { return oneValue(m, "left", "right", "same") },
	Changed: func(m *Mark) string { return oneValue(m, "yes", "little", "no") },
	Check: func(m *Mark) string {
		if v := string(m.Value); m.Check == "from_memory" && v != "true" && v != "false" {
			return "value: allowed: true, false"
		}
		return missing("check", m.Check == "")
	},
	FollowUp: func(m *Mark) string {
		if m.FollowUp == nil {
			return "follow_up: is missing"
		}
		return followUpProblem(m.FollowUp)
	},
	Correct: func(m *Mark) string {
		if !slices.Contains(Fields, m.Field) && !slices.Contains(SessionFields, m.Field) {
			return fmt.Sprintf(
				"field: found %q, allowed: %s",
				short(m.Field),
				strings.Join(slices.Concat(Fields, SessionFields), ", "),
			)
		}
		return ""
	},
}

func missing(name string, is bool) string {
	if is {
		return name + ": is missing"
	}
	return ""
}

// oneValue holds a mark's value to a list of words.
func oneValue(m *Mark, allowed ...string) string {
	if v := word(m.Value); !slices.Contains(allowed, v) {
		return fmt.Sprintf("value: found %q, allowed: %s", short(v), strings.Join(allowed, ", "))
	}
	return ""
}

func amountProblem(name string, a progress.Amount) string {
	for _, f := range []struct {
		name        string
		found, most int
	}{
		{"sets", a.Sets, mostSets},
		{"reps", a.Reps, mostReps},
		{"hold_s", a.HoldS, mostHold},
		{"hold_breaths", a.HoldBreaths, mostBreaths},
	} {
		if f.found < 0 || f.found > f.most {
			return fmt.Sprintf("%s.%s: found %d, allowed: 0 to %d", name, f.name, f.found, f.most)
		}
	}
	return ""
}

func loadProblem(l *progress.Load) string {
	for _, f := range []struct {
		name        string
		found, most float64
	}{
		{"surface_cm", l.SurfaceCM, 200},
		{"anchor_cm", l.AnchorCM, 300},
		{"pad_level", float64(l.PadLevel), 20},
		{"pad_offset_cm", l.PadOffsetCM, 100},
		{"weight_kg", l.WeightKG, 100},
	} {
		if !(f.found >= -f.most && f.found <= f.most) {
			return fmt.Sprintf("load.%s: found %g, allowed: up to %g", f.name, f.found, f.most)
		}
	}
	if len(l.Band) > mostWord || len(l.Spring) > mostWord || len(l.Help) > 10 {
		return fmt.Sprintf("load: words of up to %d characters", mostWord)
	}
	return ""
}

func followUpProblem(f *progress.FollowUp) string {
	switch {
	case f.Soreness != nil && !(*f.Soreness >= 0 && *f.Soreness <= mostPain):
		return fmt.Sprintf("follow_up.soreness: found %g, allowed: 0 to %d", *f.Soreness, mostPain)
	case f.SettledH != nil && !(*f.SettledH >= 0 && *f.SettledH <= 400):
		return fmt.Sprintf("follow_up.settled_h: found %g, allowed: 0 to 400", *f.SettledH)
	case f.Kind != "" && !slices.Contains(progress.Sorenesses, f.Kind):
		return fmt.Sprintf("follow_up.kind: found %q, allowed: %s", short(f.Kind), strings.Join(progress.Sorenesses, ", "))
	case f.Effect != "" && !slices.Contains(progress.Effects, f.Effect):
		return fmt.Sprintf("follow_up.effect: found %q, allowed: %s", short(f.Effect), strings.Join(progress.Effects, ", "))
	case f.Home < 0 || f.Home > 31:
		return fmt.Sprintf("follow_up.home: found %d, allowed: 0 to 31", f.Home)
	}
	return ""
}

// number reads a number.
func number(raw json.RawMessage) (f float64, ok bool) {
	return f, len(raw) > 0 && raw[0] != 'n' && json.Unmarshal(raw, &f) == nil
}

// word reads a word.
func word(raw json.RawMessage) (w string) {
	_ = json.Unmarshal(raw, &w) // anything else is no word
	return w
}
