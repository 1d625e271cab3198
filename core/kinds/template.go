// Package kinds is what sessions are made of: the kinds of session that practice knows, their places,
// and their parts by minutes (domain/07).
package kinds

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/trade"
)

// A Template is a kind of session that practice knows: more constraints on the same
// planner, with its reason. Nil is the free choice.
type Template struct {
	Slug      string             `yaml:"slug"                  json:"slug"`
	Name      string             `yaml:"name"                  json:"name"`
	Reason    string             `yaml:"reason"                json:"reason"`
	Source    string             `yaml:"source"                json:"source"`
	Minutes   int                `yaml:"minutes"               json:"minutes"`             // proposed
	For       []string           `yaml:"for,omitempty"         json:"for,omitempty"`       // conditions it is proposed for
	Dose      string             `yaml:"dose,omitempty"        json:"dose,omitempty"`      // dose school
	Core      string             `yaml:"core,omitempty"        json:"core,omitempty"`      // core school
	Order     string             `yaml:"order,omitempty"       json:"order,omitempty"`     // order school
	Positions []trade.Position   `yaml:"positions,omitempty"   json:"positions,omitempty"` // only these
	Surfaces  []trade.Surface    `yaml:"surfaces,omitempty"    json:"surfaces,omitempty"`  // only these
	EffortCap int                `yaml:"effort_cap,omitempty"  json:"effort_cap,omitempty"`
	MaxStrong int                `yaml:"most_strong,omitempty" json:"most_strong,omitempty"`
	Aims      map[string]float64 `yaml:"aims,omitempty"        json:"aims,omitempty"` // instead of the client's
	Needs     []Need             `yaml:"needs,omitempty"       json:"needs,omitempty"`
	Prepare   []string           `yaml:"prepare,omitempty"     json:"prepare,omitempty"` // versions, always first
	Finish    []string           `yaml:"finish,omitempty"      json:"finish,omitempty"`  // versions, always last
	Resets    bool               `yaml:"resets,omitempty"      json:"resets,omitempty"`  // an arm sweep between postures

	Place string `yaml:"place,omitempty"       json:"place,omitempty"` // where it takes place, one of Places
	// has a length of its own: never padded
	Natural bool `yaml:"natural,omitempty"     json:"natural,omitempty"`
	// no front, side and back, no share down
	OwnContent bool   `yaml:"own_content,omitempty" json:"own_content,omitempty"`
	Parts      *Parts `yaml:"parts,omitempty"       json:"parts,omitempty"`      // how many of each part
	MostItems  int    `yaml:"most_items,omitempty"  json:"most_items,omitempty"` // with the opener and the closer
	// the main part holds only what is needed
	Only bool `yaml:"only,omitempty"        json:"only,omitempty"`
	// falling short holds, as many as the day allows
	Day bool `yaml:"day,omitempty"         json:"day,omitempty"`
	// families of which any number may come
	Whole    []string `yaml:"whole,omitempty"       json:"whole,omitempty"`
	Families []string `yaml:"families,omitempty"    json:"families,omitempty"` // only these
	// a fixed sequence of the instructor's: what does not suit is swapped in place
	Routine bool `yaml:"routine,omitempty"     json:"routine,omitempty"`
	Skill   bool `yaml:"skill,omitempty"       json:"skill,omitempty"` // one family as a lesson
	// share of the items that is dosed in breaths
	Breaths float64 `yaml:"breaths,omitempty"     json:"breaths,omitempty"`
	// at first only the fixed beginning and end
	FirstWeek bool `yaml:"first_week,omitempty"  json:"first_week,omitempty"`
	// what is known ends with the felt change
	ByFeel bool `yaml:"by_feel,omitempty"     json:"by_feel,omitempty"`
	Rising bool `yaml:"rising,omitempty"      json:"rising,omitempty"` // easiest first through the whole list
	Desk   bool `yaml:"desk,omitempty"        json:"desk,omitempty"`   // twice each, all directions

	Sections []Section `yaml:"sections,omitempty" json:"sections,omitempty"` // the main part is one of these, in turn
}

// Parts is how many items of each part a kind of session holds, from and to.
type Parts struct {
	Mobility [2]int `yaml:"mobility"        json:"mobility"`
	Main     [2]int `yaml:"main"            json:"main"`
	Extra    int    `yaml:"extra,omitempty" json:"extra,omitempty"` // a second settle or close, at most
}

// Need asks for items of some families or aims, at least so many.
type Need struct {
	Families []string `yaml:"families,omitempty" json:"families,omitempty"`
	Aims     []string `yaml:"aims,omitempty"     json:"aims,omitempty"`
	Least    int      `yaml:"least"              json:"least"`
	Else     []string `yaml:"else,omitempty"     json:"else,omitempty"` // families, when nothing of it suits
}

