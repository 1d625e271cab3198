// Package catalogue turns the exercise files into versions with measured movement. It is
// given bytes and solved poses; it opens no files itself.
//
// A family is a set of branches, each a ladder of versions, easiest first. A version has
// phases, each a pose; what the poses ask of the body is measured, never tagged.
package catalogue

import (
	"fmt"
	"sort"
	"strings"
	"sync"

	"restbend/core/body"
	"restbend/core/dose"
	"restbend/core/say"
	"restbend/core/trade"
)

// Aims a version may serve.
var Aims = []string{
	"breathing",
	"spinal-mobility",
	"deep-core",
	"anti-extension",
	"anti-side-bend",
	"anti-rotation",
	"back-strength",
	"hip-strength",
	"hip-mobility",
	"thoracic-mobility",
	"leg-strength",
	"balance",
	"bone-loading",
	"posture",
	"relaxation",
	"ankle-foot",
	"arm-strength",
}

// PositionWords says a position as an instructor does: on the back, all fours.
func PositionWords(position trade.Position) string {
	if n, ok := map[trade.Position]string{trade.Supine: "on the back", trade.Prone: "on the front",
		trade.SideLying: "on the side"}[position]; ok {
		return n
	}
	return strings.ReplaceAll(string(position), "-", " ")
}

// Kit and surfaces known to the formats.
var (
	Kit = []string{
		string(trade.Mat),
		string(trade.Bed),
		string(trade.Chair),
		string(trade.Sofa),
		string(trade.Counter),
		string(trade.Wall),
		"towel",
		"pillow",
		"dowel",
		"band",
		"ball",
		"ring",
		"dumbbell",
		"strap",
		"bolster",
		"raised-pad",
		string(trade.Carriage),
		"cushion",
		"table",
		"large-ball",
	}
	Schools = []string{"reps", "short-holds", "long-hold", "breaths"}
	// Settings are the load settings of the log format.
	Settings = []string{"surface_cm", "band", "anchor_cm", "pad_level", "pad_offset_cm", "spring", "weight_kg", "help"}
	Declared = []string{
		"breath-hold-risk",
		"vision-off",
		"quick",
		"impact",
		"fast-breathing",
		"head-turns",
		"spring-light",
		"spring-medium",
		"spring-heavy",
	}
)

// Version is one exercise at one rung.
type Version struct {
	Slug      string          `yaml:"version"`
	Family    string          `yaml:"family"`
	Name      string          `yaml:"name"`
	Aliases   []string        `yaml:"aliases"`
	MainAims  []string        `yaml:"aims"`           // what it is for
	Also      []string        `yaml:"also,omitempty"` // what it serves besides
	Aims      []string        `yaml:"-"`              // both, the main ones first
	Position  trade.Position  `yaml:"position"`
	Camera    string          `yaml:"camera,omitempty"` // from where it is seen; else as the poses say
	Surfaces  []trade.Surface `yaml:"surfaces"`
	Kit       []string        `yaml:"kit"`               // without it the exercise is another
	Helpful   []string        `yaml:"helpful,omitempty"` // makes it comfortable or precise
	SideMode  trade.Side      `yaml:"side_mode"`         // none, each or alternate
	SideMeans string          `yaml:"side_means"`        // what "left" names
	// what side this must be: curve-opens, curve-works or jammed-up
	Binds     string            `yaml:"binds,omitempty"`
	Compares  string            `yaml:"compares"`        // what is compared between the sides
	Hours     []int             `yaml:"hours,omitempty"` // of the pelvic clock that a pass leads over
	Chain     string            `yaml:"chain"`
	Effort    int               `yaml:"effort"` // 1-10
	Unit      string            `yaml:"unit"`
	Changes   string            `yaml:"changes"` // the one thing that differs from the rung before
	DoseNames map[string]string `yaml:"doses"`
	Declared  []string          `yaml:"declared"`
	Bed       Answer            `yaml:"bed"`
	Chair     Swap              `yaml:"chair"`
	Say       say.Say           `yaml:"say"`
	Earlier   earlier           `yaml:",inline"`           // its words, where they stand as before the slots
	Faults    []say.Fault       `yaml:"faults"`            // what can be seen: a code of FaultCodes, in words
	Shaking   string            `yaml:"shaking,omitempty"` // what trembling means, a word of Shaking
	// still, or cycle: the round repeats while the hold runs
	Hold      string `yaml:"hold,omitempty"`
	Turn      string `yaml:"turn,omitempty"`       // when direction changes inside a set: rep or half
	InsteadOf string `yaml:"instead_of,omitempty"` // floor or free: a version for people who cannot
	// for who stands with a hold: an ease of its own, or a version
	Sibling string `yaml:"held,omitempty"`
	// steps follow each other: no one-leg or narrow stand
	Walking bool   `yaml:"walking,omitempty"`
	Copies  string `yaml:"copies,omitempty"` // of an own version: the entry it was made from
	// of an own version: why it is easier than that entry
	Lighter  string   `yaml:"lighter,omitempty"`
	Eases    []Ease   `yaml:"eases,omitempty"`
	Cautions []string `yaml:"cautions,omitempty"` // to mind with anybody
	Settings []string `yaml:"settings,omitempty"` // load settings worth recording
	Swaps    []Swap   `yaml:"swaps,omitempty"`    // other families that keep the purpose, and why
	// a version that measures or reads alike, and why both exist
	Same       Swap                      `yaml:"same_as,omitempty"`
	Phases     []Phase                   `yaml:"phases"`
	On         map[trade.Surface]*Placed `yaml:"on,omitempty"` // how it is done elsewhere than on its own surface
	Start      bool                      `yaml:"-"`            // a place to begin
	Gate       *Gate                     `yaml:"-"`            // what opens it when it is not
	Revision   int                       `yaml:"revision"`
	Superseded string                    `yaml:"superseded,omitempty"` // of an old revision: the day and what changed
	Branch     int                       `yaml:"-"`
	Rung       int                       `yaml:"-"`
	Set        bool                      `yaml:"-"` // member of a set: not a rung of its family
	Doses      map[string][]dose.Dose    `yaml:"-"`
	// the side the file describes: left, or right when absent
	Drawn      trade.Side `yaml:"authored,omitempty"`
	Authored   body.Side  `yaml:"-"`
	Quantities Quantities `yaml:"-"` // of the authored side
	CheckAgain string     `yaml:"-"` // why an own version's poses must be checked before it is planned anew
	Solved     *Solved    `yaml:"-"`
	written    []Swap
	file       *file
	entry      int // in the file
}

