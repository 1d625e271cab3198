package safety

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
	"restbend/core/way"
)

// Finding is one limit that a version crosses.
type Finding struct {
	Condition string     `json:"condition"`
	Quantity  string     `json:"quantity"`
	Value     float64    `json:"value"`
	Eased     *float64   `json:"eased,omitempty"` // what is left of it with the ease that answers it
	Ease      string     `json:"ease,omitempty"`  // that ease
	Allowed   float64    `json:"allowed"`
	Phase     string     `json:"phase"`
	Side      trade.Side `json:"side,omitempty"`
	Turn      trade.Side `json:"turn,omitempty"` // of what is done in turn: which side works when it occurs
	Reason    string     `json:"reason"`
	Source    string     `json:"source"`
}

// Result is the verdict on one version for one client.
type Result struct {
	Version  string                       `json:"version"`
	Family   string                       `json:"family"`
	Verdict  trade.Verdict                `json:"verdict"`
	Sides    map[trade.Side]trade.Verdict `json:"sides,omitempty"`
	Use      string                       `json:"use,omitempty"`
	Surface  trade.Surface                `json:"surface,omitempty"`
	Eases    []string                     `json:"eases"`
	Swaps    []string                     `json:"swaps"`
	Findings []Finding                    `json:"findings"`
	Watch    []string                     `json:"watch,omitempty"` // what to mind although no limit is crossed
	// what does at home for props that help and are not there
	Instead []string `json:"instead,omitempty"`
	// would suit with other kit or in another place: nothing else stands against it
	OtherKit   bool             `json:"other_kit,omitempty"`
	Overridden bool             `json:"overridden,omitempty"`
	Override   *intake.Override `json:"override,omitempty"`
	eased      [2]bool          // sides that suit with an ease
	clears     [][2]bool        // of each ease, the sides that suit with it
	turns      [2]bool          // of what is done in turn: the side whose turn needs the ease
}

// As is how a version that suits, or suits with an ease, is done: with which ease, and on which side
// alone where only that side needs it. Ease is empty for none; ok is false when it needs one and none
// serves the sides that are worked.
func (r *Result) As(side trade.Side) (ease string, on trade.Side, ok bool) {
	if !r.NeedsEase(side) {
		return "", "", true
	}
	if r.Use != r.Version {
		return "", "", false
	}
	if one := r.mixed(); one != "" && !side.One() {
		return r.EaseFor(one), one, r.EaseFor(one) != ""
	}
	ease = r.EaseFor(side)
	if r.turns[body.Left] != r.turns[body.Right] && !side.One() {
		on = trade.Left
		if r.turns[body.Right] {
			on = trade.Right
		}
	}
	return ease, on, ease != ""
}

// mixed is the side that needs an ease where the other suits as it stands.
func (r *Result) mixed() trade.Side {
	left, right := r.Sides[trade.Left], r.Sides[trade.Right]
	switch {
	case left == trade.Suits && right == trade.Adapt:
		return trade.Right
	case left == trade.Adapt && right == trade.Suits:
		return trade.Left
	}
	return ""
}

// EaseFor is the first ease with which a version suits as it is done: on the left, on the
// right, on each side with the same ease, or as it is when it has no sides. It is empty when
// none does.
func (r *Result) EaseFor(side trade.Side) string {
	for i, c := range r.clears {
		ok := c[body.Left] || c[body.Right]
		if r.Sides != nil {
			switch side {
			case trade.Left:
				ok = c[body.Left]
			case trade.Right:
				ok = c[body.Right]
			default:
				ok = c[body.Left] && c[body.Right]
			}
		}
		if ok {
			return r.Eases[i]
		}
	}
	return ""
}

// NeedsEase tells whether a version that suits or suits with an ease needs one as it is done.
func (r *Result) NeedsEase(side trade.Side) bool {
	if r.Sides == nil || r.Verdict != trade.Suits {
		return r.Verdict == trade.Adapt
	}
	left, right := r.Sides[trade.Left] == trade.Adapt, r.Sides[trade.Right] == trade.Adapt
	switch side {
	case trade.Left:
		return left
	case trade.Right:
		return right
	}
	return left || right
}

// Referral stops everything.
type Referral struct {
	Urgent bool     `json:"urgent"`
	Flags  []string `json:"flags"`
	Say    string   `json:"say"`
	Do     []string `json:"do,omitempty"` // what to do now, a sentence a sign
	Why    []string `json:"-"`            // the reasons of conditions, as they stand in Say
}

// Screening is the verdicts on all asked versions.
type Screening struct {
	Refer   *Referral `json:"refer"`
	Notes   []string  `json:"notes"`
	Results []Result  `json:"results"`
	bySlug  map[string]*Result
}

