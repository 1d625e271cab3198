package facts

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/core/way"
)

// What a session is made of (domain/07): settle, mobility, main and close by minutes, a front, a
// side and a back in the main part, and the share of it that is down.

// Counts is what the parts hold: the kind's own row, else by minutes; where mobility is asked for
// more than all else, the two columns are swapped.
func (r *Request) Counts() kinds.Counts {
	var n kinds.Counts
	for _, row := range kinds.ByMinutes {
		n = row.Counts
		if r.Minutes <= row.Minutes {
			break
		}
	}
	if t := r.Template; t != nil && t.Parts != nil {
		p := t.Parts
		n.MobilityFrom, n.MobilityTo = p.Mobility[0], p.Mobility[1]
		n.MainFrom, n.MainTo = p.Main[0], p.Main[1]
		n.Extra = p.Extra
	} else if r.mostlyMobility() {
		n.MobilityFrom, n.MobilityTo, n.MainFrom, n.MainTo = n.MainFrom, n.MainTo, n.MobilityFrom, n.MobilityTo
	}
	if t := r.Template.StrongLimit(); t > 0 {
		n.MainTo = min(n.MainTo, t)
		n.MainFrom = min(n.MainFrom, n.MainTo)
	}
	if r.quietly() {
		n.Extra = max(n.Extra, quietExtra)
	}
	if r.Acute() && (r.Template == nil || r.Template.Parts == nil) {
		n = acuteCounts
	}
	if r.learning() {
		n = kinds.Counts{}
	}
	if r.Resting() {
		n = kinds.Counts{Extra: 2, MobilityTo: 2}
	}
	return n
}

// Up to so many minutes a session may begin, and end, with the work itself (domain/07); a short day of
// holds as well.
const (
	bareOpenTo  = 7
	bareCloseTo = 5
)

// Bare tells whether the session may do without an opener, and without a closer.
func (r *Request) Bare() (opener, closer bool) {
	day := r.Template != nil && r.Template.Day && r.Minutes <= days[0].minutes || r.Template.IsRoutine()
	return r.Minutes <= bareOpenTo || day, r.Minutes <= bareCloseTo || day
}

// acuteCounts are the parts in acute back pain: breath, positions of ease and small movements, hardly
// any work (domain/07 in words; the counts are product defaults).
var acuteCounts = kinds.Counts{Extra: 3, MobilityFrom: 1, MobilityTo: 4, MainTo: 2}

// quietExtra is how many more quiet items a client has who is there mostly for breath, relaxation or posture
// (product default).
const quietExtra = 2

// quietly tells whether breath, relaxation and posture are a third of what is asked for.
func (r *Request) quietly() bool {
	return r.Minutes >= sidesFrom && 3*shareOf(r.aims(), "breathing", "relaxation", "posture") >= 1-1e-9
}

// mostlyMobility tells whether mobility is more than half of what is asked for.
func (r *Request) mostlyMobility() bool { return shareOf(r.aims(), kinds.Mobilises...) > 0.5+1e-9 }

// Resting tells whether only breath, relaxation and comfortable positions are for today: a pain of 7
// or more, or a day of rest.
func (r *Request) Resting() bool { return r.EffortCap() == 1 }

// A sideOf is one of the three sides that the main part trains: no single exercise trains all.
type sideOf struct {
	Name  string
	Takes func(*catalogue.Version) bool
}

// Sides are the front, the side and the back of the trunk, and what trains each.
var Sides = []sideOf{
	{"front", func(v *catalogue.Version) bool { return catalogue.Has(v.MainAims, "anti-extension") }},
	{"side", func(v *catalogue.Version) bool {
		return catalogue.Has(v.MainAims, "anti-side-bend") ||
			slices.Contains([]string{"clam", "clam-lifted", "side-leg-lift"}, v.Slug)
	}},
	{"back or diagonal", func(v *catalogue.Version) bool {
		return catalogue.Has(v.MainAims, "back-strength") || catalogue.Has(v.MainAims, "anti-rotation")
	}},
}

