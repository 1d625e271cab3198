package safety

import (
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"restbend/core/body"
	"restbend/core/catalogue"
)

// The verdicts, mildest first.
const (
	Suits      = "suits"
	Adapt      = "adapt"
	LeaveOut   = "leave-out"
	ReferFirst = "refer-first"
)

// Finding is one limit that a version crosses.
type Finding struct {
	Condition string  `json:"condition"`
	Quantity  string  `json:"quantity"`
	Value     float64 `json:"value"`
	Allowed   float64 `json:"allowed"`
	Phase     string  `json:"phase"`
	Side      string  `json:"side,omitempty"`
	Reason    string  `json:"reason"`
	Source    string  `json:"source"`
}

// Result is the verdict on one version for one client.
type Result struct {
	Version    string            `json:"version"`
	Family     string            `json:"family"`
	Verdict    string            `json:"verdict"`
	Sides      map[string]string `json:"sides,omitempty"`
	Use        string            `json:"use,omitempty"`
	Surface    string            `json:"surface,omitempty"`
	Eases      []string          `json:"eases"`
	Swaps      []string          `json:"swaps"`
	Findings   []Finding         `json:"findings"`
	Overridden bool              `json:"overridden,omitempty"`
	Override   *Override         `json:"override,omitempty"`
}

// Referral stops everything.
type Referral struct {
	Urgent bool     `json:"urgent"`
	Flags  []string `json:"flags"`
	Say    string   `json:"say"`
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
func (r *Rules) Unsupported(c *Client) []string {
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
}

// Screener screens versions for one client on one day.
type Screener struct {
	rules     *Rules
	cat       *catalogue.Catalogue
	client    *Client
	today     time.Time
	bounds    []bound
	notes     []string
	owns      []string
	positions map[string]string
	standHeld bool
}

// NewScreener prepares a client's limits. Today is used where the client's own date is
// absent.
func NewScreener(rules *Rules, cat *catalogue.Catalogue, c *Client, today time.Time) (*Screener, error) {
	if u := rules.Unsupported(c); u != nil {
		return nil, fmt.Errorf("not supported yet: %s", strings.Join(u, ", "))
	}
	if t, ok := day(c.Today.Date); ok {
		today = t
	}
	s := &Screener{rules: rules, cat: cat, client: c, today: today, owns: c.Owns(), positions: map[string]string{}}
	for i := range c.Conditions {
		k := &c.Conditions[i]
		rule, _ := rules.Rule(k.Code)
		for j := range rule.Limits {
			l := &rule.Limits[j]
			if !k.applies(l.When) {
				continue
			}
			for _, q := range expand(l.Quantity, k) {
				s.bounds = append(s.bounds, bound{k.Code, q, l.Reason, l.Source, l.allowed(q)})
			}
		}
		s.notes = append(s.notes, rule.Notes...)
		for _, ask := range rule.Asks {
			if k.detail(ask) == "" && strings.Contains("phase side preference region date", ask) {
				s.notes = append(s.notes, fmt.Sprintf("%s: %s is not recorded and is read as the strictest possibility", rule.Name, strings.ReplaceAll(ask, "_", " ")))
			}
		}
	}
	s.conflicts()
	for _, p := range append([]Needs{{Answer: "floor", Say: "getting to the floor"}, {Answer: "stand_free", Say: "standing without a hold"}}, rules.Positions...) {
		a, confirmed := c.Position(p.Answer)
		s.positions[p.Answer] = a
		if !confirmed {
			s.notes = append(s.notes, fmt.Sprintf("%s is not confirmed and counts as %q", p.Say, a))
		}
	}
	s.standHeld = s.positions["stand_free"] != "yes"
	return s, nil
}

// conflicts notes conditions that pull opposite ways; the verdict stays strict.
func (s *Screener) conflicts() {
	by := func(dir string) (who []string) {
		for _, b := range s.bounds {
			if strings.HasPrefix(b.quantity, "lumbar."+dir) || strings.HasPrefix(b.quantity, "trunk."+dir) {
				if !slices.Contains(who, b.condition) {
					who = append(who, b.condition)
				}
			}
		}
		return who
	}
	f, e := by("flexion"), by("extension")
	for _, a := range f {
		for _, b := range e {
			if a != b && !slices.Contains(e, a) && !slices.Contains(f, b) {
				s.notes = append(s.notes, fmt.Sprintf("%s limits bending and %s limits arching: both limits hold", a, b))
			}
		}
	}
}

// Referral says whether anything must be seen by a clinician first.
func (s *Screener) Referral() *Referral {
	ref := &Referral{}
	var reasons []string
	for _, f := range s.client.RedFlags {
		if s.client.cleared(f, s.today) {
			continue
		}
		ref.Flags = append(ref.Flags, f)
		for _, rf := range s.rules.RedFlags {
			if rf.Code == f && rf.Urgent {
				ref.Urgent = true
			}
		}
	}
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		for _, r := range rule.Refer {
			if k.applies(r.When) && s.refers(k, &r) {
				reasons = append(reasons, r.Reason)
				if !slices.Contains(ref.Flags, k.Code) {
					ref.Flags = append(ref.Flags, k.Code)
				}
			}
		}
	}
	if ref.Flags == nil {
		return nil
	}
	ref.Say = "See a clinician before exercising"
	if ref.Urgent {
		ref.Say = "Urgent medical help now"
	}
	if reasons != nil {
		ref.Say += ": " + strings.Join(reasons, "; ")
	}
	return ref
}

