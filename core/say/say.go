// Package say knows the words of an exercise and the slots they lie in.
//
// What is said of an exercise lies in slots that have names: setup.1, setup.2 and so on are
// the steps of its first set-up, drift.full and drift.key the lines of its phase "drift", then
// image, feel, and fault.CODE for what can be seen going wrong. How much is said, eases and an
// instructor's own words all address the same slots. An ease, for example
//
//	{slug: smaller, say: "Only half as far to the side.", short: half as far,
//	 instead: {drift.full: "Let both knees drift half as far.", drift.key: "Half as far."}}
//
// puts its sentence before the steps, its short words where only key words or numbers are said,
// and its lines into the slots it names. A slot named with nothing is not said; one that is not
// named stays. None of this is the exercise itself: words have a lock of their own
// (words.lock) and raise no revision.
package say

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"
)

// Say is what is said to the client.
type Say struct {
	Setup  Setup           `yaml:"setup" json:"setup"`
	Phases map[string]Line `yaml:"phases" json:"phases"`
	Image  string          `yaml:"image" json:"image"`
	Feel   []Said          `yaml:"feel" json:"feel"` // where it should be felt: a place of FeltAt and its words
	Core   string          `yaml:"core,omitempty" json:"core,omitempty"`
	Stop   []string        `yaml:"stop" json:"stop"`
}

// Setup is how a posture is taken, in short steps: the first time, and shorter once it is known.
type Setup struct {
	First  []string `yaml:"first" json:"first"`
	Second []string `yaml:"second,omitempty" json:"second,omitempty"`
	Third  []string `yaml:"third,omitempty" json:"third,omitempty"`
}

// Line is what is said on the way into a phase: while it is learned, and in key words.
type Line struct {
	Full string `yaml:"full" json:"full"`
	Key  string `yaml:"key" json:"key"`
}

// Fault is what can be seen going wrong, by its code: in words, what mends it, where to look
// and what the hands do.
type Fault struct {
	Code  string `yaml:"code,omitempty" json:"code"`
	Say   string `yaml:"say" json:"say"`
	Mend  string `yaml:"mend,omitempty" json:"mend,omitempty"`
	Hands string `yaml:"hands,omitempty" json:"hands,omitempty"`
	Look  string `yaml:"look,omitempty" json:"look,omitempty"`
}

// UnmarshalYAML reads a fault, or one of an older entry: its words alone or "code: words".
func (f *Fault) UnmarshalYAML(n *yaml.Node) error {
	if n.Kind != yaml.MappingNode || len(n.Content) == 2 && n.Content[0].Value != "say" {
		var s Said
		err := s.UnmarshalYAML(n)
		f.Code, f.Say = s.Code, s.Say
		return err
	}
	for i := 0; i < len(n.Content); i += 2 {
		into, ok := map[string]*string{"code": &f.Code, "say": &f.Say, "mend": &f.Mend, "hands": &f.Hands, "look": &f.Look}[n.Content[i].Value]
		if !ok {
			return fmt.Errorf("line %d: field %s not found, allowed: code, say, mend, hands, look", n.Content[i].Line, n.Content[i].Value)
		}
		*into = n.Content[i+1].Value
	}
	return nil
}

// KeyWords are the key words of an older entry's cue, which had none of their own: up to its
// first stop.
func KeyWords(s string) string {
	for i, r := range s {
		if !strings.ContainsRune(",;.:", r) {
			continue
		}
		if next := strings.Fields(s[i+1:]); r == ',' && len(next) > 1 && next[1] == "and" { // a list
			continue
		}
		return s[:i] + "."
	}
	return s
}

// Cues are the two lines and the image that printed pages and older documents show.
type Cues struct {
	In    string `yaml:"in" json:"in"`
	Out   string `yaml:"out" json:"out"`
	Image string `yaml:"image" json:"image"`
}

// Words are what is said of a version as it is done.
type Words struct {
	Ease   []string // sentences of its ease: they stand first in the set-up
	Short  string   // the ease in a few words, where key words or numbers are said
	Setup  []string // the steps after the ease's sentences
	Phases map[string]Line
	Cues   Cues
	Feel   []string
	Core   string
	Stop   []string
	Faults []Fault
}

// Steps are the whole set-up: the ease first.
func (w *Words) Steps() []string { return append(slices.Clone(w.Ease), w.Setup...) }

