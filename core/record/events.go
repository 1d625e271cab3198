package record

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"restbend/core/progress"
	"restbend/core/trade"
)

// events takes in what was marked while the session ran.
func (f *fold) events() {
	faults := map[string]string{}
	for i := range f.marks {
		if m := &f.marks[i]; m.Kind == Fault {
			faults[m.Of] = m.Fault
		}
	}
	for i := range f.marks {
		m := &f.marks[i]
		if it := f.item(m); it != nil {
			f.event(it, m, faults)
		}
	}
}

// event takes one mark into its line.
func (f *fold) event(it *progress.Item, m *Mark, faults map[string]string) {
	switch m.Kind {
	case Form:
		formLost(it, m, faults)
	case Warning:
		if it.WarningRep == nil || m.Rep < *it.WarningRep {
			rep := max(1, m.Rep)
			it.WarningRep = &rep
		}
	case Symptom:
		symptom(it, m)
	case Felt:
		felt(it, m.Felt...)
		if m.Pain != nil && (it.Pain == nil || *m.Pain >= *it.Pain) { // the worst counts
			it.Pain, it.Where = m.Pain, m.Where
		}
	case Load:
		clean := slices.ContainsFunc(it.Tried, func(x progress.Tried) bool { return x.Clean && x.Load != nil })
		if m.Load != nil && !clean { // in a search a setting is moved to before it is tried: the last clean one stays
			it.Load = m.Load
		}
	case Helped:
		it.Helped = m.How
	case Compare:
		it.Compare = word(m.Value)
	case Layer:
		if to := word(m.To); to != "" {
			it.Tried = append(it.Tried, progress.Tried{Version: to})
		}
	case Changed:
		f.note(
			fmt.Sprintf(
				"%s: %s",
				strings.ReplaceAll(it.Version, "-", " "),
				map[string]string{"yes": "it changed", "little": "it changed a little", "no": "nothing changed"}[word(m.Value)],
			),
		)
	case Setting:
		it.Tried = append(it.Tried, progress.Tried{Load: m.Load, Clean: m.Clean, Felt: m.Felt})
		if m.Clean && m.Load != nil { // the last clean one is what is kept
			it.Load = m.Load
		}
	case Change:
		f.change(it, m)
	}
	reach(it, m)
}

// formLost ends an exercise by its form, with the fault that was named then or later.
func formLost(it *progress.Item, m *Mark, faults map[string]string) {
	code := m.Fault
	if c, ok := faults[m.Key]; ok {
		code = c
	}
	if it.EndedBy != progress.BySymptom {
		it.EndedBy = progress.ByForm
	}
	it.FormLostS = earlier(it.FormLostS, m.S)
	it.Fault = append(it.Fault, progress.Fault{Code: cmp.Or(code, "other"), Side: oneSide(m.Side), S: m.S})
}

// reach notes that an exercise something was marked in was reached.
func reach(it *progress.Item, m *Mark) {
	if slices.Contains([]string{Form, Warning, Symptom, Setting, Helped}, m.Kind) && it.Reached != nil && !*it.Reached {
		yes := true
		it.Reached, it.Confirmed = &yes, &yes
		if it.EndedBy == "" {
			it.EndedBy = progress.ByChoice
		}
	}
}

func oneSide(s trade.Side) trade.Side {
	if s.One() {
		return s
	}
	return ""
}

// symptom takes in where something hurt and what was answered: a travelling pain, numbness or weakness,
// dizziness and the chest are said by their words, which end a session.
func symptom(it *progress.Item, m *Mark) {
	it.EndedBy = progress.BySymptom
	single := it.Target.Reps <= 1 && it.Target.HoldS+it.Target.HoldBreaths > 0 && m.S > 0 // one hold: a matter of seconds
	switch {
	case m.Rep == 0 || single:
		it.SymptomS = earlier(it.SymptomS, m.S)
	case it.SymptomRep == nil || m.Rep < *it.SymptomRep:
		rep := m.Rep
		it.SymptomRep = &rep
	}
	if m.Pain != nil {
		felt(it, "pain")
		if it.Pain == nil || *m.Pain >= *it.Pain {
			it.Pain, it.Where = m.Pain, m.Where
		}
	}
	felt(it, m.Answers()...)
	felt(it, m.Felt...)
}

// AnswerWords are the felt words of what is answered to a symptom.
func AnswerWords() map[string]string {
	return map[string]string{"travels": "travels-down", "numb_or_weak": "numbness", "dizzy": "dizziness", "chest": "chest"}
}

// AnswerLabels say what is asked at a symptom, in the order in which it is asked.
func AnswerLabels() [][2]string {
	return [][2]string{
		{"travels", "travels down the limb"},
		{"numb_or_weak", "numb or weak"},
		{"chest", "chest"},
		{"dizzy", "dizzy"},
	}
}

// Places are where something may hurt, the commonest first.
func Places() []string {
	return []string{"low-back", "upper-back", "neck", "hip", "belly", "shoulder", "leg", "arm", "hand", "knee"}
}

// Answers are the felt words of what was answered to a symptom.
func (m *Mark) Answers() (out []string) {
	words := AnswerWords()
	for _, a := range []struct {
		yes  bool
		name string
	}{{m.Travels, "travels"}, {m.Numb, "numb_or_weak"}, {m.Dizzy, "dizzy"}, {m.Chest, "chest"}} {
		if a.yes {
			out = append(out, words[a.name])
		}
	}
	return out
}

func felt(it *progress.Item, words ...string) {
	for _, w := range words {
		if !slices.Contains(it.Felt, w) {
			it.Felt = append(it.Felt, w)
		}
	}
}

// earlier is the first time something happened, seconds: what came before it was clean.
func earlier(before *float64, s float64) *float64 {
	if before != nil && *before <= s {
		return before
	}
	return &s
}

// change notes what was changed on the spot and leaves a trace in the log.
func (f *fold) change(it *progress.Item, m *Mark) {
	name := strings.ReplaceAll(it.Version, "-", " ")
	switch m.What {
	case "skip":
		if yes := true; it.Reached != nil && !*it.Reached {
			it.Reached = &yes
		}
		if it.EndedBy == "" || it.EndedBy == progress.ByTarget {
			it.EndedBy = progress.ByChoice
		}
		f.note("skipped: " + name)
	case "ease":
		f.note("eased: " + name)
	}
}

func (f *fold) note(text string) { addNote(&f.out, text) }

func addNote(s *progress.Session, text string) {
	if text = strings.TrimSpace(text); text != "" && !slices.Contains(strings.Split(s.Notes, "\n"), text) {
		s.Notes = strings.TrimSpace(s.Notes + "\n" + text)
	}
}