func (s *Screener) refers(k *Condition, r *Refer) bool {
	if r.Weeks > 0 {
		d, ok := day(k.detail(r.Date))
		return !ok || s.today.Before(d.AddDate(0, 0, 7*r.Weeks))
	}
	return r.Clearance && !s.client.cleared(k.Code, s.today)
}

// HoldCap is the longest hold the client's conditions allow in seconds (0: no cap) and
// the reason.
func (s *Screener) HoldCap() (seconds int, reason string) {
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		for _, d := range rule.Dose {
			if k.applies(d.When) && (seconds == 0 || d.HoldS < seconds) {
				seconds, reason = d.HoldS, d.Reason
			}
		}
	}
	return seconds, reason
}

// Notes are things the instructor should know about this client's limits.
func (s *Screener) Notes() []string { return s.notes }

// Allowed is the tightest limit on a quantity, with the condition that set it.
func (s *Screener) Allowed(quantity string) (max float64, condition string, limited bool) {
	for _, b := range s.bounds {
		if b.quantity == quantity && (!limited || b.max < max) {
			max, condition, limited = b.max, b.condition, true
		}
	}
	return max, condition, limited
}

// rounding is half of the last digit a finding shows: a limit reached exactly is kept.
const rounding = 0.005

// findings checks one side of one variant.
func (s *Screener) findings(v *catalogue.Version, q catalogue.Quantities, side string) (surface string, out []Finding) {
	for _, b := range s.bounds {
		p, ok := q[b.quantity]
		if !ok || p.Value <= b.max+rounding {
			continue
		}
		// Less than the posture noise of an angle is not loading (shared ruling 2).
		if strings.HasSuffix(b.quantity, ".loaded") && p.Value <= 5 && b.max >= 5 {
			continue
		}
		out = append(out, Finding{b.condition, b.quantity, round(p.Value), round(b.max), p.Phase, side, b.reason, b.source})
	}
	need := func(quantity, position, say string) {
		p, ok := q[quantity]
		a := s.positions[position]
		if !ok || a == "yes" || a == "help" {
			return
		}
		out = append(out, Finding{"positions", quantity, 1, 0, p.Phase, side, say + " is not available", "the client's positions"})
	}
	surface, floorOK := s.surface(v)
	if surface == "" {
		out = append(out, Finding{"place", "surface", 1, 0, "set-up", side, "needs one of: " + strings.Join(v.Surfaces, ", "), "the client's place and kit"})
	} else if !floorOK {
		out = append(out, Finding{"positions", "needs.floor", 1, 0, "set-up", side, "getting to the floor is not available", "the client's positions"})
	}
	for _, k := range v.Kit {
		if !slices.Contains(s.owns, k) {
			out = append(out, Finding{"place", "kit", 1, 0, "set-up", side, "needs a " + k, "the client's place and kit"})
		}
	}
	for _, n := range s.rules.Positions {
		need(n.Quantity, n.Answer, n.Say)
	}
	if p, ok := q["needs.standing"]; ok && s.positions["stand_free"] == "no" {
		out = append(out, Finding{"positions", "needs.standing", 1, 0, p.Phase, side, "standing is not available", "the client's positions"})
	} else if p, ok := q["standing.free"]; ok && s.standHeld {
		out = append(out, Finding{"positions", "standing.free", 1, 0, p.Phase, side, "standing needs a hand hold", "the client's positions"})
	}
	return surface, out
}