// Put writes a text into a slot; ok is false when there is no such slot.
func (w *Words) Put(slot, text string) (ok bool) {
	where, what, _ := strings.Cut(slot, ".")
	switch {
	case where == "setup":
		n, err := strconv.Atoi(what)
		if err != nil || n < 1 || n > len(w.Setup) {
			return false
		}
		w.Setup[n-1] = text
	case slot == "image":
		w.Cues.Image = text
	case slot == "feel":
		w.Feel = []string{text}
	case where == "fault":
		for i := range w.Faults {
			if w.Faults[i].Code == what {
				w.Faults[i].Say = text
				ok = true
			}
		}
		return ok
	default:
		i := strings.LastIndex(slot, ".")
		if i < 0 {
			return false
		}
		l, known := w.Phases[slot[:i]]
		switch slot[i+1:] {
		case "full":
			l.Full = text
		case "key":
			l.Key = text
		default:
			return false
		}
		if !known {
			return false
		}
		w.Phases[slot[:i]] = l
	}
	return true
}

// Said is a sentence of an entry and the word that programs know it by: a place that should
// work and its name on the body. In a file it is "code: sentence"; entries older than the
// codes have the sentence alone.
type Said struct{ Code, Say string }

// UnmarshalYAML reads a sentence, or one code with its sentence.
func (s *Said) UnmarshalYAML(n *yaml.Node) error {
	if n.Kind == yaml.ScalarNode {
		s.Say = n.Value
		return nil
	}
	if n.Kind != yaml.MappingNode || len(n.Content) != 2 || n.Content[1].Kind != yaml.ScalarNode {
		return fmt.Errorf("line %d: expected one code and its sentence", n.Line)
	}
	s.Code, s.Say = n.Content[0].Value, n.Content[1].Value
	return nil
}

// MarshalYAML writes what UnmarshalYAML reads.
func (s Said) MarshalYAML() (any, error) {
	if s.Code == "" {
		return s.Say, nil
	}
	return map[string]string{s.Code: s.Say}, nil
}

// Sentences are the sentences without their codes.
func Sentences(list []Said) []string {
	out := make([]string, len(list))
	for i, s := range list {
		out[i] = s.Say
	}
	return out
}

// FaultSays are faults in words.
func FaultSays(list []Fault) []string {
	out := make([]string, len(list))
	for i, f := range list {
		out[i] = f.Say
	}
	return out
}

// FaultSays are what can be seen going wrong with these words.
func (w *Words) FaultSays() []string { return FaultSays(w.Faults) }

// Line writes what ReadSaid reads.
func (s Said) Line() string {
	if s.Code == "" || s.Code == "other" {
		return s.Say
	}
	return s.Code + ": " + s.Say
}

// Line writes a fault as ReadSaid reads it.
func (f Fault) Line() string { return Said{f.Code, f.Say}.Line() }

// FaultCodes name what can be seen going wrong (shared ruling 41).
var FaultCodes = []string{
	"sag",
	"arch",
	"hip-drop",
	"pelvis-turn",
	"twist",
	"shoulder-to-ear",
	"ribs-flare",
	"knee-in",
	"neck",
	"rocking",
	"shaking",
	"breath-held",
	"too-fast",
	"other",
}

// FeltAt name the places where an exercise may be felt, each a place on the drawn body.
var FeltAt = []string{
	"belly",
	"low-belly",
	"waist",
	"side-ribs",
	"back-ribs",
	"chest",
	"between-blades",
	"shoulders",
	"arms",
	"hands",
	"neck",
	"back",
	"low-back",
	"pelvis",
	"buttocks",
	"outer-hips",
	"front-of-hips",
	"inner-thighs",
	"front-of-thighs",
	"back-of-thighs",
	"calves",
	"feet",
}

// Shaking says what trembling means in an exercise, by the word an entry has for it
// (common practice; domain/04: the first loss of form ends a hold, shaking that cannot be
// steadied is one).
var Shaking = map[string]string{
	"work":   "A fine tremor is effort. Steady it within a breath; what cannot be steadied ends the set.",
	"stop":   "Shaking means the load is too high today: end the set and take the easier setting.",
	"sway":   "Small sway of foot and ankle is the exercise. A grab for the hold or a step ends the repetition.",
	"judder": "A judder marks a place that is not yet controlled: note it, and pass it again slower.",
	"rest":   "Nothing should tremble here: make it smaller, support it, or rest.",
}

// ReadSaid reads a line as somebody types it: "code: sentence" when the word before the
// colon is one of the codes, else the sentence under the given code.
func ReadSaid(line string, codes []string, other string) Said {
	if code, say, ok := strings.Cut(line, ":"); ok && slices.Contains(codes, strings.TrimSpace(code)) && strings.TrimSpace(say) != "" {
		return Said{strings.TrimSpace(code), strings.TrimSpace(say)}
	}
	return Said{other, strings.TrimSpace(line)}
}