// Result returns the verdict on a version.
func (s *Screening) Result(slug string) (*Result, bool) {
	r, ok := s.bySlug[slug]
	return r, ok
}

// Unsupported lists recorded conditions whose limits are not computed yet; such a
// client is refused, never guessed.
func (r *Rules) Unsupported(c *intake.Client) []string {
	var out []string
	for _, k := range c.Conditions {
		if _, ok := r.Rule(k.Code); !ok {
			out = append(out, k.Code)
		}
	}
	return out
}

// bound is a limit made concrete for one client.
type bound struct {
	condition, quantity, reason, source string
	max                                 float64
	id                                  int // of the quantity in the catalogue's table
	watch, repeated                     bool
}

// Screener screens versions for one client on one day.
type Screener struct {
	rules     *Rules
	cat       *catalogue.Catalogue
	table     *catalogue.Table
	client    *intake.Client
	today     trade.Day
	bounds    []bound
	needs     []need
	notes     []string
	conflicts []string
	owns      map[string]bool
	positions map[string]string
	suiting   map[*catalogue.Version]bool
	standing  []*intake.Clearance // whose words count today
	mover     *way.Mover
	reach     map[way.Place]bool
}

// need is a position the client cannot take, as a bound of its own.
type need struct {
	id            int
	quantity, say string
}

// NewScreener prepares a client's limits on a day.
func NewScreener(rules *Rules, cat *catalogue.Catalogue, c *intake.Client, today trade.Day) (*Screener, error) {
	if u := rules.Unsupported(c); u != nil {
		return nil, fmt.Errorf("not supported yet: %s", strings.Join(u, ", "))
	}
	c = c.On(today)
	s := &Screener{
		rules:     rules,
		cat:       cat,
		table:     cat.Table(),
		client:    c,
		today:     today,
		owns:      map[string]bool{},
		positions: map[string]string{},
		suiting:   map[*catalogue.Version]bool{},
		reach:     map[way.Place]bool{},
	}
	s.findStanding()
	for _, k := range c.Owns() {
		s.owns[k] = true
	}
	for i := range c.Conditions {
		k := &c.Conditions[i]
		rule, _ := rules.Rule(k.Code)
		for j := range rule.Limits {
			s.bind(k, &rule.Limits[j])
		}
		s.bindAlso(k, rule)
		for _, n := range rule.Notes {
			if !slices.Contains(s.notes, n) {
				s.notes = append(s.notes, n)
			}
		}
		for _, ask := range rule.Asks {
			if d, _ := rules.Detail(ask, k.Code); d.Missing != "" && k.Missing(ask) {
				read := map[bool]string{true: "the strictest possibility", false: d.Missing}[d.Missing == "strict"]
				s.notes = append(
					s.notes,
					fmt.Sprintf("%s: %s is not recorded and is read as %s.", rule.Name, strings.ReplaceAll(ask, "_", " "), read),
				)
			}
		}
	}
	s.bindSideCheck()
	s.bindAge()
	slices.SortStableFunc(s.bounds, func(a, b bound) int { return strings.Compare(a.condition, b.condition) })
	s.findConflicts()
	var open []string
	for _, p := range append([]Needs{{Answer: "floor", Say: "getting to the floor"},
		{Answer: "stand_free", Say: "standing without a hold"}}, rules.Positions...) {
		a, confirmed := c.Position(p.Answer)
		s.positions[p.Answer] = a
		if !confirmed {
			open = append(open, fmt.Sprintf("%s (counts as %q)", p.Say, a))
		}
		if p.Quantity != "" && a != "yes" && a != "help" {
			s.needs = append(s.needs, need{s.table.ID(p.Quantity), p.Quantity, p.Say + " is not available"})
		}
	}
	s.notes = append(s.notes, s.Limits()...)
	notes := len(s.notes)
	if open != nil {
		s.notes = append(s.notes, "Not confirmed: "+strings.Join(open, ", ")+".")
	}
	switch s.positions["stand_free"] {
	case "yes":
	case "no":
		s.needs = append(s.needs, need{s.table.ID("needs.standing"), "needs.standing", "standing is not available"})
	default:
		s.needs = append(s.needs, need{s.table.ID("standing.free"), "standing.free", "standing needs a hand hold"})
	}
	s.notes = slices.Insert(s.notes, notes, s.GettingUp())
	return s, nil
}

// Conflicts are conditions that pull opposite ways; the stricter limit holds.
func (s *Screener) Conflicts() []string { return s.conflicts }