func round(v float64) float64 { return float64(int(v*100+0.5)) / 100 }

// surface chooses where the client does a version: bed before mat when the floor is not
// easy. floorOK is false when the chosen surface is the floor and it is out of reach.
func (s *Screener) surface(v *catalogue.Version) (name string, floorOK bool) {
	needsFloor := v.Quantities["needs.floor"].Value > 0
	floor := s.positions["floor"]
	order := v.Surfaces
	if floor != "yes" {
		order = append([]string{}, v.Surfaces...)
		sort.SliceStable(order, func(i, j int) bool { return order[i] == "bed" && order[j] != "bed" })
	}
	for _, k := range order {
		if !slices.Contains(s.owns, k) && !(k == "mat" && !needsFloor) {
			continue
		}
		if k == "bed" || k == "spring-carriage" || !needsFloor || floor == "yes" || floor == "help" {
			return k, true
		}
		if name == "" {
			name = k
		}
	}
	return name, false
}

// check is the verdict of one variant on its own, side by side.
func (s *Screener) check(v *catalogue.Version, q catalogue.Quantities) (verdicts map[string]bool, surface string, all []Finding) {
	verdicts = map[string]bool{}
	if v.SideMode != "each" {
		sf, f := s.findings(v, v.Side(v.Authored, q), "")
		verdicts[""] = f == nil
		return verdicts, sf, f
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		name := [2]string{"left", "right"}[side]
		sf, f := s.findings(v, v.Side(side, q), name)
		verdicts[name], surface = f == nil, sf
		all = append(all, f...)
	}
	return verdicts, surface, all
}

func anyTrue(m map[string]bool) bool {
	for _, ok := range m {
		if ok {
			return true
		}
	}
	return false
}

// suits tells whether a version suits as it stands, on at least one side.
func (s *Screener) suits(v *catalogue.Version) bool {
	ok, _, _ := s.check(v, v.Quantities)
	return anyTrue(ok)
}

// Screen gives the verdicts on the named versions, all when none is named.
func (s *Screener) Screen(slugs ...string) *Screening {
	out := &Screening{Refer: s.Referral(), Notes: append([]string{}, s.notes...), bySlug: map[string]*Result{}}
	suit := map[string]bool{}
	for _, v := range s.cat.Versions {
		suit[v.Slug] = s.suits(v)
	}
	for _, v := range s.cat.Versions {
		if len(slugs) == 0 || slices.Contains(slugs, v.Slug) {
			out.Results = append(out.Results, s.result(v, suit, out.Refer))
		}
	}
	for i := range out.Results {
		out.bySlug[out.Results[i].Version] = &out.Results[i]
	}
	return out
}