// sidesFrom is the session length, minutes, from which the main part trains all three sides.
const sidesFrom = 16

// ThreeSides tells whether the session asks for a front, a side and a back: not in acute pain, on a
// day of rest, or in kinds that have a content of their own.
func (r *Request) ThreeSides() bool {
	return r.Minutes >= sidesFrom && !r.Acute() && !r.Resting() && (r.Template == nil || !r.Template.OwnContent)
}

// owed are the aims that a session never leaves out where something serves them: the weighty ones,
// from the length on that trains all sides.
func (r *Request) owed() (out []string) {
	if r.Minutes < sidesFrom || r.Template != nil && r.Template.OwnContent || r.Resting() {
		return nil
	}
	aims, weight, _ := r.Wants()
	for i, a := range aims {
		if weight[i] >= owedFrom {
			out = append(out, a)
		}
	}
	return out
}

// owedFrom is the share of the highest weight from which an aim is never left out (product default).
const owedFrom = 0.6

// A wanting is one thing that the composition asks of a session: an amount of something, at least, and
// what it costs when it is missing.
type wanting struct {
	Name        string
	Least, Unit float64
	Soft        float64 // points for each unit that is missing; 0: it must hold
	Ends        bool    // the opener and the closer count
	By          func(*counting) float64
}

// counting is an item as the composition counts it.
type counting struct {
	v       *catalogue.Version
	surface trade.Surface
	Seconds int
	Dose    dose.Dose
}

// One is 1 for what holds.
func One(is bool) float64 { return float64(CountIf(is)) }

// Wantings are what the composition asks for, as far as there is something for it.
func (r *Request) Wantings() []wanting {
	key := fmt.Sprint(r.Ask.Banned, r.Ask.Spared, r.Ask.AllowNew, r.Ask.AnyNew, r.Ask.Skill, r.Ask.Place)
	if r.known().wantings == nil {
		r.memo.wantings = map[string][]wanting{}
	}
	out, ok := r.memo.wantings[key]
	if !ok {
		out = r.findWantings()
		r.memo.wantings[key] = out
	}
	return out
}

func (r *Request) findWantings() []wanting {
	w := &wanter{r: r, cs: slices.DeleteFunc(r.Candidates(), func(c Candidate) bool { return !BodyItem(c.V) })}
	n := r.Counts()
	kind := func(part string) func(*counting) float64 {
		return func(p *counting) float64 { return One(kinds.PartOf(p.v) == part && !r.FixedPart(p.v.Slug)) }
	}
	w.between("mobility", n.MobilityFrom, n.MobilityTo, false, countPoints, kind(kinds.Mobility))
	w.between("main", n.MainFrom, n.MainTo, false, countPoints, kind(kinds.Main))
	w.between("settle or close besides", 0, n.Extra, false, countPoints, kind(kinds.Settle))
	if r.ThreeSides() {
		for _, s := range Sides {
			w.between(s.Name, 1, -1, true, sidePoints, func(p *counting) float64 { return One(s.Takes(p.v)) })
		}
	}
	for _, a := range r.owed() {
		name, is := "aim "+a, func(p *counting) float64 { return One(catalogue.Has(p.v.MainAims, a)) }
		if !slices.ContainsFunc(w.cs, func(c Candidate) bool { return is(c.Counted(0)) > 0 }) {
			name, is = "aim "+a+" besides", func(p *counting) float64 { return One(catalogue.Has(p.v.Aims, a)) }
		}
		w.between(name, 1, -1, true, aimPoints, is)
	}
	for _, need := range r.Needs() {
		w.between(
			"need "+need.Name(),
			max(1, need.Least),
			-1,
			true,
			needPoints,
			func(p *counting) float64 { return One(need.Takes(p.v)) },
		)
	}
	if t := r.Template; t != nil && t.Breaths > 0 {
		w.out = append(w.out, wanting{"by the breath", 0, 1, breathPoints, false,
			func(p *counting) float64 { return One(p.Dose.HoldBreaths > 0) - t.Breaths }})
	}
	if most := r.Template.ItemLimit(); most > 0 {
		w.between("items", 0, most-2, false, countPoints, func(*counting) float64 { return 1 })
	}
	if share, takes := r.WantedShare(); share > 0 && float64(w.reach(takes)) >= share*float64(r.LeastSeconds()) {
		w.out = append(w.out, wanting{ShareDown, 0, shareUnit, sharePoints, true, func(p *counting) float64 {
			return float64(p.Seconds) * (One(takes(&Candidate{V: p.v, Surface: p.surface})) - share)
		}})
	}
	return w.out
}

