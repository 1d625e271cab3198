package record

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"restbend/core/progress"
	"restbend/core/score"
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
		f.formLost(it, m, faults)
	case Warning:
		it.Mark(SignOf(f.score, m))
	case Symptom:
		symptom(it, m, SignOf(f.score, m))
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
				f.name(it),
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

// asked leaves a line of an urgent sign that was taken back: it was marked, and the client was asked again.
func (f *fold) asked(m *Mark) {
	if !m.Urgent() {
		return
	}
	var words []string
	for _, w := range append(m.Answers(), m.Felt...) {
		if slices.Contains(progress.Urgent, w) {
			words = append(words, progress.FeltWords(w))
		}
	}
	where := ""
	if it := f.item(m); it != nil {
		where = " in " + f.name(it)
	}
	f.out.TakenBack = append(f.out.TakenBack, fmt.Sprintf("Marked%s and taken back: %s. Asked again, no sign", where, strings.Join(words, ", ")))
}

// name is what an exercise of the session is called.
func (f *fold) name(it *progress.Item) string {
	for i := range f.score.Items {
		if s := &f.score.Items[i]; s.Version == it.Version && s.Name != "" {
			return s.Name
		}
	}
	return strings.ReplaceAll(it.Version, "-", " ")
}

// formLost ends an exercise by its form, with the fault that was named then or later. What is seen before the work has
// begun is a fault, and ends nothing.
func (f *fold) formLost(it *progress.Item, m *Mark, faults map[string]string) {
	code := m.Fault
	if c, ok := faults[m.Key]; ok {
		code = c
	}
	it.Fault = append(it.Fault, progress.Fault{Code: cmp.Or(code, "other"), Side: oneSide(m.Side), S: m.S})
	if f.before(m) {
		return
	}
	if it.EndedBy != progress.BySymptom {
		it.EndedBy = progress.ByForm
	}
	it.FormLostS = earlier(it.FormLostS, m.S)
}

// before tells that a mark was made before the work of its exercise had begun.
func (f *fold) before(m *Mark) bool {
	if len(f.score.Segments) == 0 || m.Rep > 0 || m.S > 0 && m.Item == nil {
		return false
	}
	g := &f.score.Segments[madeAt(f.score, m.Pos)]
	return g.Kind == score.Setup && (m.Item == nil || *m.Item == g.Item)
}

// reach notes that an exercise something was marked in was reached.
func reach(it *progress.Item, m *Mark) {
	if slices.Contains([]string{Form, Warning, Symptom, Felt, Setting, Helped}, m.Kind) && it.Reached != nil && !*it.Reached {
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
func symptom(it *progress.Item, m *Mark, sign progress.Sign) {
	it.EndedBy = progress.BySymptom
	it.Mark(sign)
	if m.Pain != nil {
		felt(it, "pain")
		if it.Pain == nil || *m.Pain >= *it.Pain {
			it.Pain, it.Where = m.Pain, m.Where
		}
	}
	felt(it, m.Answers()...)
	felt(it, m.Felt...)
}

// SignOf is where a symptom or a warning came, as its mark says and the score has it: what is marked in the rest
// before a set is of that set, what is marked in the extra or on the way to the next exercise comes after the last one.
func SignOf(s *score.Score, m *Mark) progress.Sign {
	sign := progress.Sign{Warning: m.Kind == Warning, Set: max(1, m.Set), Rep: m.Rep}
	if len(s.Segments) == 0 {
		sign.HoldS = m.S
		return sign
	}
	i := madeAt(s, m.Pos)
	way := false
	for i > 0 && (s.Segments[i].Kind == score.Move || s.Segments[i].Kind == score.Finish) {
		i, way = i-1, true
	}
	g := &s.Segments[i]
	item := g.Item
	if m.Item != nil {
		item = *m.Item
	}
	held := func() bool { d := &s.Items[item].Dose; return d.HoldS+d.HoldBreaths+d.HoldCounts+d.WindowS > 0 }
	switch {
	case item != g.Item: // said from elsewhere: as the mark has it
		switch {
		case m.Rep <= 1 && m.S > 0 && held():
			sign.HoldS = m.S
		case m.Rep == 0 && m.Set <= 1:
			sign = progress.Sign{Warning: sign.Warning}
		}
	case m.Rep > 0 && (g.Kind != score.Work || way && m.Set == 0 || m.Set > 0 && (m.Set != g.Set || m.Rep != g.Rep)):
		if m.Rep == 1 && held() { // said of a repetition that is over
			sign.HoldS = m.S
		}
	case way && g.Kind == score.Work || g.Extra:
		sign = progress.Sign{Warning: sign.Warning, Set: g.OfSets + 1}
	case g.Kind == score.Work:
		sign.Set, sign.Rep = max(1, m.Set, g.Set), max(m.Rep, 1)
		if m.Set > 0 {
			sign.Set = m.Set
		}
		if m.Rep == 0 {
			sign.Rep = max(1, g.Rep)
		}
		rep := s.Segments[i].Start // of the repetition
		for k := i; k >= 0 && s.Segments[k].SameRep(g); k-- {
			rep = s.Segments[k].Start
		}
		switch {
		case sign.Rep > 1 || !held():
		case m.S > m.Pos-rep+1: // said of a second that the position does not give
			sign.HoldS = m.S
		case g.Phase == score.Hold || g.Phase == score.Window:
			sign.HoldS = cmp.Or(m.S, m.Pos-s.Segments[holdStart(s, i)].Start)
		case g.Phase == score.Out: // all of the hold had gone by
			for k := i - 1; k >= 0 && s.Segments[k].SameRep(g) && s.Segments[k].Phase == score.Hold; k-- {
				sign.HoldS += s.Segments[k].End - s.Segments[k].Start
			}
		}
	case g.Kind == score.Rest && g.Set > 1:
		sign = progress.Sign{Warning: sign.Warning, Set: g.Set}
	default:
		sign = progress.Sign{Warning: sign.Warning}
	}
	sign.HoldS = progress.SecondOf(sign.HoldS)
	return sign
}

// madeAt is the segment in which a mark was made. One that is cut there was cut by what followed from the mark.
func madeAt(s *score.Score, pos float64) int {
	i := s.Running(pos)
	if i > 0 && s.Segments[i-1].Cut && math.Abs(s.Segments[i-1].End-pos) < 2e-3 {
		i--
	}
	return i
}

// holdStart is the first segment of the hold that a segment is part of.
func holdStart(s *score.Score, i int) int {
	for i > 0 && s.Segments[i-1].Phase == score.Hold && s.Segments[i-1].SameRep(&s.Segments[i]) {
		i--
	}
	return i
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
	name := f.name(it)
	switch m.What {
	case "skip", "leave":
		if yes := true; it.Reached != nil && !*it.Reached {
			it.Reached = &yes
		}
		if it.EndedBy == "" || it.EndedBy == progress.ByTarget {
			it.EndedBy = progress.ByChoice
		}
		f.note(map[string]string{"skip": "Skipped: ", "leave": "Left: "}[m.What] + name)
	case "ease":
		f.note("Eased: " + name)
	}
}

func (f *fold) note(text string) { addNote(&f.out, text) }

func addNote(s *progress.Session, text string) {
	if text = strings.TrimSpace(text); text != "" && !slices.Contains(strings.Split(s.Notes, "\n"), text) {
		s.Notes = strings.TrimSpace(s.Notes + "\n" + text)
	}
}
