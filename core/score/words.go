package score

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"restbend/core/say"
	"restbend/core/trade"
)

// How much is said: everything, key words (for what was done three times), or numbers only.
const (
	Full    = "full"
	Key     = "key"
	Numbers = "numbers"
)

// Levels lists them.
var Levels = []string{Full, Key, Numbers}

// keyFrom is in how many sessions an exercise was done from which key words are enough (domain/08).
const keyFrom = 3

// Words are what is said and what is shown in one segment.
type Words struct {
	Say   string   // once, when it begins
	Count []string // one after the other in equal parts of the segment: numbers, also said
	Side  string   // shown where that side is; empty for no side
	Shown string   // the line that says where one is: repetition, set, lap
	Cue   string   // the one cue of this phase, shown
}

// LevelFor is how much is said of an item when the instructor asks for full words: what was done three times
// starts at key words.
func (s *Score) LevelFor(item int, asked string) string {
	if asked == Full && s.Items[item].Times >= keyFrom {
		return Key
	}
	return asked
}

// Words of segment i. Up counts repetitions up, else down; the last three are said as three more, two more,
// last one.
func (s *Score) Words(i int, level string, up bool) Words {
	g := &s.Segments[i]
	it := &s.Items[g.Item]
	w := Words{Side: s.sideShown(g), Shown: shown(g, it), Cue: cue(g, it)}
	switch g.Kind {
	case Move, Finish:
		w.Say = steps(g, level)
	case Setup:
		w.Say = s.setup(g, it, level)
	case Change:
		w.Say = join(changeSay(g), sideSentence(it, g.Side, level), s.easeAt(i, level))
		if it.Block > 0 && s.again(i) { // in a side block the set-up on the other side
			w.Say = join(it.Name+".", sideSentence(it, g.Side, level), s.easeAt(i, level))
		}
	case Rest:
		w.Say = fmt.Sprintf("Rest, %s.", secondsWords(g.End-g.Start))
		if len(g.Asks) > 0 && level != Numbers {
			w.Say += " Which side was better: left, right, or the same?"
		}
	case Reset:
		w.Say = map[string]string{"in": "Arms up, breathe in.", "out": "Arms down, breathe out."}[g.Breath]
	case Work:
		s.work(i, g, it, level, up, &w)
	}
	return w
}

// again tells whether the change before was of another item of the same side block.
func (s *Score) again(i int) bool {
	g := &s.Segments[i]
	for k := i - 1; k >= 0; k-- {
		b := &s.Segments[k]
		if s.Items[b.Item].Block != s.Items[g.Item].Block {
			return false
		}
		if b.Kind == Change {
			return true
		}
	}
	return false
}

func changeSay(g *Segment) string {
	if g.End-g.Start >= turnSeconds {
		return "Turn over."
	}
	return "Change sides."
}

// turnSeconds is from how long on a change is turning over (domain/07).
const turnSeconds = 15

func join(parts ...string) string {
	var some []string
	for _, p := range parts {
		if p = strings.TrimSpace(p); p != "" {
			some = append(some, p)
		}
	}
	return strings.Join(some, " ")
}

func (s *Score) sideShown(g *Segment) string {
	if g.Side.One() && g.Kind != Move && g.Kind != Finish && g.Kind != Reset {
		return string(g.Side)
	}
	return ""
}

// sideSentence are the words of a side: what to lie on, what opens, what works. They are never left out.
func sideSentence(it *Item, side trade.Side, level string) string {
	if !side.One() {
		return ""
	}
	if say := it.Sides[side]; say != "" && level != Numbers {
		return say
	}
	return strings.ToUpper(string(side[:1])) + string(side[1:]) + " side."
}

func steps(g *Segment, level string) string {
	var out []string
	for _, st := range g.Steps {
		out = append(out, st.Say)
	}
	if level == Numbers && len(out) > 0 { // what is asked on the way is never left out
		last := len(out) - 1
		return strings.Join(append(slices.DeleteFunc(slices.Clone(out[:last]), func(s string) bool { return !strings.Contains(s, "?") }), out[last]), " ")
	}
	return strings.Join(out, " ")
}

func (s *Score) setup(g *Segment, it *Item, level string) string {
	side := sideSentence(it, g.Side, level)
	if it.Side == trade.Alternate {
		side = "Sides in turn."
	}
	says := it.says(g.Side)
	switch level {
	case Full:
		return join(it.Name+".", strings.Join(says.Setup, " "), side, capital(spoken(it.DoseSays))+".")
	case Key:
		return join(it.Name+".", says.Short, side, capital(spoken(it.DoseSays))+".")
	}
	return join(it.Name+".", says.Short, side)
}

