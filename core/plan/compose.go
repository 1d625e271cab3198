package plan

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/trade"
)

// What a session is made of (domain/07): settle, mobility, main and close by minutes, a front, a
// side and a back in the main part, and the share of it that is down.

// counts is what the parts hold: the kind's own row, else by minutes; where mobility is asked for
// more than all else, the two columns are swapped.
func (r *Request) counts() counts {
	var n counts
	for _, row := range parts {
		n = row.counts
		if r.Minutes <= row.minutes {
			break
		}
	}
	if t := r.Template; t != nil && t.Parts != nil {
		p := t.Parts
		n.mobilityFrom, n.mobilityTo = p.Mobility[0], p.Mobility[1]
		n.mainFrom, n.mainTo = p.Main[0], p.Main[1]
		n.extra = p.Extra
	} else if r.mostlyMobility() {
		n.mobilityFrom, n.mobilityTo, n.mainFrom, n.mainTo = n.mainFrom, n.mainTo, n.mobilityFrom, n.mobilityTo
	}
	if t := r.Template.maxStrong(); t > 0 {
		n.mainTo = min(n.mainTo, t)
		n.mainFrom = min(n.mainFrom, n.mainTo)
	}
	if r.quietly() {
		n.extra = max(n.extra, quietExtra)
	}
	if r.acute() && (r.Template == nil || r.Template.Parts == nil) {
		n = acuteCounts
	}
	if r.learning() {
		n = counts{}
	}
	if r.resting() {
		n = counts{extra: 2, mobilityTo: 2}
	}
	return n
}

// Up to so many minutes a session may begin, and end, with the work itself (domain/07); a short day of
// holds as well.
const (
	bareOpenTo  = 7
	bareCloseTo = 5
)

// bare tells whether the session may do without an opener, and without a closer.
func (r *Request) bare() (opener, closer bool) {
	day := r.Template != nil && r.Template.Day && r.Minutes <= days[0].minutes || r.Template.routine()
	return r.Minutes <= bareOpenTo || day, r.Minutes <= bareCloseTo || day
}

// acuteCounts are the parts in acute back pain: breath, positions of ease and small movements, hardly
// any work (domain/07 in words; the counts are product defaults).
var acuteCounts = counts{extra: 3, mobilityFrom: 1, mobilityTo: 4, mainTo: 2}

// quietExtra is how many more quiet items a client has who is there mostly for breath, relaxation or posture
// (product default).
const quietExtra = 2

// quietly tells whether breath, relaxation and posture are a third of what is asked for.
func (r *Request) quietly() bool {
	return r.Minutes >= sidesFrom && 3*shareOf(r.aims(), "breathing", "relaxation", "posture") >= 1-1e-9
}

// mostlyMobility tells whether mobility is more than half of what is asked for.
func (r *Request) mostlyMobility() bool { return shareOf(r.aims(), mobilises...) > 0.5+1e-9 }

// resting tells whether only breath, relaxation and comfortable positions are for today: a pain of 7
// or more, or a day of rest.
func (r *Request) resting() bool { return r.effortCap() == 1 }

// A sideOf is one of the three sides that the main part trains: no single exercise trains all.
type sideOf struct {
	Name  string
	takes func(*catalogue.Version) bool
}