// Notes are things the instructor should know about this client's limits.
func (s *Screener) Notes() []string { return s.notes }

// Allowed is the tightest limit on a quantity, with the condition that set it; what is only to be minded limits nothing.
func (s *Screener) Allowed(quantity string) (max float64, condition string, limited bool) {
	for _, b := range s.bounds {
		if b.quantity == quantity && !b.watch && (!limited || b.max < max) {
			max, condition, limited = b.max, b.condition, true
		}
	}
	return max, condition, limited
}

// Rounding is half of the last digit a finding shows: a limit reached exactly is kept.
const Rounding = 0.005

// crosses tells whether a bound is crossed by one side of a variant.
func (s *Screener) crosses(
	b *bound,
	v *catalogue.Version,
	row *catalogue.Row,
	side body.Side,
) (value float64, crossed bool) {
	if b.id < 0 {
		return 0, false
	}
	value = row.Value(side, b.id)
	return value, b.over(v, value)
}

// over tells whether a value of a version crosses the bound.
func (b *bound) over(v *catalogue.Version, value float64) bool {
	if value <= b.max+Rounding || b.repeated && v.ShortestReps() <= 5 {
		return false
	}
	// Less than the posture noise of an angle is not loading (shared ruling 2).
	return b.max < catalogue.LoadNoise || value > catalogue.LoadNoise || !strings.HasSuffix(b.quantity, ".loaded")
}

// findings checks one side of one variant.
func (s *Screener) findings(
	v *catalogue.Version,
	row *catalogue.Row,
	side body.Side,
	name trade.Side,
	place []Finding,
) []Finding {
	var out []Finding
	for i := range s.bounds {
		b := &s.bounds[i]
		if b.watch {
			continue
		}
		if value, crossed := s.crosses(b, v, row, side); crossed {
			out = append(
				out,
				s.turned(row, side, b.id, Finding{
					Condition: b.condition,
					Quantity:  b.quantity,
					Value:     round(value),
					Allowed:   round(b.max),
					Side:      name,
					Reason:    b.reason,
					Source:    b.source,
				}),
			)
		}
	}
	for _, n := range s.needs {
		if n.id >= 0 && row.Value(side, n.id) > 0 {
			out = append(
				out,
				s.turned(row, side, n.id, Finding{Condition: "positions", Quantity: n.quantity, Value: 1, Side: name,
					Reason: n.say, Source: "the client's positions"}),
			)
		}
	}
	for _, f := range place {
		f.Side = name
		out = append(out, f)
	}
	return out
}

// turned notes the phase in which a finding occurs and, of what is done in turn, the side that works then; where
// both turns ask the same, neither is named.
func (s *Screener) turned(row *catalogue.Row, side body.Side, id int, f Finding) Finding {
	f.Phase = s.table.Phase(row, side, id)
	left, right := row.Turn(body.Left, id), row.Turn(body.Right, id)
	if f.Side != "" || math.Abs(left-right) < Rounding {
		return f
	}
	turn := body.Left
	if right > left {
		turn = body.Right
	}
	f.Turn, f.Phase = trade.BothSides[turn], s.table.TurnPhase(row, turn, id)
	return f
}

// place chooses the surface and finds what the client's place and kit lack, and what a
// clinician's words forbid wherever it is done.
func (s *Screener) place(v *catalogue.Version) (surface trade.Surface, out []Finding) {
	surface, floorOK := s.surface(v)
	if why := s.Forbidden(v); why != "" {
		out = append(out, Finding{Condition: "clearance", Quantity: "forbidden", Value: 1, Phase: "the whole exercise", Reason: why,
			Source: "the clinician's words"})
	}
	if surface == "" {
		out = append(
			out,
			Finding{Condition: "place", Quantity: "surface", Value: 1, Phase: "set-up",
				Reason: "needs one of: " + strings.Join(trade.Words(v.Surfaces), ", "), Source: "the client's place and kit"},
		)
	} else if !floorOK {
		why := "getting to the floor is not available"
		if f := s.positions["floor"]; f == "yes" || f == "help" || !s.down(v, surface) {
			why = s.noWay()
		}
		out = append(out, Finding{Condition: "positions", Quantity: "needs.floor", Value: 1, Phase: "set-up",
			Reason: why, Source: "the client's positions"})
	}
	for _, k := range v.KitAt(surface) {
		if !s.owns[k] && !catalogue.Comfort(k) {
			say := "needs a " + strings.ReplaceAll(k, "-", " ")
			if instead := catalogue.Household[k]; instead != "" {
				say += "; " + instead + " does"
			}
			out = append(out, Finding{Condition: "place", Quantity: "kit", Value: 1, Phase: "set-up", Reason: say,
				Source: "the client's place and kit"})
		}
	}
	return surface, out
}

