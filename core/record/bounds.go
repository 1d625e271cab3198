package record

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"restbend/core/progress"
	"restbend/core/say"
	"restbend/core/score"
	"restbend/core/trade"
)

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
	mostRep     = 500
	mostInto    = 1200 // seconds into a repetition or a hold, of a line of the log
	mostSeconds = 4 * 3600
	mostRev     = 10000
	mostPerMin  = 60
	mostCodes   = 30
	mostDeep    = 6
	mostDigits  = 24
)

// Marks are made on days that can be: not before firstMade, and with a clock that is not more than mostAhead of ours.
var firstMade = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)

const mostAhead = 26 * time.Hour

// Bounds is what the marks of a session may name: so many items and seconds, these warning signs, and times up to now
// (times are not judged where it is zero).
type Bounds struct {
	Items   int
	Seconds float64
	Flags   []string
	Now     time.Time
}

// takes are the fields of a mark that its kind has, beside those of every mark: key, device, by, at, rev, pos, kind,
// item, side, set, rep, s, member, of, why, score, say.
var takes = map[string][]string{
	Start:    {"pain", "clear", "mode"},
	Go:       {"to"},
	Here:     nil,
	Tap:      {"unit"},
	Pause:    nil,
	Resume:   nil,
	Talk:     {"on"},
	Break:    {"on"},
	Mode:     {"mode"},
	Unseen:   {"from", "to"},
	Seek:     {"from", "to"},
	Load:     {"load"},
	Helped:   {"how"},
	Set:      {"done", "clean", "load"},
	Layer:    {"to"},
	Setting:  {"load", "clean", "felt"},
	Form:     {"fault", "to", "from"},
	Fault:    {"fault"},
	Warning:  signFields,
	Symptom:  signFields,
	Felt:     signFields,
	Compare:  {"value"},
	Changed:  {"value"},
	Change:   {"what", "from", "to", "load", "done", "value"},
	Check:    {"check", "value"},
	Breaths:  {"per_minute"},
	Note:     {"text"},
	Flag:     {"codes", "text"},
	Undo:     nil,
	End:      {"because", "pain", "text"},
	Correct:  {"field", "from", "to"},
	FollowUp: {"follow_up"},
}

var signFields = []string{"pain", "where", "travels", "numb_or_weak", "dizzy", "chest", "felt"}

// own are the fields that only some kinds have, with whether a mark says one.
var own = []struct {
	name string
	said func(m *Mark) bool
	drop func(m *Mark)
}{
	{"pain", func(m *Mark) bool { return m.Pain != nil }, func(m *Mark) { m.Pain = nil }},
	{"clear", func(m *Mark) bool { return m.Clear }, func(m *Mark) { m.Clear = false }},
	{"on", func(m *Mark) bool { return m.On }, func(m *Mark) { m.On = false }},
	{"mode", func(m *Mark) bool { return m.Mode != "" }, func(m *Mark) { m.Mode = "" }},
	{"unit", func(m *Mark) bool { return m.Unit != "" }, func(m *Mark) { m.Unit = "" }},
	{"from", func(m *Mark) bool { return says(m.From) }, func(m *Mark) { m.From = nil }},
	{"to", func(m *Mark) bool { return says(m.To) }, func(m *Mark) { m.To = nil }},
	{"value", func(m *Mark) bool { return says(m.Value) }, func(m *Mark) { m.Value = nil }},
	{"because", func(m *Mark) bool { return m.Because != "" }, func(m *Mark) { m.Because = "" }},
	{"load", func(m *Mark) bool { return m.Load != nil }, func(m *Mark) { m.Load = nil }},
	{"how", func(m *Mark) bool { return m.How != "" }, func(m *Mark) { m.How = "" }},
	{"done", func(m *Mark) bool { return m.Done != nil }, func(m *Mark) { m.Done = nil }},
	{"clean", func(m *Mark) bool { return m.Clean }, func(m *Mark) { m.Clean = false }},
	{"fault", func(m *Mark) bool { return m.Fault != "" }, func(m *Mark) { m.Fault = "" }},
	{"where", func(m *Mark) bool { return m.Where != "" }, func(m *Mark) { m.Where = "" }},
	{"travels", func(m *Mark) bool { return m.Travels }, func(m *Mark) { m.Travels = false }},
	{"numb_or_weak", func(m *Mark) bool { return m.Numb }, func(m *Mark) { m.Numb = false }},
	{"dizzy", func(m *Mark) bool { return m.Dizzy }, func(m *Mark) { m.Dizzy = false }},
	{"chest", func(m *Mark) bool { return m.Chest }, func(m *Mark) { m.Chest = false }},
	{"felt", func(m *Mark) bool { return len(m.Felt) > 0 }, func(m *Mark) { m.Felt = nil }},
	{"what", func(m *Mark) bool { return m.What != "" }, func(m *Mark) { m.What = "" }},
	{"check", func(m *Mark) bool { return m.Check != "" }, func(m *Mark) { m.Check = "" }},
	{"per_minute", func(m *Mark) bool { return m.PerMinute != 0 }, func(m *Mark) { m.PerMinute = 0 }},
	{"text", func(m *Mark) bool { return m.Text != "" }, func(m *Mark) { m.Text = "" }},
	{"codes", func(m *Mark) bool { return len(m.Codes) > 0 }, func(m *Mark) { m.Codes = nil }},
	{"field", func(m *Mark) bool { return m.Field != "" }, func(m *Mark) { m.Field = "" }},
	{"follow_up", func(m *Mark) bool { return m.FollowUp != nil }, func(m *Mark) { m.FollowUp = nil }},
}

