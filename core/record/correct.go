package record

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"restbend/core/progress"
	"restbend/core/say"
	"restbend/core/trade"
)

// Fields of a line that can be corrected, by their names in the log document.
var Fields = []string{
	"done.sets",
	"done.reps",
	"done.hold_s",
	"done.hold_breaths",
	"sets_done",
	"side",
	"ended_by",
	"felt",
	"fault",
	"confirmed",
	"reached",
	"helped",
	"trial",
	"pain",
	"where",
	"symptom_at_rep",
	"symptom_at_s",
	"symptom_at_set",
	"warning_at_rep",
	"warning_at_s",
	"warning_at_set",
	"short",
	"form_lost_s",
	"compare",
	"load",
	"next",
}

// SessionFields are those of the session itself.
var SessionFields = []string{"pain_start", "pain_end", "ended_because", "notes"}

// correct sets one field of a line, or of the session, to what a correction says, and keeps who, when and what
// it was before. An amount said as a whole stands for its sets, unless it is the one they had made.
func correct(s *progress.Session, it *progress.Item, made progress.Item, m *Mark) error {
	if slices.Contains(SessionFields, m.Field) {
		next := *s
		if err := set1(&next, m); err != nil {
			return err
		}
		if why := sessionProblem(&next); why != "" {
			return errors.New(why)
		}
		*s = next
		return nil
	}
	if it == nil {
		return errors.New("item: not in this session")
	}
	next := *it
	if err := set1(&next, m); err != nil {
		return err
	}
	if why := lineProblem(&next); why != "" {
		return errors.New(why)
	}
	if strings.HasPrefix(m.Field, "done.") {
		if next.SetsDone = nil; next.Done == made.Done {
			next.SetsDone = made.SetsDone
		}
	}
	if strings.HasPrefix(m.Field, "done.") || slices.Contains([]string{"sets_done", "confirmed", "reached"}, m.Field) {
		ended(&next)
	}
	next.Corrections = append(
		slices.Clone(it.Corrections),
		progress.Correction{
			At:    m.At.UTC().Format(time.RFC3339),
			By:    m.By,
			Field: m.Field,
			From:  value(m.From),
			To:    value(m.To),
			Why:   m.Why,
		},
	)
	*it = next
	return nil
}

// ended says anew whether a line got to its target, where nothing else ended it.
func ended(it *progress.Item) {
	reached, confirmed := it.Reached == nil || *it.Reached, it.Confirmed == nil || *it.Confirmed
	switch {
	case !slices.Contains([]string{"", progress.ByTarget, progress.ByChoice}, it.EndedBy):
	case !reached:
		it.EndedBy = ""
	case !it.Whole():
		it.EndedBy = progress.ByChoice
	case confirmed:
		it.EndedBy = progress.ByTarget
	default:
		it.EndedBy = ""
	}
}

func value(raw json.RawMessage) (v any) {
	_ = json.Unmarshal(raw, &v) // nothing is null
	return v
}

// set1 writes a value at a path of a document; null takes it out.
func set1[T any](doc *T, m *Mark) error {
	text, err := json.Marshal(doc)
	if err != nil {
		return err
	}
	var tree map[string]any
	if err := json.Unmarshal(text, &tree); err != nil {
		return err
	}
	at := tree
	path := strings.Split(m.Field, ".")
	for _, p := range path[:len(path)-1] {
		in, ok := at[p].(map[string]any)
		if !ok {
			in = map[string]any{}
			at[p] = in
		}
		at = in
	}
	if v := value(m.To); v == nil {
		delete(at, path[len(path)-1])
	} else {
		at[path[len(path)-1]] = v
	}
	if text, err = json.Marshal(tree); err != nil {
		return err
	}
	var out T
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&out); err != nil {
		return fmt.Errorf("%s: %w", m.Field, err)
	}
	*doc = out
	return nil
}

// endings of a line.
var lineEndings = []string{
	"",
	progress.ByTarget,
	progress.ByForm,
	progress.BySymptom,
	progress.ByBreath,
	progress.ByChoice,
}