var sides = []sideOf{
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

// threeSides tells whether the session asks for a front, a side and a back: not in acute pain, on a
// day of rest, or in kinds that have a content of their own.
func (r *Request) threeSides() bool {
	return r.Minutes >= sidesFrom && !r.acute() && !r.resting() && (r.Template == nil || !r.Template.OwnContent)
}

// owed are the aims that a session never leaves out where something serves them: the weighty ones,
// from the length on that trains all sides.
func (r *Request) owed() (out []string) {
	if r.Minutes < sidesFrom || r.Template != nil && r.Template.OwnContent || r.resting() {
		return nil
	}
	aims, weight, _ := r.wants()
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
	name        string
	least, unit float64
	soft        float64 // points for each unit that is missing; 0: it must hold
	ends        bool    // the opener and the closer count
	by          func(*counting) float64
}

// counting is an item as the composition counts it.
type counting struct {
	v       *catalogue.Version
	surface trade.Surface
	seconds int
	dose    dose.Dose
}

func one(is bool) float64 { return float64(b2i(is)) }

// wantings are what the composition asks for, as far as there is something for it.
func (r *Request) wantings() []wanting {
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
	w := &wanter{r: r, cs: slices.DeleteFunc(r.candidates(), func(c candidate) bool { return !bodyItem(c.v) })}
	n := r.counts()
	kind := func(part string) func(*counting) float64 {
		return func(p *counting) float64 { return one(PartOf(p.v) == part && !r.fixedPart(p.v.Slug)) }
	}
	w.between("mobility", n.mobilityFrom, n.mobilityTo, false, countPoints, kind(Mobility))
	w.between("main", n.mainFrom, n.mainTo, false, countPoints, kind(Main))
	w.between("settle or close besides", 0, n.extra, false, countPoints, kind(Settle))
	if r.threeSides() {
		for _, s := range sides {
			w.between(s.Name, 1, -1, true, sidePoints, func(p *counting) float64 { return one(s.takes(p.v)) })
		}
	}
	for _, a := range r.owed() {
		name, is := "aim "+a, func(p *counting) float64 { return one(catalogue.Has(p.v.MainAims, a)) }
		if !slices.ContainsFunc(w.cs, func(c candidate) bool { return is(c.counted(0)) > 0 }) {
			name, is = "aim "+a+" besides", func(p *counting) float64 { return one(catalogue.Has(p.v.Aims, a)) }
		}
		w.between(name, 1, -1, true, aimPoints, is)
	}
	for _, need := range r.needs() {
		w.between(
			"need "+need.Name(),
			max(1, need.Least),
			-1,
			true,
			needPoints,
			func(p *counting) float64 { return one(need.takes(p.v)) },
		)
	}
	if t := r.Template; t != nil && t.Breaths > 0 {
		w.out = append(w.out, wanting{"by the breath", 0, 1, breathPoints, false,
			func(p *counting) float64 { return one(p.dose.HoldBreaths > 0) - t.Breaths }})
	}
	if most := r.Template.mostItems(); most > 0 {
		w.between("items", 0, most-2, false, countPoints, func(*counting) float64 { return 1 })
	}
	if share, takes := r.wantedShare(); share > 0 && float64(w.reach(takes)) >= share*float64(r.leastSeconds()) {
		w.out = append(w.out, wanting{ShareDown, 0, shareUnit, sharePoints, true, func(p *counting) float64 {
			return float64(p.seconds) * (one(takes(&candidate{v: p.v, surface: p.surface})) - share)
		}})
	}
	return w.out
}

// counted is a candidate in one of its doses as the composition counts it.
func (c *candidate) counted(option int) *counting {
	return &counting{v: c.v, surface: c.surface, dose: c.doses[option].dose}
}

// wanter collects what the composition asks for.
type wanter struct {
	r   *Request
	cs  []candidate
	out []wanting
}

// between bounds how much of something the body holds, with or without the opener and the closer; a
// most below 0 is no bound, no more is asked for than there is, and what is missing costs soft points each.
func (w *wanter) between(name string, least, most int, ends bool, soft float64, by func(*counting) float64) {
	families, there, fresh := map[string]int{}, 0, 0
	for i := range w.cs {
		c := &w.cs[i]
		if by(c.counted(0)) <= 0 {
			continue
		}
		if w.r.manyOf(c.v) || families[c.v.Family] < maxFamily {
			there++
			fresh += b2i(w.r.isFresh(c))
		}
		families[c.v.Family]++
	}
	could := there
	if len(w.r.Seen) > 0 && !w.r.Ask.AnyNew {
		could -= max(0, fresh-w.r.maxNew())
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

// missing is what the things that a session lacks cost it.
func (r *Request) missing(p *Plan) (points float64) {
	p.Asked = nil
	for _, w := range r.wantings() {
		have := 0.0
		for i := range p.Items {
			it := &p.Items[i]
			v, ok := r.Catalogue.Version(it.Version)
			if !ok || it.Role == trade.Reset || it.Role != trade.Main && !w.ends {
				continue
			}
			have += w.by(&counting{v, it.Surface, it.End - it.Start, it.Dose})
		}
		p.Asked = append(p.Asked, Asked{w.name, w.least, math.Round(100*have) / 100, w.soft / w.unit})
		points += w.soft / w.unit * max(0, w.least-have)
	}
	return points
}

// reach is how many seconds of what some take a session can hold at most: two of a family, and no more
// new ones than it may.
func (w *wanter) reach(takes func(*candidate) bool) (total int) {
	type long struct{ cand, seconds int }
	var list []long
	for i := range w.cs {
		c := &w.cs[i]
		if takes(c) {
			list = append(list, long{i, c.doses[len(c.doses)-1].dose.Seconds(w.r.Client.BreathRate, c.sides())})
		}
	}
	slices.SortFunc(list, func(x, y long) int { return cmp.Or(y.seconds-x.seconds, x.cand-y.cand) })
	families, fresh := map[string]int{}, 0
	limit := len(w.r.Seen) > 0 && !w.r.Ask.AnyNew
	for _, x := range list {
		c := &w.cs[x.cand]
		if families[c.v.Family] >= maxFamily || w.r.isFresh(c) && limit && fresh >= w.r.maxNew() {
			continue
		}
		families[c.v.Family]++
		fresh += b2i(w.r.isFresh(c))
		total += x.seconds
	}
	return total
}

// isFresh tells whether a candidate counts as new.
func (r *Request) isFresh(c *candidate) bool { return !c.seen && !r.fixedPart(c.v.Slug) }

// manyOf tells whether any number of a version's family may come.
func (r *Request) manyOf(v *catalogue.Version) bool {
	return r.Template.whole(v.Family) || v.Family == r.skill()
}

// wantedShare is the share of the working time that the place asks for, and what counts.
func (r *Request) wantedShare() (share float64, takes func(*candidate) bool) {
	if r.Template != nil && (r.Template.OwnContent || len(r.Template.Positions) > 0) || r.resting() {
		return 0, nil
	}
	switch where := r.Place(); {
	case r.acute() && where != placeUpright:
		return easeShare, func(c *candidate) bool { return c.v.Position.Lies() }
	case where == placeBed:
		return downShare[where], func(c *candidate) bool { return c.place().ground() == bed && down(c.v.Position) }
	default:
		return downShare[where], func(c *candidate) bool { return down(c.v.Position) }
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

// skill is the family that a lesson is about: what was chosen, else what serves the weightiest aim
// first; empty for other kinds.
func (r *Request) skill() string {
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
				c, ok := r.permitted(v)
				if ok && r.inPlace(&c) && PartOf(v) == Main && catalogue.Has(v.MainAims, a) &&
					v.Effort <= r.startEffort() &&
					(!usual || r.usual(v.Family)) {
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