// FieldsOf are the fields a kind of mark has beside those of every mark.
func FieldsOf(kind string) []string { return takes[kind] }

func says(raw json.RawMessage) bool { return len(raw) > 0 && string(raw) != "null" }

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
	case m.Rev < 0 || m.Rev > mostRev:
		return fmt.Sprintf("rev: found %d, allowed: 0 to %d", m.Rev, mostRev)
	case m.Score < 0 || m.Score > mostRev:
		return fmt.Sprintf("score: found %d, allowed: 0 to %d", m.Score, mostRev)
	case !b.Now.IsZero() && m.At.Before(firstMade):
		return fmt.Sprintf("at: found %s, allowed: from %s on", m.At.Format(time.RFC3339), firstMade.Format(time.DateOnly))
	case !b.Now.IsZero() && m.At.After(b.Now.Add(mostAhead)):
		return fmt.Sprintf("at: found %s, which lies after now (rule: no days to come)", m.At.Format(time.RFC3339))
	case m.Pain != nil && !(*m.Pain >= 0 && *m.Pain <= mostPain):
		return fmt.Sprintf("pain: found %v, allowed: 0 to %d", *m.Pain, mostPain)
	}
	for _, f := range []struct{ name, text string }{{"device", m.Device}, {"by", m.By}, {"member", m.Member},
		{"why", m.Why}, {"where", m.Where}, {"of", m.Of}, {"field", m.Field}, {"say", m.Say}, {"unit", m.Unit}} {
		if len(f.text) > mostWord {
			return fmt.Sprintf("%s: %d characters, allowed: %d", f.name, len(f.text), mostWord)
		}
	}
	for _, f := range []struct {
		name string
		raw  json.RawMessage
	}{{"from", m.From}, {"to", m.To}, {"value", m.Value}} {
		text := word(f.raw)
		if text == "" {
			text = string(f.raw)
		}
		if len(text) > mostText {
			return fmt.Sprintf("%s: more than %d characters", f.name, mostText)
		}
		if why := plainly(f.raw); why != "" {
			return f.name + ": " + why
		}
	}
	if n, is := m.tooFine(); is {
		return fmt.Sprintf("%s: allowed: numbers of up to six decimals", n)
	}
	if len(m.Text) > mostText {
		return fmt.Sprintf("text: more than %d characters", mostText)
	}
	for _, f := range own {
		if f.said(m) && !slices.Contains(takes[m.Kind], f.name) {
			return fmt.Sprintf("%s: not of a mark of kind %s, allowed: %s", f.name, m.Kind, strings.Join(takes[m.Kind], ", "))
		}
	}
	return m.words(b)
}