// easeAt is what is said of an ease where the sides change, at every level: its few words, and its
// sentence the first time that the one eased side has its turn.
func (s *Score) easeAt(i int, level string) string {
	g := &s.Segments[i]
	it := &s.Items[g.Item]
	says := it.says(g.Side)
	before := func(o Segment) bool {
		return o.Item == g.Item && o.Side == g.Side && (o.Kind == Setup || o.Kind == Change)
	}
	if level == Full && it.OtherSays != nil && !slices.ContainsFunc(s.Segments[:i], before) {
		return strings.Join(says.Ease, " ")
	}
	return says.Short
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

func secondsWords(s float64) string { return fmt.Sprintf("%g seconds", s) }

// more says the last three.
func more(left int) string { return []string{"last one", "two more", "three more"}[left-1] }

// repWords is the number of a repetition: counted up or down, the last three as what is left.
func repWords(n, of int, up bool) string {
	left := of - n + 1
	if left <= 3 && of > 3 {
		return more(left)
	}
	if up {
		return fmt.Sprint(n)
	}
	return fmt.Sprint(left)
}

// work says and counts what is done.
func (s *Score) work(i int, g *Segment, it *Item, level string, up bool, w *Words) {
	first := i == 0 || !s.Segments[i-1].SameRep(g)
	lead := ""
	if first {
		lead = s.leads(i, g)
		if g.Extra && g.Hours == nil && g.Rep == 1 {
			lead = join(fmt.Sprintf("And more on the %s.", g.Side), lead)
		}
	}
	if c := g.Count; c != nil && !g.Window && (c.Unit == "seconds" || c.Unit == "up" || c.Unit == "beats") {
		w.Count = countdown(c)
	}
	w.Say = join(lead, numberWords(g, first, up), said(g, cueWords(g, it, level), first), mark(g))
}

// cueWords are the words of the phase: while it is learned all of them, then key words at the first repetition.
func cueWords(g *Segment, it *Item, level string) string {
	line := lineOf(g, it)
	switch g.Cue {
	case "fault":
		line = say.Line{Full: fault(g, it), Key: fault(g, it)}
	case "hold":
		line = say.Line{Full: "hold", Key: "hold"}
	}
	switch {
	case level == Full && (g.Rep <= 2 || g.Cue == "fault"):
		return line.Full
	case level == Key && (g.Rep == 1 || g.Cue == "fault"):
		return line.Key
	}
	return ""
}

// lineOf is the line of the phase that a way leads to; of a way that leads nowhere else, and in scores of
// earlier releases, the cue of its breath.
func lineOf(g *Segment, it *Item) say.Line {
	says := it.says(g.Side)
	if f := g.Figure; f != nil && f.ToPhase != "" && f.ToPhase != f.Phase {
		if line, ok := says.Phases[f.ToPhase]; ok {
			return line
		}
	}
	switch g.Cue {
	case "in":
		return keyed(says, says.In)
	case "out":
		return keyed(says, says.Out)
	}
	return say.Line{}
}

// keyed is a cue with its key words: those of its phase where it has one.
func keyed(says *Says, full string) say.Line {
	for _, name := range slices.Sorted(maps.Keys(says.Phases)) {
		if line := says.Phases[name]; line.Full == full {
			return line
		}
	}
	return say.Line{Full: full, Key: say.KeyWords(full)}
}

// numberWords is the number that is said once: of the repetition, the breath, the lap or the pass.
func numberWords(g *Segment, first, up bool) string {
	c := g.Count
	if c == nil {
		return ""
	}
	n, of := c.From, max(c.Of, c.From)
	switch {
	case g.Phase == Hold && c.Unit == "breaths":
		if g.Breath == "in" {
			return fmt.Sprintf("breath %d", n)
		}
	case g.Hours != nil:
		if first {
			return fmt.Sprintf("pass %d of %d:", n, of)
		}
	case c.Unit == "laps":
		return fmt.Sprintf("lap %d of %d", n, of)
	case first && (c.Unit == "reps" || c.Unit == "steps" || c.Unit == "breaths"):
		return repWords(n, of, up)
	}
	return ""
}

// said is what is said of a segment besides its number, from the words of its cue.
func said(g *Segment, say string, first bool) string {
	c := g.Count
	switch {
	case g.Hours != nil && g.Hours.Extra:
		return fmt.Sprintf("weak hour %d, slowly: %d to %d", g.Hours.Weak[0], g.Hours.From, g.Hours.To)
	case g.Hours != nil:
		return fmt.Sprintf("%d to %d", g.Hours.From, g.Hours.To)
	case g.Phase == Hold && g.Last:
		return "and out on the next"
	case g.Phase == Hold && g.Breath != "free":
		return g.Breath
	case c == nil && g.ByFeel && first:
		return join(say, "by feel, until it changes")
	case c == nil:
		return say
	case g.Window:
		return fmt.Sprintf("As many as come in %d seconds.", c.From)
	case c.Unit == "up" && g.Best > 0:
		return fmt.Sprintf("hold, to the first loss of form; best %g, last time %g", g.Best, g.Was)
	case c.Unit == "up":
		return "hold, to the first loss of form"
	case c.Unit == "seconds" && say == "":
		return "hold"
	case c.Unit == "beats" && say == "":
		return g.Breath
	}
	return say
}

// mark calls the lower mark of a range.
func mark(g *Segment) string {
	c := g.Count
	switch {
	case c == nil || c.Mark == 0:
		return ""
	case g.Phase == Hold && c.Unit == "seconds":
		return fmt.Sprintf("enough from %d on", c.Mark)
	case g.Phase == Hold && c.Unit == "breaths" && c.From == c.Mark && g.Breath == "out",
		c.Unit == "reps" && c.From == c.Mark && g.Phase == Out:
		return "that is enough, or go on"
	}
	return ""
}

// spoken is a dose as it is said: sets of repetitions, not one number by another.
func spoken(dose string) string { return timesSign.ReplaceAllString(dose, "$1 sets of $2") }

var timesSign = regexp.MustCompile(`(\d+) x (\d+)`)

// leads is what comes before the number: the set, whose turn it is, the other way, the layer.
func (s *Score) leads(i int, g *Segment) string {
	var out []string
	if g.Rep == 1 && g.OfSets > 1 && !g.Extra {
		if g.OfReps == 1 {
			out = append(out, fmt.Sprintf("Set %d of %d.", g.Set, g.OfSets))
		} else {
			out = append(out, fmt.Sprintf("Set of %d.", g.OfReps))
		}
	}
	if g.Turned {
		out = append(out, "Other way.")
	}
	if g.InTurn {
		out = append(out, capital(string(g.Side))+".")
	}
	if g.Layer != "" && (i == 0 || s.Segments[i-1].Layer != g.Layer) {
		out = append(out, "Layer: "+strings.ReplaceAll(g.Layer, "-", " ")+".")
	}
	return strings.Join(out, " ")
}

// countdown are the numbers of a count, one after the other.
func countdown(c *Count) (out []string) {
	step := 1
	if c.To < c.From {
		step = -1
	}
	for n := c.From; ; n += step {
		out = append(out, fmt.Sprint(n))
		if n == c.To {
			return out
		}
	}
}

func fault(g *Segment, it *Item) string {
	faults := it.faults(g.Side)
	if len(faults) == 0 {
		return ""
	}
	return "Watch: " + faults[0].Say + "."
}

// cue is the one cue that is shown.
func cue(g *Segment, it *Item) string {
	says := it.says(g.Side)
	switch g.Cue {
	case "setup":
		return strings.Join(says.Setup, " ")
	case "in", "out":
		return lineOf(g, it).Full
	case "fault":
		return fault(g, it)
	case "hold":
		return says.Image
	}
	switch {
	case g.Hours != nil && g.Hours.Extra:
		return fmt.Sprintf("Weak hour %d, slowly: %d to %d", g.Hours.Weak[0], g.Hours.From, g.Hours.To)
	case g.Hours != nil:
		return fmt.Sprintf("%d to %d", g.Hours.From, g.Hours.To)
	case g.Kind == Work:
		return says.Image
	}
	return ""
}

// shown says where in the item one is.
func shown(g *Segment, it *Item) string {
	if g.Kind != Work {
		return ""
	}
	var out []string
	if g.OfSets > 1 {
		out = append(out, fmt.Sprintf("set %d of %d", g.Set, g.OfSets))
	}
	c := g.Count
	switch {
	case g.ByFeel:
		out = append(out, "by feel")
	case c == nil && g.OfReps > 1: // on the way there is no number, but one knows where one is
		out = append(out, fmt.Sprintf("%d of %d", g.Rep, g.OfReps))
	case c == nil:
	case c.Unit == "laps":
		out = append(out, fmt.Sprintf("lap %d of %d", c.From, c.Of))
		if g.Direction != "" {
			out = append(out, map[string]string{"forth": "this way", "back": "other way"}[g.Direction])
		}
	case c.Unit == "beats":
		out = append(out, fmt.Sprintf("%d of %d", c.Base+c.To, c.Of))
	case c.Unit == "breaths":
		out = append(out, fmt.Sprintf("breath %d of %d", c.From, c.Of))
	case g.Window:
		out = append(out, "count what comes")
	case g.OfReps > 1:
		out = append(out, fmt.Sprintf("%d of %d", g.Rep, g.OfReps))
	}
	if g.Extra {
		out = append(out, "extra")
	}
	return strings.Join(out, ", ")
}

// Text is a score in words, a line a segment: when, what is said, the numbers, the side and where one is.
func (s *Score) Text(level string, up bool) string {
	var b strings.Builder
	for i := range s.Segments {
		g := &s.Segments[i]
		w := s.Words(i, s.LevelFor(g.Item, level), up)
		fmt.Fprintf(&b, "%7.1f %7.1f  %-6s %-6s", g.Start, g.End, g.Kind, g.Phase)
		for _, part := range []string{w.Side, w.Shown} {
			if part != "" {
				fmt.Fprintf(&b, " [%s]", part)
			}
		}
		if w.Say != "" {
			fmt.Fprintf(&b, " %s", w.Say)
		}
		if len(w.Count) > 0 {
			fmt.Fprintf(&b, " (%s)", strings.Join(w.Count, " "))
		}
		if g.Wait && s.Mode == Led {
			b.WriteString(" ...go")
		}
		b.WriteByte('\n')
	}
	return b.String()
}
