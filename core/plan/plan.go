// Package plan builds one session: which versions, in which order and dose, with every
// second accounted for and a reason per item. The session is solved as one optimisation
// problem (docs/planner.md), shaped by hand afterwards, and checked after every change.
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
	Items      []Item         `json:"items"`
	UpS        int            `json:"finish_s"` // getting up at the end
	Checks     []Check        `json:"checks"`
	Dry        []string       `json:"dry"`
	Cautions   []string       `json:"cautions"`
	Wishes     *safety.Wishes `json:"wishes,omitempty"` // what the client's conditions say of every session
	Banned     []string       `json:"banned,omitempty"` // versions the instructor took out for good
	Rules      int            `json:"rules,omitempty"`  // the rules it was made under: RulesNow
	Place      string         `json:"place,omitempty"`  // where it takes place
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
	Version    string             `json:"version"`
	Revision   int                `json:"revision,omitempty"` // of the entry the plan was made with
	Family     string             `json:"family"`
	Role       trade.Role         `json:"role"`           // open, main, reset or close
	Part       string             `json:"part,omitempty"` // settle, mobility, main or close
	Position   trade.Position     `json:"position"`
	Surface    trade.Surface      `json:"surface"`
	Side       trade.Side         `json:"side"`            // none, each, alternate, left or right
	Eases      []string           `json:"eases,omitempty"` // the ease it needs to suit, when it needs one
	Kit        []string           `json:"kit,omitempty"`   // props to fetch
	Load       *progress.Load     `json:"load,omitempty"`  // settings of the last time
	Dose       dose.Dose          `json:"dose"`
	DoseLeft   *dose.Dose         `json:"dose_left,omitempty"`  // what each side does, when they are dosed apart
	DoseRight  *dose.Dose         `json:"dose_right,omitempty"` //
	SidesWhy   string             `json:"sides_why,omitempty"`  // why they are
	Step       int                `json:"step"`
	Length     string             `json:"length,omitempty"` // short, normal or long
	Start      int                `json:"start"`
	End        int                `json:"end"`
	Transition int                `json:"transition_s"`
	Block      int                `json:"side_block,omitempty"` // the side block it belongs to: all of them to one side, then to the other
	First      trade.Side         `json:"side_first,omitempty"` // in a side block: the side that is done first, lying as for the others
	TurnS      int                `json:"turn_s,omitempty"`     // part of the transition: of the second of a side block in lying, turning over takes so much longer
	Effort     int                `json:"effort"`
	Aims       map[string]float64 `json:"aims"`
	Fit        int                `json:"fit,omitempty"`       // points won for the client's best task
	Continues  bool               `json:"continues,omitempty"` // its branch was in the last session
	New        bool               `json:"new,omitempty"`       // its branch was never done
	Why        string             `json:"why"`
	Cues       []string           `json:"cues"`
	Layers     []string           `json:"layers,omitempty"` // neighbouring rungs in one set-up, the item's own first
	Locked     bool               `json:"locked,omitempty"`
	ByHand     bool               `json:"by_hand,omitempty"`  // added or changed by hand: stays when the rest is rebuilt
	Watch      []string           `json:"watch,omitempty"`    // what to mind with this client although no limit is crossed
	Trial      bool               `json:"trial,omitempty"`    // tried on the spot: it decides nothing
	Replaces   string             `json:"replaces,omitempty"` // on the spot: the version it was taken for
	Override   *intake.Override   `json:"override,omitempty"` // left out, but in by hand: why and until when
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

	need string // which wish of the kind of session it is about
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

// Request is the facts a session is made from: the client with what suits and what the log decided,
// the length and the kind. Nothing changes them; For, Lasting and After give others.
type Request struct {
	Catalogue *catalogue.Catalogue
	Client    *intake.Client
	Screener  *safety.Screener
	Screening *safety.Screening
	Tasks     []catalogue.Task
	Decisions []progress.Decision
	Whole     *progress.Whole // what holds for the whole client today, nil when nothing does
	Log       *progress.Log
	Last      []string // versions of the last session, in order
	Seen      []string // versions ever done
	Minutes   int
	Today     trade.Day
	Template  *Template // nil for none
	Cautions  []string

	Ask Ask // never assigned to elsewhere: see Asking

	memo *memo
}

// Ask is what is asked of one session beside the facts.
type Ask struct {
	Locked []Item
	Banned []string // versions the instructor took out
	Spared []string // ... and those left out so that nobody sits too long
	Only   bool     // nothing but what is locked
	AnyNew bool     // as many new items as one likes: only to find out what would help

	AllowNew int    // so many new items at least, when the instructor says so
	Place    string // ... where, for one session
	Skill    string // ... and of which family a lesson is

	Slot      int    // minutes of the whole slot, 0 when they mean work
	Character string // of which character a further proposal is
}