// comfort is the kind of a bad day.
const comfort = "comfort"

// Doses names the doses of its own that a kind has, empty where they are the client's: one of dose.Kinds.
func (t *Template) Doses() string {
	switch {
	case t == nil:
		return ""
	case t.Desk:
		return dose.Desk
	case t.Day:
		return dose.Trio
	case t.Slug == comfort:
		return dose.Comfort
	}
	return ""
}

// Name says what is asked for.
func (n *Need) Name() string {
	return strings.ReplaceAll(strings.Join(append(slices.Clone(n.Families), n.Aims...), " or "), "-", " ")
}

// Takes tells whether a version is of what is needed.
func (n *Need) Takes(v *catalogue.Version) bool {
	return slices.Contains(n.Families, v.Family) ||
		slices.ContainsFunc(n.Aims, func(a string) bool { return len(v.Aims) > 0 && v.Aims[0] == a })
}

// ReadTemplates reads a templates file; mistakes name the template and the field.
func ReadTemplates(data []byte, cat *catalogue.Catalogue) ([]Template, error) {
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	var out []Template
	if err := d.Decode(&out); err != nil {
		return nil, fmt.Errorf("templates.yaml: %w", err)
	}
	for i := range out {
		if problems := out[i].Check(cat); problems != nil {
			return nil, fmt.Errorf("templates.yaml: %s: %s", out[i].Slug, strings.Join(problems, "; "))
		}
	}
	return out, nil
}

// check says what is wrong with a need.
func (n *Need) check(
	cat *catalogue.Catalogue,
	bad func(field, format string, a ...any),
	oneOf func(field, found string, allowed ...string),
) {
	for _, f := range n.Families {
		if _, ok := cat.Family(f); !ok {
			bad("needs", "there is no family %q", f)
		}
	}
	for _, a := range n.Aims {
		oneOf("needs", a, catalogue.Aims...)
	}
	for _, f := range n.Else {
		if _, ok := cat.Family(f); !ok {
			bad("needs", "there is no family %q", f)
		}
	}
	if n.Least < 1 || len(n.Families)+len(n.Aims) == 0 {
		bad("needs", "give families or aims, and at least 1")
	}
}

// Check lists what is wrong with a template, each problem beginning with its field.
func (t *Template) Check(cat *catalogue.Catalogue) (problems []string) {
	bad := func(field, format string, a ...any) {
		problems = append(problems, field+": "+fmt.Sprintf(format, a...))
	}
	if t.Slug == "" || t.Name == "" {
		bad("name", "is missing")
	}
	if t.Reason == "" {
		bad("reason", "is missing: say in a sentence what this kind of session is for")
	}
	if t.Minutes < MinMinutes || t.Minutes > MaxMinutes {
		bad("minutes", "found %d, allowed: %d to %d", t.Minutes, MinMinutes, MaxMinutes)
	}
	oneOf := func(field, found string, allowed ...string) {
		if found != "" && !slices.Contains(allowed, found) {
			bad(field, "found %q, allowed: %s", found, strings.Join(allowed, ", "))
		}
	}
	oneOf("dose", t.Dose, catalogue.Schools...)
	oneOf("order", t.Order, "lying-first", "standing-first")
	oneOf("core", t.Core, "neutral", "brace", "draw-in", "imprint")
	for _, p := range t.Positions {
		oneOf("positions", string(p), trade.Words(trade.Positions)...)
	}
	for _, p := range t.Surfaces {
		oneOf("surfaces", string(p), trade.Words(trade.Surfaces)...)
	}
	if t.EffortCap < 0 || t.EffortCap > 10 {
		bad("effort_cap", "found %d, allowed: 0 (none) to 10", t.EffortCap)
	}
	if most := ByMinutes[len(ByMinutes)-1].MainTo; t.MaxStrong < 0 || t.MaxStrong > most {
		bad("most_strong", "found %d, allowed: 0 (none) to %d", t.MaxStrong, most)
	}
	for a, w := range t.Aims {
		oneOf("aims", a, catalogue.Aims...)
		if w <= 0 || w > 10 {
			bad("aims", "%s: found %g, allowed: above 0 to 10", a, w)
		}
	}
	for _, n := range t.Needs {
		n.check(cat, bad, oneOf)
	}
	t.checkParts(cat, bad, oneOf)
	for field, slugs := range map[string][]string{"prepare": t.Prepare, "finish": t.Finish} {
		for _, s := range slugs {
			if _, ok := cat.Version(s); !ok {
				bad(field, "there is no version %q", s)
			}
		}
	}
	slices.Sort(problems)
	return problems
}