// Counted is a candidate in one of its doses as the composition counts it.
func (c *Candidate) Counted(option int) *counting {
	return &counting{v: c.V, surface: c.Surface, Dose: c.Doses[option].Dose}
}

// wanter collects what the composition asks for.
type wanter struct {
	r   *Request
	cs  []Candidate
	out []wanting
}

// between bounds how much of something the body holds, with or without the opener and the closer; a
// most below 0 is no bound, no more is asked for than there is, and what is missing costs soft points each.
func (w *wanter) between(name string, least, most int, ends bool, soft float64, by func(*counting) float64) {
	families, there, fresh := map[string]int{}, 0, 0
	for i := range w.cs {
		c := &w.cs[i]
		if by(c.Counted(0)) <= 0 {
			continue
		}
		if w.r.ManyOf(c.V) || families[c.V.Family] < MaxFamily {
			there++
			fresh += CountIf(w.r.IsFresh(c))
		}
		families[c.V.Family]++
	}
	could := there
	if len(w.r.Seen) > 0 && !w.r.Ask.AnyNew {
		could -= max(0, fresh-w.r.MaxNew())
	}
	if least = min(least, could); least > 0 {
		w.out = append(w.out, wanting{name, float64(least), 1, soft, ends, by})
	}
	if most >= 0 && there > most {
		w.out = append(
			w.out,
			wanting{name + ", at most", -float64(most), 1, 0, ends, func(p *counting) float64 { return -by(p) }},
		)
	}
}

// ShareDown names what asks for a share of the work down on the mat or bed.
const ShareDown = "share down"

// shareUnit is the seconds of the share that are priced together.
const shareUnit = 60

// Missing is what the things that a session lacks cost it.
func (r *Request) Missing(p *plan.Plan) (points float64) {
	p.Asked = nil
	for _, w := range r.Wantings() {
		have := 0.0
		for i := range p.Items {
			it := &p.Items[i]
			v, ok := r.Catalogue.Version(it.Version)
			if !ok || it.Role == trade.Reset || it.Role != trade.Main && !w.Ends {
				continue
			}
			have += w.By(&counting{v, it.Surface, it.End - it.Start, it.Dose})
		}
		p.Asked = append(
			p.Asked,
			plan.Asked{Name: w.Name, Least: w.Least, Have: math.Round(100*have) / 100, Points: w.Soft / w.Unit},
		)
		points += w.Soft / w.Unit * max(0, w.Least-have)
	}
	return points
}

// reach is how many seconds of what some take a session can hold at most: two of a family, and no more
// new ones than it may.
func (w *wanter) reach(takes func(*Candidate) bool) (total int) {
	type long struct{ cand, seconds int }
	var list []long
	for i := range w.cs {
		c := &w.cs[i]
		if takes(c) {
			list = append(list, long{i, c.Doses[len(c.Doses)-1].Dose.Seconds(w.r.Client.BreathRate, c.Sides())})
		}
	}
	slices.SortFunc(list, func(x, y long) int { return cmp.Or(y.seconds-x.seconds, x.cand-y.cand) })
	families, fresh := map[string]int{}, 0
	limit := len(w.r.Seen) > 0 && !w.r.Ask.AnyNew
	for _, x := range list {
		c := &w.cs[x.cand]
		if families[c.V.Family] >= MaxFamily || w.r.IsFresh(c) && limit && fresh >= w.r.MaxNew() {
			continue
		}
		families[c.V.Family]++
		fresh += CountIf(w.r.IsFresh(c))
		total += x.seconds
	}
	return total
}