// Placed is a version on another surface: with its own prop and postures, solved and
// measured again.
type Placed struct {
	Kit        []string          `yaml:"kit"`
	Note       string            `yaml:"note"`
	Phases     map[string]string `yaml:"phases"` // whole poses by phase
	Quantities Quantities        `yaml:"-"`
	Solved     *Solved           `yaml:"-"`
}

// Variant is a placed version as an ease is written, for solving.
func (p *Placed) Variant(place trade.Surface) *Ease {
	return &Ease{Slug: string(place), Name: p.Note, Phases: p.Phases}
}

// At is a version as it is done on a surface: with the postures and the props of that place
// where it has its own.
func (v *Version) At(surface trade.Surface) *Version {
	on := v.On[surface]
	if on == nil || on.Solved == nil {
		return v
	}
	w := *v
	w.Solved, w.Quantities, w.Kit, w.Eases = on.Solved, on.Quantities, on.Kit, nil
	return &w
}

// KitAt is what a version needs on a surface.
func (v *Version) KitAt(surface trade.Surface) []string {
	if on := v.On[surface]; on != nil {
		return on.Kit
	}
	return v.Kit
}

// Answer says whether a version works on a firm bed.
type Answer struct {
	Answer string `yaml:"answer"` // works, change or no
	Note   string `yaml:"note"`
}

// Swap names the chair version that keeps the purpose, or why there is none.
type Swap struct {
	Version string `yaml:"version"`
	Note    string `yaml:"note"`
}

// Ease is a small change of the same version that is solved and measured again. Phases
// holds extra pose statements by phase.
type Ease struct {
	Slug string `yaml:"slug"`
	Name string `yaml:"name"`
	// what is said of it: one sentence, first in the set-up; a few words for the player and print; and what
	// stands in slots of the exercise instead
	Say     string            `yaml:"say,omitempty"`
	Short   string            `yaml:"short,omitempty"`
	Instead map[string]string `yaml:"instead,omitempty"`
	// a thing that stops the movement where it should end, and of which quantities (their first words; all when
	// none is named); without one it rests on words alone
	StoppedBy string   `yaml:"stopped_by,omitempty"`
	Stops     []string `yaml:"stops,omitempty"`
	// so little is left that it is another exercise: its words stay for plans that have it, new ones do not get it
	Another    bool              `yaml:"another,omitempty"`
	Offered    bool              `yaml:"-"` // enough of the movement is left to be the same exercise
	Phases     map[string]string `yaml:"phases"`
	Kit        []string          `yaml:"kit,omitempty"` // one of these is needed, when any is named
	Also       []string          `yaml:"-"`             // ... and one of these: of the entry's own ease in both at once
	Shared     bool              `yaml:"-"`             // from the file of shared eases, not the entry
	placed     bool              // not an ease: the version on another surface
	Together   bool              `yaml:"-"` // one of the entry's own and a shared one at once
	with       *Ease             // of two at once: the shared one
	Quantities Quantities        `yaml:"-"`
	Solved     *Solved           `yaml:"-"`
}