// checkParts says what is wrong with what a kind must hold.
func (t *Template) checkParts(
	cat *catalogue.Catalogue,
	bad func(field, format string, a ...any),
	oneOf func(field, found string, allowed ...string),
) {
	oneOf("place", t.Place, PlaceMat, PlaceMixed, PlaceBed, PlaceUpright)
	if p := t.Parts; p != nil {
		for name, n := range map[string][2]int{"mobility": p.Mobility, "main": p.Main, "extra": {0, p.Extra}} {
			if n[0] < 0 || n[1] < n[0] || n[1] > mostOfPart {
				bad(
					"parts",
					"%s: found %d to %d, allowed: 0 to %d, the first no more than the second",
					name,
					n[0],
					n[1],
					mostOfPart,
				)
			}
		}
	}
	if t.MostItems != 0 && (t.MostItems < 3 || t.MostItems > mostOfPart) {
		bad("most_items", "found %d, allowed: 0 (none) or 3 to %d", t.MostItems, mostOfPart)
	}
	families := slices.Concat(t.Whole, t.Families)
	for i := range t.Sections {
		if t.Sections[i].Name == "" || len(t.Sections[i].Families) == 0 {
			bad("sections", "give each a name and families")
		}
		families = append(families, t.Sections[i].Families...)
	}
	for _, f := range families {
		if _, ok := cat.Family(f); !ok {
			bad("families", "there is no family %q", f)
		}
	}
}

// mostOfPart bounds the items of one part of a kind.
const mostOfPart = 30

// Allows tells whether a version may be part of this kind of session.
func (t *Template) Allows(v *catalogue.Version) bool {
	if t == nil || slices.Contains(t.Prepare, v.Slug) || slices.Contains(t.Finish, v.Slug) {
		return true
	}
	if len(t.Positions) > 0 && !slices.Contains(t.Positions, v.Position) {
		return false
	}
	return len(t.Surfaces) == 0 ||
		slices.ContainsFunc(v.Surfaces, func(s trade.Surface) bool { return slices.Contains(t.Surfaces, s) })
}

// HasResets tells whether an arm sweep comes between postures.
func (t *Template) HasResets() bool { return t != nil && t.Resets }

// Fixed are the versions of the fixed beginning and end.
func (t *Template) Fixed() (prepare, finish []string) {
	if t == nil {
		return nil, nil
	}
	return t.Prepare, t.Finish
}

// StrongLimit is how many strong items may come, 0 for no limit of its own.
func (t *Template) StrongLimit() int {
	if t == nil {
		return 0
	}
	return t.MaxStrong
}

// Writes tells whether a version belongs to the fixed beginning or end.
func (t *Template) Writes(slug string) bool {
	prepare, finish := t.Fixed()
	return slices.Contains(prepare, slug) || slices.Contains(finish, slug)
}

// IsRoutine tells whether the kind is a fixed sequence of the instructor.
func (t *Template) IsRoutine() bool { return t != nil && t.Routine }

// ItemLimit is how many items a session may hold, 0 for no limit of its own.
func (t *Template) ItemLimit() int {
	if t == nil {
		return 0
	}
	return t.MostItems
}

// IsWhole tells whether any number of a family may come.
func (t *Template) IsWhole(family string) bool { return t != nil && slices.Contains(t.Whole, family) }

// ID is the slug, empty for a free session.
func (t *Template) ID() string {
	if t == nil {
		return ""
	}
	return t.Slug
}

// Section is a part of the main work that takes its turn with others.
type Section struct {
	Name     string   `yaml:"name"     json:"name"`
	Families []string `yaml:"families" json:"families"`
}

// MinMinutes and MaxMinutes bound a session.
const (
	MinMinutes = 2
	MaxMinutes = 60
)

// Where a session takes place (domain/07): mostly down on the mat, half of it standing and
// sitting, on a bed, or upright.
const (
	PlaceMat     = "mat"
	PlaceMixed   = "mixed"
	PlaceBed     = "bed"
	PlaceUpright = "upright"
)

// Down tells whether a posture is down on the ground: lying, on all fours, or kneeling, at a
// sofa or bench as well.
func Down(p trade.Position) bool {
	return p.Lies() || p == trade.AllFours || p == trade.Kneeling
}

// Where is the place that a kind needs, empty when it needs none.
func (t *Template) Where() string {
	switch {
	case t == nil:
		return ""
	case t.Place != "":
		return t.Place
	case len(t.Surfaces) == 1 && t.Surfaces[0] == trade.Bed:
		return PlaceBed
	case len(t.Positions) > 0 && !slices.ContainsFunc(t.Positions, Down):
		return PlaceUpright
	}
	return ""
}
