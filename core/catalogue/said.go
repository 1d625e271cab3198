package catalogue

import (
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"
)

// Said is a sentence of an entry and the word that programs know it by: a fault that can be
// seen and its code, a place that should work and its name on the body. In a file it is
// "code: sentence"; entries older than the codes have the sentence alone.
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

// FaultSays are what can be seen going wrong, in words.
func (v *Version) FaultSays() []string { return Sentences(v.Faults) }

// FeltIn is where the exercise should be felt, in words.
func (v *Version) FeltIn() []string { return Sentences(v.Feel) }

// ReadSaid reads a line as somebody types it: "code: sentence" when the word before the
// colon is one of the codes, else the sentence under the given code.
func ReadSaid(line string, codes []string, other string) Said {
	if code, say, ok := strings.Cut(line, ":"); ok && Has(codes, strings.TrimSpace(code)) && strings.TrimSpace(say) != "" {
		return Said{strings.TrimSpace(code), strings.TrimSpace(say)}
	}
	return Said{other, strings.TrimSpace(line)}
}

// Line writes what ReadSaid reads.
func (s Said) Line() string {
	if s.Code == "" || s.Code == "other" {
		return s.Say
	}
	return s.Code + ": " + s.Say
}

// withoutCodes are the sentences as entries had them before the codes.
func withoutCodes(list []Said) []Said {
	out := make([]Said, len(list))
	for i, s := range list {
		out[i].Say = s.Say
	}
	return out
}

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
