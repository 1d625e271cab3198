// Package plan is the document of one session: its items with their doses, times and reasons, what was
// asked, and how a stored one is read. It also knows the seconds of changes of position.
package plan

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/trade"
)

// Plan is one session; field names are those of the exchange format.
type Plan struct {
	Format     string         `json:"format"`
	Minutes    int            `json:"minutes"`
	SlotS      int            `json:"slot_s,omitempty"` // the whole slot, when its minutes were asked for
	Seconds    int            `json:"seconds"`
	Score      float64        `json:"score"`
	Proven     bool           `json:"proven,omitempty"` // no session of these items and rules is worth more
	Template   string         `json:"template,omitempty"`
	Doses      string         `json:"doses,omitempty"` // of a kind with doses of its own: one of dose.Kinds
	Items      []Item         `json:"items"`
	UpS        int            `json:"finish_s"` // getting up at the end
	Checks     []Check        `json:"checks"`
	Dry        []string       `json:"dry"`
	Cautions   []string       `json:"cautions"`
	Wishes     *safety.Wishes `json:"wishes,omitempty"`  // what the client's conditions say of every session
	Banned     []string       `json:"banned,omitempty"`  // versions the instructor took out for good
	Removed    []string       `json:"removed,omitempty"` // ... and out of this one: rebuilding brings none of it back
	Rules      int            `json:"rules,omitempty"`   // the rules it was made under: RulesNow
	Place      string         `json:"place,omitempty"`   // where it takes place
	Where      string         `json:"place_asked,omitempty"`
	Character  string         `json:"character,omitempty"`   // of which character the proposal is; empty: the best
	Skill      string         `json:"skill,omitempty"`       // the family a lesson is about
	AllowNew   int            `json:"allow_new,omitempty"`   // new items that the instructor allowed
	Section    string         `json:"section,omitempty"`     // whose turn it is in the main part
	AsksMemory bool           `json:"asks_memory,omitempty"` // at its end: were beginning and end done from memory
	Directions []Direction    `json:"directions,omitempty"`
	Served     []Serving      `json:"served,omitempty"`
	Asked      []Asked        `json:"composition,omitempty"` // what the composition asks for

	Alternatives []Alternative `json:"alternatives,omitempty"` // proposals of another character, when asked for
}

// Item is one exercise of a session.
type Item struct {
	Version  string         `json:"version"`
	Revision int            `json:"revision,omitempty"` // of the entry the plan was made with
	Family   string         `json:"family"`
	Role     trade.Role     `json:"role"`           // open, main, reset or close
	Part     string         `json:"part,omitempty"` // settle, mobility, main or close
	Position trade.Position `json:"position"`
	Surface  trade.Surface  `json:"surface"`
	Side     trade.Side     `json:"side"`            // none, each, alternate, left or right
	Eases    []string       `json:"eases,omitempty"` // the ease it needs to suit, when it needs one
	// the side that is eased, where the other is done as it stands
	EasedSide trade.Side `json:"eased_side,omitempty"`
	// what is left with the ease of what the client may not do in full
	Eased      []safety.Measure `json:"eased,omitempty"`
	EaseSays   []string         `json:"ease_says,omitempty"` // ... and what is said of it
	Kit        []string         `json:"kit,omitempty"`       // props to fetch
	Load       *progress.Load   `json:"load,omitempty"`      // settings of the last time
	Dose       dose.Dose        `json:"dose"`
	DoseLeft   *dose.Dose       `json:"dose_left,omitempty"`  // what each side does, when they are dosed apart
	DoseRight  *dose.Dose       `json:"dose_right,omitempty"` //
	SidesWhy   string           `json:"sides_why,omitempty"`  // why they are
	Step       int              `json:"step"`
	Length     string           `json:"length,omitempty"` // short, normal or long
	Start      int              `json:"start"`
	End        int              `json:"end"`
	Transition int              `json:"transition_s"`
	// the side block it belongs to: all of them to one side, then to the other
	Block int `json:"side_block,omitempty"`
	// in a side block: the side that is done first, lying as for the others
	First trade.Side `json:"side_first,omitempty"`
	// part of the transition: of the second of a side block in lying, turning over takes so much longer
	TurnS     int                `json:"turn_s,omitempty"`
	Effort    int                `json:"effort"`
	Aims      map[string]float64 `json:"aims"`
	Fit       int                `json:"fit,omitempty"`       // points won for the client's best task
	Continues bool               `json:"continues,omitempty"` // its branch was in the last session
	New       bool               `json:"new,omitempty"`       // its branch was never done
	Why       string             `json:"why"`
	Cues      []string           `json:"cues"`
	Layers    []string           `json:"layers,omitempty"` // neighbouring rungs in one set-up, the item's own first
	Locked    bool               `json:"locked,omitempty"`
	ByHand    bool               `json:"by_hand,omitempty"`  // added or changed by hand: stays when the rest is rebuilt
	Watch     []string           `json:"watch,omitempty"`    // what to mind with this client although no limit is crossed
	Trial     bool               `json:"trial,omitempty"`    // tried on the spot: it decides nothing
	Replaces  string             `json:"replaces,omitempty"` // on the spot: the version it was taken for
	Override  *intake.Override   `json:"override,omitempty"` // left out, but in by hand: why and until when
}