// Asking is the request with other wishes for this one session. What may be done at all does not
// change with them: wishes that change it have functions of their own (In, Learning, With).
func (r *Request) Asking(change func(*Ask)) *Request {
	t := *r
	change(&t.Ask)
	return &t
}

// Relaxed is the request with limits moved that are the instructor's to move: of the client, the kind
// and what is asked. Only to find out what would help.
func (r *Request) Relaxed(change func(*intake.Client, *Template, *Ask)) *Request {
	t, c := *r, *r.Client
	t.Client, t.memo = &c, &memo{}
	if t.Template != nil {
		kind := *t.Template
		t.Template = &kind
	}
	change(&c, t.Template, &t.Ask)
	return &t
}

// memo is what follows from the facts, worked out when first asked for.
type memo struct {
	found           []candidate
	wanted          []catalogue.Task
	directions      [6]float64
	directionsKnown bool
	reach           *uint8
	where           string
	usual           map[string]bool
	skill           *string
	wantings        map[string][]wanting // by what is asked of the session
	scheme          *Scheme
	done            map[string]int // in how many sessions each version was done
}

// about is the request for changes of a plan: what was taken out of it stays out.
func (r *Request) about(p *Plan) *Request {
	t := *r
	t.Ask = Ask{
		Banned:    p.Banned,
		AllowNew:  p.AllowNew,
		Place:     p.Where,
		Skill:     p.Skill,
		Character: p.Character,
		Slot:      p.SlotS / 60,
	}
	if t.memo = r.known(); p.Where != r.Ask.Place || p.Character != r.Ask.Character ||
		p.Skill != "" && p.Skill != r.skill() {
		t.memo = &memo{} // what may be done there is another thing
	}
	return &t
}

// known is the request's memo.
func (r *Request) known() *memo {
	if r.memo == nil {
		r.memo = &memo{}
	}
	return r.memo
}

// For is the request for another kind of session; nil is a free one.
func (r *Request) For(kind *Template) *Request {
	t := *r
	t.Template, t.memo = kind, &memo{}
	return &t
}

// Lasting is the request for another length, minutes.
func (r *Request) Lasting(minutes int) *Request {
	t := *r
	t.Minutes, t.memo = minutes, &memo{}
	return &t
}

// After is the request as the log decides on a day.
func (r *Request) After(log *progress.Log, today trade.Day) *Request {
	t := *r
	t.memo = &memo{}
	t.Whole, t.Decisions = r.Decide(log, today)
	return &t
}

// A Refused error says why no session can be made, and what would help.
type Refused struct {
	Reason string
	Relax  []string
}

func (e *Refused) Error() string { return e.Reason }

// RulesNow numbers the rules that plans are made under (shared ruling 55).
const RulesNow = 2

// maxFamily is how many items one family may have.
const maxFamily = 2

// aims returns the wanted aims and their weights.
func (r *Request) aims() map[string]float64 {
	if r.Ask.Character != "" {
		return leaning(r.plainAims(), r.Ask.Character)
	}
	return r.plainAims()
}

func (r *Request) plainAims() map[string]float64 {
	if r.Template != nil && len(r.Template.Aims) > 0 {
		return r.Template.Aims
	}
	if family := r.skill(); family != "" {
		return r.lessonAims(family)
	}
	if len(r.Client.Aims) == 0 {
		return r.proposedAims()
	}
	return r.Client.Aims
}

func (r *Request) doseSchool() string {
	if r.Template != nil && r.Template.Dose != "" {
		return r.Template.Dose
	}
	return r.Client.DoseSchool()
}

// effortCap is the hardest effort allowed today by client, kind of session and log (0: no
// cap).
func (r *Request) effortCap() int {
	limit := r.Client.EffortCap
	if t := r.Template; t != nil && t.EffortCap > 0 && (limit == 0 || t.EffortCap < limit) {
		limit = t.EffortCap
	}
	pain := 0.0
	if r.Client.Pain != nil {
		pain = r.Client.Pain.Now
	}
	if r.Whole != nil && r.Whole.Decision == trade.Rest {
		pain = 10 // a day of rest, whatever asked for it
	}
	if most := progress.StartCap(pain); most > 0 && (limit == 0 || most < limit) {
		limit = most
	}
	return limit
}

func (r *Request) helped() bool { return r.Client.Positions["floor"] == "help" }

// Sides tells how an item's dose meets the two sides.
func (it *Item) Sides() dose.Sides { return dose.SidesOf(it.Side) }

// coreCues say how the core is switched on, by school (common practice).
var coreCues = map[string]string{
	"neutral": "Keep the small natural curve of the low back and brace lightly.",
	"brace":   "Stiffen all round as if about to be poked; ribs and pelvis stay together.",
	"draw-in": "Draw the navel gently towards the spine and lift the pelvic floor, about a third of effort.",
	"imprint": "Let the low back sink and the pubic bone come up, gently.",
}

func serves(v *catalogue.Version, aims ...string) bool {
	return slices.ContainsFunc(aims, func(a string) bool { return catalogue.Has(v.Aims, a) })
}