func (s *Screener) result(v *catalogue.Version, suit map[string]bool, refer *Referral) Result {
	ok, surface, findings := s.check(v, v.Quantities)
	r := Result{Version: v.Slug, Family: v.Family, Surface: surface, Eases: []string{}, Swaps: []string{}, Findings: findings}
	if findings == nil {
		r.Findings = []Finding{}
	}
	if v.SideMode == "each" {
		r.Sides = map[string]string{}
		for side, good := range ok {
			r.Sides[side] = map[bool]string{true: Suits, false: LeaveOut}[good]
		}
	}
	for i := range s.client.Overrides {
		o := &s.client.Overrides[i]
		if until, dated := day(o.Until); o.Version == v.Slug && dated && !s.today.After(until) {
			r.Override = o
		}
	}
	switch {
	case anyTrue(ok):
		r.Verdict, r.Use = Suits, v.Slug
	case s.eased(v, &r), s.easier(v, suit, &r):
		r.Verdict = Adapt
	default:
		r.Verdict = LeaveOut
		r.Overridden = r.Override != nil
	}
	if r.Verdict != Suits {
		r.Swaps = s.swaps(v, suit)
	}
	if refer != nil {
		r.Verdict, r.Use, r.Eases, r.Swaps, r.Overridden = ReferFirst, "", []string{}, []string{}, false
		for side := range r.Sides {
			r.Sides[side] = ReferFirst
		}
	}
	return r
}

// eased looks for a listed ease that by itself makes the version suit.
func (s *Screener) eased(v *catalogue.Version, r *Result) bool {
	for i := range v.Eases {
		if ok, _, _ := s.check(v, v.Eases[i].Quantities); anyTrue(ok) {
			r.Use, r.Eases = v.Slug, []string{v.Eases[i].Slug}
			for side, good := range ok {
				if r.Sides != nil && good {
					r.Sides[side] = Adapt
				}
			}
			return true
		}
	}
	return false
}

// easier looks for the nearest version of the same family that is no harder and suits:
// down the own branch first, then across branches by falling effort.
func (s *Screener) easier(v *catalogue.Version, suit map[string]bool, r *Result) bool {
	if v.Set {
		return false
	}
	for w := s.cat.Previous(v); w != nil; w = s.cat.Previous(w) {
		if suit[w.Slug] {
			r.Use = w.Slug
			return true
		}
	}
	var best *catalogue.Version
	for _, w := range s.cat.Versions {
		if w.Family == v.Family && w.Branch != v.Branch && w.Effort <= v.Effort && suit[w.Slug] && (best == nil || w.Effort > best.Effort) {
			best = w
		}
	}
	if best != nil {
		r.Use = best.Slug
	}
	return best != nil
}

// swaps ranks versions of other families that keep the purpose: the entry's own
// swaps and chair answer, then by shared aims, the same position and nearness of effort.
func (s *Screener) swaps(v *catalogue.Version, suit map[string]bool) []string {
	type cand struct {
		slug  string
		score float64
	}
	var cs []cand
	for _, w := range s.cat.Versions {
		if w.Family == v.Family || !suit[w.Slug] || w.Effort > v.Effort+1 {
			continue
		}
		shared := 0.0
		for i, a := range v.Aims {
			if slices.Contains(w.Aims, a) {
				shared += 2 / float64(i+1)
			}
		}
		if shared == 0 {
			continue
		}
		score := shared - 0.3*abs(w.Effort-v.Effort)
		if w.Position == v.Position {
			score += 0.5
		}
		if w.Slug == v.Chair.Version {
			score++
		}
		if slices.ContainsFunc(v.Swaps, func(s catalogue.Swap) bool { return s.Version == w.Slug }) {
			score += 2
		}
		cs = append(cs, cand{w.Slug, score})
	}
	sort.SliceStable(cs, func(i, j int) bool { return cs[i].score > cs[j].score })
	out := []string{}
	for i := 0; i < len(cs) && i < 3; i++ {
		out = append(out, cs[i].slug)
	}
	return out
}

func abs(v int) float64 {
	if v < 0 {
		return float64(-v)
	}
	return float64(v)
}