// Worth is what an item gives the session: the minutes of its aims.
func (it *Item) Worth() (sum float64) {
	for _, m := range it.Aims {
		sum += m
	}
	return sum
}

// Check is one rule of a good session and whether this plan keeps it. Items are the
// places in the list where it is broken.
type Check struct {
	Rule   string `json:"rule"`
	OK     bool   `json:"ok"`
	Detail string `json:"detail"`
	Items  []int  `json:"items,omitempty"`
	Weight Weight `json:"weight,omitempty"` // how much it weighs; plans of earlier releases do not say

	Need string `json:"-"` // which wish of the kind of session it is about
}

// Direction is one direction of the spine: what the client may use of the whole trunk and
// what the session uses, degrees, and whether it counts as visited.
type Direction struct {
	Name    string  `json:"name"`
	Allowed float64 `json:"allowed"`
	Used    float64 `json:"used"`
	Visited bool    `json:"visited"`
	Reach   bool    `json:"reachable"`        // some exercise that suits visits it
	Exempt  bool    `json:"exempt,omitempty"` // the back does not like it: it earns nothing and is not missed
}

// Asked is one thing that the composition asks for, how much of it there is, and what each unit that
// is missing costs, points.
type Asked struct {
	Name   string  `json:"name"`
	Least  float64 `json:"least"`
	Have   float64 `json:"have"`
	Points float64 `json:"points"`
}

// Serving is the minutes one aim was given.
type Serving struct {
	Aim    string  `json:"aim"`
	Weight float64 `json:"weight"`
	Target float64 `json:"target"`
	Served float64 `json:"served"`
}

// RulesNow numbers the rules that plans are made under (shared ruling 55).
const RulesNow = 3

// RulesOfWays are the first under which the way from place to place is one that the client can go.
const RulesOfWays = 3

// Sides tells how an item's dose meets the two sides.
func (it *Item) Sides() dose.Sides { return dose.SidesOf(it.Side) }

// Ease is the ease an item is done with, empty for none.
func (it *Item) Ease() string {
	if len(it.Eases) == 0 {
		return ""
	}
	return it.Eases[0]
}

// Doing is how an item is done.
func (it *Item) Doing() catalogue.Doing {
	return catalogue.Doing{Surface: it.Surface, Side: it.Side, Ease: it.Ease(), EasedSide: it.EasedSide}
}

// Place is where the item leaves the body.
func (it *Item) Place() Place { return Place{Position: it.Position, Surface: it.Surface} }

// Has tells whether a version is in the plan, resets aside.
func (p *Plan) Has(slug string) bool {
	return slices.ContainsFunc(p.Items, func(it Item) bool { return it.Version == slug && it.Role != trade.Reset })
}

// EaseSentence is the sentence of an item's reason that names an ease; none for an ease the
// exercise has no longer.
func EaseSentence(v *catalogue.Version, d catalogue.Doing) string {
	e := v.Ease(d.Ease)
	switch {
	case e == nil:
		return ""
	case d.EasedSide.One():
		return " With an ease on the " + string(d.EasedSide) + ": " + e.Name + "."
	}
	return " With an ease: " + e.Name + "."
}

// The lengths of a dose. Normal is what progress decided; short is a step below or fewer
// sets; long is more of the same.
const (
	Short  = "short"
	Normal = "normal"
	Long   = "long"
)

// Characters of a further proposal (domain/07).
const (
	MoreMobility = "more-mobility"
	MoreStrength = "more-strength"
	OtherPlace   = "other-place"
)

// An Alternative is a proposal of another character, beside the best.
type Alternative struct {
	Character string  `json:"character"`
	Costs     float64 `json:"costs"` // points it is worth less than the best, by the best's aims and place
	Plan      *Plan   `json:"plan"`
}