// item makes a plan's item of a candidate.
func (r *Request) item(c *candidate, role trade.Role, o *option) Item {
	it := Item{
		Version:   c.v.Slug,
		Revision:  c.v.Revision,
		Family:    c.v.Family,
		Role:      role,
		Part:      map[trade.Role]string{trade.Open: Settle, trade.Close: Closing, trade.Main: PartOf(c.v)}[role],
		Position:  c.v.Position,
		Surface:   c.surface,
		Side:      c.side,
		Eases:     c.eases,
		Kit:       c.v.Kit,
		Dose:      o.dose,
		Step:      o.step,
		Length:    o.length,
		Effort:    c.v.Effort,
		Fit:       c.fit,
		Continues: c.continuous,
		New:       !c.seen,
		Cues:      []string{c.v.Cues.Out, c.v.Cues.In, c.v.Cues.Image},
		Load:      r.lastLoad(c.v.Slug),
		Locked:    c.locked != "",
	}
	if say := coreCues[r.coreSchool()]; role == trade.Main && c.v.Effort >= catalogue.StrongFrom &&
		serves(c.v, "deep-core", "anti-extension", "anti-side-bend", "anti-rotation") {
		it.Cues = append(it.Cues, say)
	}
	if c.v.Binds != "" && (c.side == trade.Left || c.side == trade.Right) { // the one thing that must not be confused
		it.Cues = append([]string{c.v.SaySide(c.side)}, it.Cues...)
	}
	it.Why = r.why(c, role)
	return it
}

func (r *Request) coreSchool() string {
	if r.Template != nil && r.Template.Core != "" {
		return r.Template.Core
	}
	return r.Client.CoreSchool()
}

// lastLoad is the load settings a version was last done with.
func (r *Request) lastLoad(slug string) (load *progress.Load) {
	if r.Log == nil {
		return nil
	}
	var day trade.Day
	for _, s := range r.Log.Sessions {
		for i := range s.Items {
			if it := &s.Items[i]; it.Version == slug && it.Load != nil && !s.Date.Before(day) {
				load, day = it.Load, s.Date
			}
		}
	}
	return load
}

func (r *Request) why(c *candidate, role trade.Role) string {
	s := map[trade.Role]string{
		trade.Open: "Opens the session and sets the breath", trade.Close: "Calms down at the end",
		trade.Reset: "Settles between postures",
	}[role]
	if role == trade.Main {
		best := c.v.Aims[0]
		for _, a := range c.v.Aims {
			if r.aims()[a] > r.aims()[best] {
				best = a
			}
		}
		s = "Serves " + best
		if t := r.bestTask(c.v); t != nil {
			s += " for: " + t.Name
		}
	}
	switch {
	case c.decision != nil:
		s += ". " + upperFirst(string(c.decision.Decision)) + ": " + c.decision.Because
	case c.times > 0:
		s += ". Done before at this rung"
	default:
		s += ". First time: the lowest rung that suits"
	}
	if len(c.eases) > 0 {
		return s + "." + easeSentence(c.v, c.eases[0])
	}
	return s + "."
}

// bestTask is the client's task that a version matches best, nil when none is known.
func (r *Request) bestTask(v *catalogue.Version) (best *catalogue.Task) {
	most := -1
	for i := range r.tasks() {
		if n := catalogue.Matches(v.Argue(&r.tasks()[i])); n > most {
			best, most = &r.tasks()[i], n
		}
	}
	return best
}

func upperFirst(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]-'a'+'A') + s[1:]
}

func (it *Item) place() place { return place{it.Position, it.Surface} }

// A version serves its main aims twice as much as what it serves besides.
const (
	mainGrade = 2.0
	alsoGrade = 1.0
)

// Carry-over to the client's tasks: from four fifths to six fifths, by the points an exercise wins
// (domain/07).
const (
	carryLeast = 0.8
	carryPoint = 0.08
)

// reachable are the directions that something the client may do now visits.
func (r *Request) reachable() uint8 {
	if r.known().reach == nil {
		var mask uint8
		for _, c := range r.candidates() {
			if bodyItem(c.v) {
				mask |= r.visits(&c)
			}
		}
		r.memo.reach = &mask
	}
	return *r.memo.reach
}

// nameOf is what an instructor calls a version.
func (r *Request) nameOf(slug string) string {
	if v, ok := r.Catalogue.Version(slug); ok {
		return v.Name
	}
	return slug
}

func (p *Plan) has(slug string) bool {
	return slices.ContainsFunc(p.Items, func(it Item) bool { return it.Version == slug && it.Role != trade.Reset })
}

// easeSentence is the sentence of an item's reason that names an ease; none for an ease the
// exercise has no longer.
func easeSentence(v *catalogue.Version, ease string) string {
	if e := v.Ease(ease); e != nil {
		return " With an ease: " + e.Name + "."
	}
	return ""
}