// Sentences are what is said of an ease before the set-up: one sentence, of two eases at once both.
func (e *Ease) Sentences() (out []string) {
	if e.Say != "" {
		out = append(out, e.Say)
	}
	if e.with != nil {
		out = append(out, e.with.Say)
	}
	return out
}

// Stopped tells whether a thing, not words alone, holds a quantity where the ease has it.
func (e *Ease) Stopped(quantity string) bool {
	head, _, _ := strings.Cut(quantity, ".")
	return e.StoppedBy != "" && (len(e.Stops) == 0 || Has(e.Stops, head)) || e.with != nil && e.with.Stopped(quantity)
}

// pose is the text of a phase with the ease: its statements after the phase's own, or a
// whole pose of its own where it begins with from.
func (e *Ease) pose(p Phase) string {
	own := strings.TrimSpace(e.Phases[p.Name])
	if strings.HasPrefix(own, "from ") {
		return own
	}
	return p.Pose + "\n" + own
}

// Ease is one of a version's eases, nil when it has none of that name.
func (v *Version) Ease(slug string) *Ease {
	for i := range v.Eases {
		if v.Eases[i].Slug == slug {
			return &v.Eases[i]
		}
	}
	return nil
}

// Eased is a version as it is done with one of its eases: the same entry in its eased
// postures.
func (v *Version) Eased(slug string) (*Version, bool) {
	e := v.Ease(slug)
	if e == nil || e.Solved == nil {
		return nil, false
	}
	w := *v
	w.Solved, w.Quantities = e.Solved, e.Quantities
	return &w, true
}

// HeldSibling is what a client does who stands with a hold: a version and, where there is
// one, its ease. It is the version itself, with no ease, where none is named; the ease is
// "?" for a name that is not there.
func (c *Catalogue) HeldSibling(v *Version) (*Version, string) {
	if v.Sibling == "" {
		return v, ""
	}
	slug, ease, both := strings.Cut(v.Sibling, "/")
	switch w := c.bySlug[slug]; {
	case both && w != nil && w.Ease(ease) != nil:
		return w, ease
	case !both && w != nil:
		return w, ""
	case !both && v.Ease(slug) != nil:
		return v, slug
	}
	return v, "?"
}

// Phase is one posture of an exercise and the breath that leads into it. A first posture
// taken once is the way in: it is measured like the others and not repeated.
type Phase struct {
	Name    string  `yaml:"name"`
	Breath  string  `yaml:"breath"`
	Seconds float64 `yaml:"seconds"`
	Held    bool    `yaml:"held"`
	Once    bool    `yaml:"once,omitempty"`
	Pose    string  `yaml:"pose"`
}

// Round is the index of the first phase that is repeated.
func (v *Version) Round() int {
	if len(v.Phases) > 0 && v.Phases[0].Once {
		return 1
	}
	return 0
}

// Next is the index of the phase after phase i of a round.
func (v *Version) Next(i int) int {
	if i+1 < len(v.Phases) {
		return i + 1
	}
	return v.Round()
}

// Family is a named ladder of branches.
type Family struct {
	Name     string
	Set      bool
	Branches [][]string // slugs, easiest first, of all authored versions
}

// Catalogue is every authored version.
type Catalogue struct {
	Preferences Preferences
	Versions    []*Version
	Families    []*Family
	bySlug      map[string]*Version
	byFamily    map[string]*Family
	onLadder    map[string]bool // every slug of the ladders file
	presets     map[string][]dose.Dose
	names       []TradeName                  // what exercises are called elsewhere
	old         map[string]map[int]*oldEntry // by slug and revision

	tableOnce sync.Once
	table     *Table
}

// Version returns a version by slug.
func (c *Catalogue) Version(slug string) (*Version, bool) {
	v, ok := c.bySlug[slug]
	return v, ok
}

// Family returns a family by name.
func (c *Catalogue) Family(name string) (*Family, bool) {
	f, ok := c.byFamily[name]
	return f, ok
}