// row is what a version asks of the body where this client does it.
func (s *Screener) row(v *catalogue.Version) *catalogue.Row {
	surface, _ := s.surface(v)
	return s.table.At(v, surface)
}

// watch lists what to mind about a version that crosses no limit.
func (s *Screener) watch(v *catalogue.Version) (out []string) {
	row := s.row(v)
	for i := range s.bounds {
		b := &s.bounds[i]
		if !b.watch || slices.Contains(out, b.reason) {
			continue
		}
		for _, side := range sidesOf(v) {
			if _, crossed := s.crosses(b, v, row, side); crossed {
				out = append(out, b.reason)
				break
			}
		}
	}
	return out
}

func round(v float64) float64 { return float64(int(v*100+0.5)) / 100 }

// down tells whether a version is done down on the floor on a surface.
func (s *Screener) down(v *catalogue.Version, surface trade.Surface) bool {
	return v.Quantities["needs.floor"].Value > 0 && surface != trade.Bed && surface != trade.Carriage
}

// getsTo tells whether the client gets to where a version is done on a surface, and up again.
func (s *Screener) getsTo(v *catalogue.Version, surface trade.Surface) bool {
	if floor := s.positions["floor"]; s.down(v, surface) && floor != "yes" && floor != "help" {
		return false
	}
	place := way.Place{Position: v.Position, Surface: surface}
	ok, known := s.reach[place]
	if !known {
		ok = s.Mover().Reaches(place)
		s.reach[place] = ok
	}
	return ok
}

// surface chooses where the client does a version: bed before mat when the floor is not
// easy. floorOK is false when there is no way to the chosen surface.
func (s *Screener) surface(v *catalogue.Version) (name trade.Surface, floorOK bool) {
	needsFloor := v.Quantities["needs.floor"].Value > 0
	floor := s.positions["floor"]
	order := v.Surfaces
	if floor != "yes" {
		order = slices.Clone(v.Surfaces)
		sort.SliceStable(order, func(i, j int) bool { return order[i] == trade.Bed && order[j] != trade.Bed })
	}
	for _, k := range order {
		if !s.owns[string(k)] && !(k == trade.Mat && !needsFloor) {
			continue
		}
		if s.getsTo(v, k) {
			return k, true
		}
		if name == "" {
			name = k
		}
	}
	return name, false
}

// sidesOf are the sides a version is judged on: both when it is done to each, else one
// row that holds both.
func sidesOf(v *catalogue.Version) []body.Side {
	if v.SideMode == trade.Each {
		return []body.Side{body.Left, body.Right}
	}
	return []body.Side{body.Left}
}

// clean tells whether a side of a variant crosses nothing; the place is judged apart.
func (s *Screener) clean(v *catalogue.Version, row *catalogue.Row, side body.Side) bool {
	for i := range s.bounds {
		if b := &s.bounds[i]; !b.watch {
			if _, crossed := s.crosses(b, v, row, side); crossed {
				return false
			}
		}
	}
	for _, n := range s.needs {
		if n.id >= 0 && row.Value(side, n.id) > 0 {
			return false
		}
	}
	return true
}

// cleanSides tells on which sides a variant suits, given a place to do it.
func (s *Screener) cleanSides(v *catalogue.Version, row *catalogue.Row) (ok [2]bool, any bool) {
	for _, side := range sidesOf(v) {
		ok[side] = s.clean(v, row, side)
		any = any || ok[side]
	}
	return ok, any
}

// suits tells whether a version suits as it stands, on at least one side.
func (s *Screener) suits(v *catalogue.Version) bool {
	ok, known := s.suiting[v]
	if !known {
		if _, lacks := s.place(v); lacks == nil {
			_, ok = s.cleanSides(v, s.row(v))
		}
		s.suiting[v] = ok
	}
	return ok
}

// Owns tells whether a prop or a surface is at hand.
func (s *Screener) Owns(kit string) bool { return s.owns[kit] }

// Screen gives the verdicts on the named versions, all when none is named.
func (s *Screener) Screen(slugs ...string) *Screening {
	out := &Screening{Refer: s.Referral(), Notes: append([]string{}, s.notes...), bySlug: map[string]*Result{}}
	s.suiting = make(map[*catalogue.Version]bool, len(s.cat.Versions))
	out.Results = make([]Result, 0, len(s.cat.Versions))
	for _, v := range s.cat.Versions {
		if len(slugs) == 0 || slices.Contains(slugs, v.Slug) {
			out.Results = append(out.Results, s.result(v, out.Refer))
		}
	}
	for i := range out.Results {
		out.bySlug[out.Results[i].Version] = &out.Results[i]
	}
	return out
}

