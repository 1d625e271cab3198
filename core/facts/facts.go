// Package facts gathers what a session is made from: the client as screened, what the log decides, the
// kind, the length, where it takes place, and which exercises may come, in which doses. Nothing in it is
// ever changed; whoever wants others asks for them (For, Lasting, After, Asking).
package facts

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/core/way"
)

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
	Template  *kinds.Template // nil for none
	Cautions  []string

	Ask Ask // never assigned to elsewhere: see Asking

	memo *memo
}

// Ask is what is asked of one session beside the facts.
type Ask struct {
	Locked []plan.Item
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
func (r *Request) Relaxed(change func(*intake.Client, *kinds.Template, *Ask)) *Request {
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
	found           []Candidate
	wanted          []catalogue.Task
	directions      [6]float64
	directionsKnown bool
	reach           *uint8
	where           string
	usual           map[string]bool
	skill           *string
	wantings        map[string][]wanting // by what is asked of the session
	scheme          *Scheme
	basis           string
	done            map[string]int // in how many sessions each version was done
}

// About is the request for changes of a plan: what was taken out of it stays out.
func (r *Request) About(p *plan.Plan) *Request {
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
		p.Skill != "" && p.Skill != r.Skill() {
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
func (r *Request) For(kind *kinds.Template) *Request {
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

// MaxFamily is how many items one family may have.
const MaxFamily = 2

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
	if family := r.Skill(); family != "" {
		return r.lessonAims(family)
	}
	if len(r.Client.Aims) == 0 {
		return r.proposedAims()
	}
	return r.Client.Aims
}

// DoseSchool is the way of dosing: the kind of session has its own, else the client.
func (r *Request) DoseSchool() string {
	if r.Template != nil && r.Template.Dose != "" {
		return r.Template.Dose
	}
	return r.Client.DoseSchool()
}

// EffortCap is the hardest effort allowed today by client, kind of session and log (0: no
// cap).
func (r *Request) EffortCap() int {
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

// Mover is what the client has to change position with.
func (r *Request) Mover() *way.Mover { return r.Screener.Mover() }

// MoverFor is what the ways of a plan are worked out for: one made under earlier rules keeps its seconds until it is
// rebuilt; what is said and taught goes the ways of today in any case.
func (r *Request) MoverFor(p *plan.Plan) *way.Mover {
	if p.Rules >= plan.RulesOfWays {
		return r.Mover()
	}
	return &way.Mover{Help: r.Helped(), Earlier: true}
}

// Helped tells whether the client gets up and down with help.
func (r *Request) Helped() bool { return r.Client.Positions["floor"] == "help" }

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

// Item makes a plan's item of a candidate.
func (r *Request) Item(c *Candidate, role trade.Role, o *Option) plan.Item {
	it := plan.Item{
		Version:  c.V.Slug,
		Revision: c.V.Revision,
		Family:   c.V.Family,
		Role:     role,
		Part: map[trade.Role]string{trade.Open: kinds.Settle, trade.Close: kinds.Closing,
			trade.Main: kinds.PartOf(c.V)}[role],
		Position:  c.V.Position,
		Surface:   c.Surface,
		Side:      c.Side,
		Eases:     c.Eases,
		EasedSide: c.EasedSide,
		Eased:     r.Screener.Measures(c.V, c.Doing()),
		EaseSays:  c.V.EaseSide(c.Doing()),
		Kit:       c.V.Kit,
		Dose:      o.Dose,
		Step:      o.Step,
		Length:    o.Length,
		Effort:    c.V.Effort,
		Fit:       c.Fit,
		Continues: c.Continuous,
		New:       !c.Seen,
		Cues:      cuesOf(c),
		Load:      r.lastLoad(c.V.Slug),
		Locked:    c.Locked != "",
	}
	if say := coreCues[r.coreSchool()]; role == trade.Main && c.V.Effort >= catalogue.StrongFrom &&
		serves(c.V, "deep-core", "anti-extension", "anti-side-bend", "anti-rotation") {
		it.Cues = append(it.Cues, say)
	}
	if c.V.Binds != "" && (c.Side == trade.Left || c.Side == trade.Right) { // the one thing that must not be confused
		it.Cues = append([]string{c.V.SaySide(c.Side)}, it.Cues...)
	}
	it.Why = r.why(c, role)
	return it
}

// cuesOf are the three lines an item is taught by, as it is done: out, in and image. Where only one
// side is eased they are the other's; what the ease changes is said with its side.
func cuesOf(c *Candidate) []string {
	cues := c.V.Words(c.Doing(), trade.None).Cues
	return []string{cues.Out, cues.In, cues.Image}
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

func (r *Request) why(c *Candidate, role trade.Role) string {
	s := map[trade.Role]string{
		trade.Open: "Opens the session and sets the breath", trade.Close: "Calms down at the end",
		trade.Reset: "Settles between postures",
	}[role]
	if role == trade.Main {
		best := c.V.Aims[0]
		for _, a := range c.V.Aims {
			if r.aims()[a] > r.aims()[best] {
				best = a
			}
		}
		s = "Serves " + best
		if t := r.BestTask(c.V); t != nil {
			s += " for: " + t.Name
		}
	}
	switch {
	case c.Decision != nil:
		s += ". " + upperFirst(string(c.Decision.Decision)) + ": " + c.Decision.Because
	case c.Times > 0:
		s += ". Done before at this rung"
	default:
		s += ". First time: the lowest rung that suits"
	}
	if len(c.Eases) > 0 {
		return s + "." + plan.EaseSentence(c.V, c.Doing())
	}
	return s + "."
}

// BestTask is the client's task that a version matches best, nil when none is known.
func (r *Request) BestTask(v *catalogue.Version) (best *catalogue.Task) {
	most := -1
	for i := range r.TasksOfAims() {
		if n := catalogue.Matches(v.Argue(&r.TasksOfAims()[i])); n > most {
			best, most = &r.TasksOfAims()[i], n
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

// A version serves its main aims twice as much as what it serves besides.
const (
	MainGrade = 2.0
	AlsoGrade = 1.0
)

// Carry-over to the client's tasks: from four fifths to six fifths, by the points an exercise wins
// (domain/07).
const (
	CarryLeast = 0.8
	CarryPoint = 0.08
)

// Reachable are the directions that something the client may do now visits.
func (r *Request) Reachable() uint8 {
	if r.known().reach == nil {
		var mask uint8
		for _, c := range r.Candidates() {
			if BodyItem(c.V) {
				mask |= r.Visits(&c)
			}
		}
		r.memo.reach = &mask
	}
	return *r.memo.reach
}

// NameOf is what an instructor calls a version.
func (r *Request) NameOf(slug string) string {
	if v, ok := r.Catalogue.Version(slug); ok {
		return v.Name
	}
	return slug
}