// lineProblem says what is out of range in a line, empty when nothing is.
func lineProblem(it *progress.Item) string {
	switch {
	case !slices.Contains(sides, it.Side):
		return fmt.Sprintf("side: found %q, allowed: %s", it.Side, strings.Join(trade.Words(sides[1:]), ", "))
	case !slices.Contains(lineEndings, it.EndedBy):
		return fmt.Sprintf("ended_by: found %q, allowed: %s", it.EndedBy, strings.Join(lineEndings[1:], ", "))
	case it.Helped != "" && !slices.Contains(Help, it.Helped):
		return fmt.Sprintf("helped: found %q, allowed: %s", it.Helped, strings.Join(Help, ", "))
	case !slices.Contains([]string{"", "left", "right", "same"}, it.Compare):
		return fmt.Sprintf("compare: found %q, allowed: left, right, same", it.Compare)
	case !slices.Contains([]string{"", progress.SameAgain, progress.NotAgain}, it.Next):
		return fmt.Sprintf("next: found %q, allowed: %s, %s", short(it.Next), progress.SameAgain, progress.NotAgain)
	case it.Pain != nil && !(*it.Pain >= 0 && *it.Pain <= mostPain):
		return fmt.Sprintf("pain: found %v, allowed: 0 to %d", *it.Pain, mostPain)
	case len(it.Where) > mostWord:
		return fmt.Sprintf("where: allowed: up to %d characters", mostWord)
	case len(it.SetsDone) > mostSets:
		return fmt.Sprintf("sets_done: allowed: up to %d sets", mostSets)
	}
	if p := listProblem(it); p != "" {
		return p
	}
	for _, a := range append([]progress.Amount{it.Done}, it.SetsDone...) {
		if p := amountProblem("done", a); p != "" {
			return p
		}
	}
	if it.Load != nil {
		return loadProblem(it.Load)
	}
	return ""
}

// listProblem says what of a repetition, a second, or of what was felt or seen, cannot be.
func listProblem(it *progress.Item) string {
	switch {
	case it.SymptomRep != nil && (*it.SymptomRep < 0 || *it.SymptomRep > mostRep),
		it.WarningRep != nil && (*it.WarningRep < 0 || *it.WarningRep > mostRep):
		return fmt.Sprintf("rep: allowed: 0 to %d", mostRep)
	case it.SymptomSet != nil && (*it.SymptomSet < 0 || *it.SymptomSet > mostSets),
		it.WarningSet != nil && (*it.WarningSet < 0 || *it.WarningSet > mostSets):
		return fmt.Sprintf("set: allowed: 0 to %d", mostSets)
	case it.SymptomS != nil && !(*it.SymptomS >= 0 && *it.SymptomS <= mostSeconds),
		it.WarningS != nil && !(*it.WarningS >= 0 && *it.WarningS <= mostSeconds),
		it.FormLostS != nil && !(*it.FormLostS >= 0 && *it.FormLostS <= mostSeconds):
		return fmt.Sprintf("seconds: allowed: 0 to %d", mostSeconds)
	}
	for _, w := range it.Felt {
		if !slices.Contains(progress.Felt, w) {
			return fmt.Sprintf("felt: found %q, allowed: %s", short(w), strings.Join(progress.Felt, ", "))
		}
	}
	for _, f := range it.Fault {
		if !slices.Contains(say.FaultCodes, f.Code) {
			return fmt.Sprintf("fault: found %q, allowed: %s", short(f.Code), strings.Join(say.FaultCodes, ", "))
		}
		if f.Side != "" && !f.Side.One() {
			return fmt.Sprintf("fault: side: found %q, allowed: left, right", short(string(f.Side)))
		}
	}
	return ""
}

// CorrectionProblem says why a correction of a session cannot be kept, empty when it can.
func CorrectionProblem(s progress.Session, it *progress.Item, m *Mark) string {
	var made progress.Item
	if it != nil {
		made = *it
		own := made
		it = &own
	}
	if err := correct(&s, it, made, m); err != nil {
		return err.Error()
	}
	return ""
}

// sessionProblem says what is out of range in what is said of a whole session, empty when nothing is.
func sessionProblem(s *progress.Session) string {
	if s.PainStart != nil && !(*s.PainStart >= 0 && *s.PainStart <= mostPain) ||
		s.PainEnd != nil && !(*s.PainEnd >= 0 && *s.PainEnd <= mostPain) {
		return fmt.Sprintf("pain: allowed: 0 to %d", mostPain)
	}
	if s.Ended != "" && !slices.Contains(progress.Endings, s.Ended) {
		return fmt.Sprintf("ended_because: found %q, allowed: %s", short(s.Ended), strings.Join(progress.Endings, ", "))
	}
	if len(s.Notes) > mostText {
		return fmt.Sprintf("notes: allowed: up to %d characters", mostText)
	}
	return ""
}

// hours reads hours of the pelvic clock.
func hours(raw json.RawMessage) (out []int) {
	var all []int
	if json.Unmarshal(raw, &all) != nil {
		return nil
	}
	for _, h := range all {
		if h >= 1 && h <= 12 && !slices.Contains(out, h) {
			out = append(out, h)
		}
	}
	return out
}