// judge finds the verdict on a version apart from any referral: which sides suit, the
// place, and what to use instead.
func (s *Screener) judge(v *catalogue.Version) (r Result, ok [2]bool, lacks []Finding) {
	r = Result{Version: v.Slug, Family: v.Family}
	r.Surface, lacks = s.place(v)
	ok, any := s.cleanSides(v, s.row(v))
	otherKit := false
	if lacks != nil {
		otherKit = any && s.reaches(v) && !slices.ContainsFunc(lacks, func(f Finding) bool { return f.Condition != "place" })
		ok, any = [2]bool{}, false
	}
	switch {
	case any:
		r.Verdict = trade.Suits
		if v.SideMode == trade.Each && ok[body.Left] != ok[body.Right] {
			s.eased(v, &r) // for the other side
			r.eased[body.Left], r.eased[body.Right] = r.eased[body.Left] &&
				!ok[body.Left], r.eased[body.Right] &&
				!ok[body.Right]
		}
		r.Use = v.Slug
	case lacks == nil && s.eased(v, &r), s.easier(v, &r):
		r.Verdict = trade.Adapt
	default:
		r.Verdict, r.OtherKit = trade.LeaveOut, otherKit
	}
	return r, ok, lacks
}

// reaches tells whether the client could get to where a version is done, given the place: to
// the floor, or to a bed or carriage instead.
func (s *Screener) reaches(v *catalogue.Version) bool {
	return slices.ContainsFunc(v.Surfaces, func(k trade.Surface) bool { return s.getsTo(v, k) })
}

// Verdicts gives only the verdicts, in the order of the catalogue: what comparing many
// clients needs.
func (s *Screener) Verdicts() []trade.Verdict {
	out := make([]trade.Verdict, len(s.cat.Versions))
	refer := s.Referral()
	for i, v := range s.cat.Versions {
		if refer != nil {
			out[i] = trade.ReferFirst
			continue
		}
		r, _, _ := s.judge(v)
		out[i] = r.Verdict
	}
	return out
}

func (s *Screener) result(v *catalogue.Version, refer *Referral) Result {
	r, ok, lacks := s.judge(v)
	r.Findings, r.Swaps = []Finding{}, []string{}
	if v.SideMode == trade.Each {
		r.Sides = map[trade.Side]trade.Verdict{}
		for side, name := range trade.BothSides {
			r.Sides[name] = map[bool]trade.Verdict{true: trade.Suits, false: trade.LeaveOut}[ok[side]]
			if r.eased[side] {
				r.Sides[name] = trade.Adapt
			}
		}
	}
	if r.Eases == nil {
		r.Eases = []string{}
	}
	for _, side := range sidesOf(v) {
		if ok[side] {
			continue
		}
		var name trade.Side
		if v.SideMode == trade.Each {
			name = trade.BothSides[side]
		}
		r.Findings = append(r.Findings, s.findings(v, s.row(v), side, name, lacks)...)
	}
	s.answer(v, &r)
	r.Watch = s.watch(v)
	if v.Lighter != "" {
		r.Watch = append(r.Watch, "An own exercise that says less than the one it copies: "+v.Lighter)
	}
	for _, k := range append(slices.Clone(v.KitAt(r.Surface)), v.Helpful...) {
		if !s.owns[k] && (catalogue.Comfort(k) || catalogue.Has(v.Helpful, k)) && catalogue.Household[k] != "" {
			r.Instead = append(r.Instead, fmt.Sprintf("%s for a %s", catalogue.Household[k], strings.ReplaceAll(k, "-", " ")))
		}
	}
	for i := range s.client.Overrides {
		o := &s.client.Overrides[i]
		if o.Version == v.Slug && !o.Until.IsZero() && !s.today.After(o.Until) {
			r.Override = o
			r.Overridden = r.Verdict == trade.LeaveOut && s.Forbidden(v) == "" // nothing lifts a clinician's word
		}
	}
	if refer != nil {
		r.Verdict, r.Use, r.Eases, r.clears, r.Overridden, r.OtherKit = trade.ReferFirst, "", []string{}, nil, false, false
		for side := range r.Sides {
			r.Sides[side] = trade.ReferFirst
		}
	} else if r.Verdict != trade.Suits || r.Sides[trade.Left] == trade.LeaveOut || r.Sides[trade.Right] == trade.LeaveOut {
		r.Swaps = s.swaps(v)
	}
	return r
}