// IsFresh tells whether a candidate counts as new.
func (r *Request) IsFresh(c *Candidate) bool { return !c.Seen && !r.FixedPart(c.V.Slug) }

// ManyOf tells whether any number of a version's family may come.
func (r *Request) ManyOf(v *catalogue.Version) bool {
	return r.Template.IsWhole(v.Family) || v.Family == r.Skill()
}

// WantedShare is the share of the working time that the place asks for, and what counts.
func (r *Request) WantedShare() (share float64, takes func(*Candidate) bool) {
	if r.Template != nil && (r.Template.OwnContent || len(r.Template.Positions) > 0) || r.Resting() {
		return 0, nil
	}
	switch where := r.Place(); {
	case r.Acute() && where != kinds.PlaceUpright:
		return easeShare, func(c *Candidate) bool { return c.V.Position.Lies() }
	case where == kinds.PlaceBed:
		return downShare[where], func(c *Candidate) bool { return c.Place().Ground() == way.Bed && kinds.Down(c.V.Position) }
	default:
		return downShare[where], func(c *Candidate) bool { return kinds.Down(c.V.Position) }
	}
}

// What is missing of the composition costs points: a session always stands, as near to what it should
// be as the client allows, and its checks say what is missing (product defaults).
const (
	needPoints   = 20 // each thing that the kind must hold
	sidePoints   = 12 // the front, the side or the back
	aimPoints    = 12 // a weighty aim that nothing serves
	countPoints  = 5  // each item that a part lacks
	sharePoints  = 10 // each minute that is not down
	breathPoints = 3  // each item that is not dosed in breaths
)

// Skill is the family that a lesson is about: what was chosen, else what serves the weightiest aim
// first; empty for other kinds.
func (r *Request) Skill() string {
	if r.Template == nil || !r.Template.Skill {
		return ""
	}
	if r.Ask.Skill != "" {
		return r.Ask.Skill
	}
	if r.known().skill == nil {
		found := r.findSkill()
		r.memo.skill = &found
	}
	return *r.memo.skill
}

func (r *Request) findSkill() string {
	aims, _ := r.Proposed()
	if len(r.Client.Aims) > 0 {
		aims = slices.SortedFunc(maps.Keys(r.Client.Aims), func(a, b string) int {
			return cmp.Or(cmp.Compare(r.Client.Aims[b], r.Client.Aims[a]), cmp.Compare(a, b))
		})
	}
	for _, usual := range []bool{true, false} { // what an instructor reaches for first
		for _, a := range aims {
			for _, v := range r.Catalogue.Versions {
				c, ok := r.Permitted(v)
				if ok && r.inPlace(&c) && kinds.PartOf(v) == kinds.Main && catalogue.Has(v.MainAims, a) &&
					v.Effort <= r.startEffort() &&
					(!usual || r.Usual(v.Family)) {
					return v.Family
				}
			}
		}
	}
	return ""
}

// lessonAims are what a lesson about a family is for: its main aims.
func (r *Request) lessonAims(family string) map[string]float64 {
	out := map[string]float64{}
	for _, v := range r.Catalogue.Versions {
		if v.Family == family {
			for _, a := range v.MainAims {
				out[a] = 1
			}
		}
	}
	return out
}

// Learning is the request for a lesson about one family.
func (r *Request) Learning(family string) *Request {
	t := *r
	t.Ask.Skill, t.memo = family, &memo{}
	return &t
}

// In is the request for another place, for one session; empty leaves it to the client.
func (r *Request) In(place string) *Request {
	t := *r
	t.Ask.Place, t.memo = place, &memo{}
	return &t
}

// Allowing is the request with so many new items at least.
func (r *Request) Allowing(fresh int) *Request {
	t := *r
	t.Ask.AllowNew, t.memo = fresh, &memo{}
	return &t
}