// plainly says what no document holds of a value that is kept as it came: a number with an exponent, or what lies deep.
func plainly(raw json.RawMessage) string {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	for depth := 0; len(raw) > 0; {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return ""
		} else if err != nil {
			return "is not JSON"
		}
		switch v := tok.(type) {
		case json.Delim:
			if depth++; v == '}' || v == ']' {
				depth -= 2
			}
			if depth > mostDeep {
				return fmt.Sprintf("lies deeper than %d levels", mostDeep)
			}
		case json.Number:
			if len(v) > mostDigits || strings.ContainsAny(string(v), "eE") {
				return "found a number with an exponent or too many digits, allowed: a plain number"
			}
		}
	}
	return ""
}

// tooFine names a number of a mark that would be written with an exponent.
func (m *Mark) tooFine() (name string, is bool) {
	numbers := []struct {
		name string
		f    float64
	}{{"pos", m.Pos}, {"s", m.S}, {"per_minute", m.PerMinute}}
	add := func(name string, f *float64) {
		if f != nil {
			numbers = append(numbers, struct {
				name string
				f    float64
			}{name, *f})
		}
	}
	add("pain", m.Pain)
	if l := m.Load; l != nil {
		add("load.surface_cm", &l.SurfaceCM)
		add("load.anchor_cm", &l.AnchorCM)
		add("load.pad_offset_cm", &l.PadOffsetCM)
		add("load.weight_kg", &l.WeightKG)
	}
	if u := m.FollowUp; u != nil {
		add("follow_up.soreness", u.Soreness)
		add("follow_up.settled_h", u.SettledH)
	}
	for _, n := range numbers {
		if n.f != 0 && math.Abs(n.f) < 1e-6 {
			return n.name, true
		}
	}
	return "", false
}

// Clocked gives a mark whose time cannot be, of a device whose clock is wrong, the time of now: what was said is not lost
// for it.
func (m *Mark) Clocked(now time.Time) {
	if !m.At.IsZero() && (m.At.Before(firstMade) || m.At.After(now.Add(mostAhead))) {
		m.At = now.UTC()
	}
}

// Fitted is a mark of an older program as the bounds of now have it: what its kind does not take is left out, and one
// that says what cannot be becomes a note that says so. The second value tells whether anything was changed.
func (m Mark) Fitted(b Bounds) (Mark, bool) {
	if m.Problem(b) == "" {
		return m, false
	}
	if slices.Contains(Kinds, m.Kind) {
		for _, f := range own {
			if !slices.Contains(takes[m.Kind], f.name) {
				f.drop(&m)
			}
		}
	}
	m.Clocked(b.Now)
	m.Rev, m.Score = max(0, min(m.Rev, mostRev)), max(0, min(m.Score, mostRev))
	why := m.Problem(b)
	if why == "" {
		return m, true
	}
	note := Mark{Key: cutTo(m.Key, mostWord), By: cutTo(m.By, mostWord), At: m.At, Rev: m.Rev, Kind: Note, Text: fmt.Sprintf("A mark (%s) that cannot be read any more: %s", short(m.Kind), why)}
	return note, true
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
	if len(m.Felt) > len(progress.Felt) || len(m.Codes) > mostCodes {
		return fmt.Sprintf("felt, codes: allowed: up to %d", mostCodes)
	}
	if m.Load != nil {
		return loadProblem(m.Load)
	}
	return ""
}