// Slugs lists every version.
func (c *Catalogue) Slugs() []string {
	out := make([]string, len(c.Versions))
	for i, v := range c.Versions {
		out[i] = v.Slug
	}
	return out
}

// Next is the authored version one rung up in the same branch, or nil.
func (c *Catalogue) Next(v *Version) *Version { return c.step(v, 1) }

// Previous is the authored version one rung down in the same branch, or nil.
func (c *Catalogue) Previous(v *Version) *Version { return c.step(v, -1) }

func (c *Catalogue) step(v *Version, by int) *Version {
	f := c.byFamily[v.Family]
	if v.Set || f == nil || v.Branch >= len(f.Branches) { // an own version not in use yet has no branch
		return nil
	}
	b := f.Branches[v.Branch]
	for i, s := range b {
		if s == v.Slug && i+by >= 0 && i+by < len(b) {
			return c.bySlug[b[i+by]]
		}
	}
	return nil
}

// Alternatives are versions of other families that serve the same first aims in the same
// position with like effort, best first.
func (c *Catalogue) Alternatives(v *Version, n int) []*Version {
	type scored struct {
		v     *Version
		score float64
	}
	var all []scored
	for _, w := range c.Versions {
		if w.Family == v.Family {
			continue
		}
		score := 0.0
		for i, a := range v.Aims {
			for k, b := range w.Aims {
				if a == b {
					score += 2 / float64(1+i+k)
				}
			}
		}
		if score == 0 {
			continue
		}
		if w.Position == v.Position {
			score++
		}
		d := w.Effort - v.Effort
		all = append(all, scored{w, score - 0.4*float64(max(d, -d))})
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].score > all[j].score })
	var out []*Version
	for i := 0; i < len(all) && i < n; i++ {
		out = append(out, all[i].v)
	}
	return out
}

// Has tells whether a list holds a word.
func Has[W ~string](list []W, word W) bool {
	for _, w := range list {
		if w == word {
			return true
		}
	}
	return false
}

// ladder is one family line of the ladders file.
type ladder struct {
	set      bool
	branches [][]string
}

// parseLadders reads "family*: a b | c" lines; # begins a comment.
func parseLadders(text string) (map[string]ladder, []string, error) {
	out := map[string]ladder{}
	var order []string
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		name, rest, ok := strings.Cut(line, ":")
		if !ok {
			return nil, nil, fmt.Errorf("ladders.txt:%d: expected family: versions", i+1)
		}
		name, set := strings.CutSuffix(name, "*")
		l := ladder{set: set}
		for _, br := range strings.Split(rest, "|") {
			l.branches = append(l.branches, strings.Fields(br))
		}
		out[name] = l
		order = append(order, name)
	}
	return out, order, nil
}

// place finds each version's branch and rung and builds the families.
func (c *Catalogue) place(ladders map[string]ladder, order []string) []string {
	var problems []string
	for _, l := range ladders {
		for _, br := range l.branches {
			for _, s := range br {
				c.onLadder[s] = true
			}
		}
	}
	for _, v := range c.Versions {
		l, ok := ladders[v.Family]
		if !ok {
			problems = append(problems, v.problem("family", fmt.Sprintf("unknown family %q", v.Family)))
			continue
		}
		found := false
		for b, br := range l.branches {
			for r, s := range br {
				if s == v.Slug {
					v.Branch, v.Rung, v.Set, found = b, r, l.set, true
				}
			}
		}
		if !found {
			problems = append(problems, v.problem("version", fmt.Sprintf("%q is not on the ladder of %s", v.Slug, v.Family)))
		}
	}
	for _, name := range order {
		f := &Family{Name: name, Set: ladders[name].set}
		any := false
		for _, br := range ladders[name].branches {
			var have []string
			for _, s := range br {
				if _, ok := c.bySlug[s]; ok {
					have = append(have, s)
					any = true
				}
			}
			f.Branches = append(f.Branches, have)
		}
		if any {
			c.Families = append(c.Families, f)
			c.byFamily[name] = f
		}
	}
	sort.SliceStable(c.Versions, func(i, j int) bool {
		a, b := c.Versions[i], c.Versions[j]
		if a.Family != b.Family {
			return index(order, a.Family) < index(order, b.Family)
		}
		if a.Branch != b.Branch {
			return a.Branch < b.Branch
		}
		return a.Rung < b.Rung
	})
	return problems
}

func index(list []string, word string) int {
	for i, w := range list {
		if w == word {
			return i
		}
	}
	return len(list)
}