// slug is what names a version.
var slug = regexp.MustCompile(`^[a-z0-9-]{1,60}$`)

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
	Layer: func(m *Mark) string {
		if to := word(m.To); to != "" && !slug.MatchString(to) || to == "" && says(m.To) {
			return fmt.Sprintf("to: found %q, allowed: a version", short(string(m.To)))
		}
		return ""
	},
	Breaths: func(m *Mark) string {
		if !(m.PerMinute > 0 && m.PerMinute <= mostPerMin) {
			return fmt.Sprintf("per_minute: found %g, allowed: up to %d", m.PerMinute, mostPerMin)
		}
		return ""
	},
	Compare: func(m *Mark) string { return oneValue(m, "left", "right", "same") },
	Changed: func(m *Mark) string { return oneValue(m, "yes", "little", "no") },
	Check: func(m *Mark) string {
		switch m.Check {
		case "from_memory":
			if v := string(m.Value); v != "true" && v != "false" {
				return "value: allowed: true, false"
			}
		case "sij_side":
			return oneValue(m, "left", "right", "even", "")
		case "tight_turn":
			return oneValue(m, "left", "right", "")
		case "clock_hours":
			var all []int
			if says(m.Value) && json.Unmarshal(m.Value, &all) != nil || len(all) > 12 ||
				slices.ContainsFunc(all, func(h int) bool { return h < 1 || h > 12 }) {
				return fmt.Sprintf("value: found %s, allowed: hours from 1 to 12", short(string(m.Value)))
			}
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
		{"anchor_cm", l.AnchorCM, 500},
		{"pad_level", float64(l.PadLevel), 4},
		{"pad_offset_cm", l.PadOffsetCM, 60},
		{"weight_kg", l.WeightKG, 60},
	} {
		if !(f.found >= 0 && f.found <= f.most) {
			return fmt.Sprintf("load.%s: found %g, allowed: 0 to %g", f.name, f.found, f.most)
		}
	}
	if !slices.Contains([]string{"", "light", "medium", "heavy"}, l.Spring) {
		return fmt.Sprintf("load.spring: found %q, allowed: light, medium, heavy", short(l.Spring))
	}
	if len(l.Band) > mostWord || len(l.Help) > 10 ||
		slices.ContainsFunc(l.Help, func(w string) bool { return len(w) > mostWord }) {
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

// What a line, and a session, of the log document hold at most.
const (
	mostListed    = 300
	mostTakenBack = 50
	mostSaidBack  = 500
)

// fit keeps a log session within the bounds of its document, whatever its marks say together: of a list the last stay.
func fit(s *progress.Session) {
	s.Notes = cutTo(s.Notes, mostText)
	s.TakenBack = last(s.TakenBack, mostTakenBack)
	for i := range s.TakenBack {
		s.TakenBack[i] = cutTo(s.TakenBack[i], mostSaidBack)
	}
	s.Seconds = max(0, min(s.Seconds, mostSeconds))
	for i := range s.Items {
		it := &s.Items[i]
		it.SymptomRep, it.WarningRep = between(it.SymptomRep, 1, mostRep), between(it.WarningRep, 1, mostRep)
		it.SymptomSet, it.WarningSet = between(it.SymptomSet, 2, mostSets), between(it.WarningSet, 2, mostSets)
		it.SymptomS, it.WarningS = between(it.SymptomS, 0, mostInto), between(it.WarningS, 0, mostInto)
		it.FormLostS = between(it.FormLostS, 0, mostInto)
		it.Fault, it.Tried = last(it.Fault, mostListed), last(it.Tried, mostListed)
		it.Corrections, it.Felt = last(it.Corrections, mostListed), last(it.Felt, mostListed)
		for k := range it.Fault {
			it.Fault[k].S = max(0, min(it.Fault[k].S, mostInto))
		}
	}
}

// between is a number within bounds; one under the least is none.
func between[N int | float64](n *N, least, most N) *N {
	switch {
	case n == nil || *n >= least && *n <= most:
		return n
	case *n > most:
		return &most
	}
	return nil
}

func last[T any](list []T, most int) []T { return list[max(0, len(list)-most):] }

func cutTo(text string, most int) string {
	if len(text) <= most {
		return text
	}
	return strings.ToValidUTF8(text[:most-3], "") + "…"
}
