// Package safety computes verdicts: a condition sets limits on measured quantities, a
// version has peaks of those quantities, a limit that is crossed gives a finding and the
// findings give the verdict. Nothing here knows an exercise by name.
package safety

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
)

// Rules is the limits file: what every condition forbids.
type Rules struct {
	Conditions []Rule    `yaml:"conditions"`
	Positions  []Needs   `yaml:"positions"`
	RedFlags   []RedFlag `yaml:"red_flags"`
	Clearing   Clearing  `yaml:"clearing"`
	Cautions   []string  `yaml:"cautions"`
	Ages       []Age     `yaml:"ages"`
	// from which age on somebody sits longer between lying and standing
	SitLongFrom int      `yaml:"sit_long_from"`
	Details     []Detail `yaml:"details"`

	Preferences []Preference `yaml:"preferences"`

	Words *Vocabulary `yaml:"-"` // what the quantities are
}

// Rule is one condition's limits.
type Rule struct {
	Code   string    `yaml:"code"`
	Name   string    `yaml:"name"`
	Group  string    `yaml:"group"` // where the intake shows it
	Often  bool      `yaml:"often"` // among the first of its group
	Asks   []string  `yaml:"asks"`  // details the intake asks for
	Likes  string    `yaml:"likes"` // flexion or extension, when the condition finds it comfortable
	Limits []Limit   `yaml:"limits"`
	Also   []Also    `yaml:"also"` // the limits of other conditions that hold as well
	Dose   []DoseCap `yaml:"dose"`
	Refer  []Refer   `yaml:"refer"`
	Notes  []string  `yaml:"notes"`

	Way      OnTheWay `yaml:"way"`
	Prefers  []string `yaml:"prefers"`   // names of preferences
	Stop     []string `yaml:"stop"`      // signs at which the session stops
	FirstAid []string `yaml:"first_aid"` // what to do when it happens
}

// Preference is how a condition likes a session to be.
type Preference struct {
	Name  string `yaml:"name"`
	Say   string `yaml:"say"`
	Order string `yaml:"order"` // the school of order, for a client who has none recorded
}

// Detail is what is asked about a condition.
type Detail struct {
	Name    string            `yaml:"name"`
	Kind    string            `yaml:"kind"`
	Options []string          `yaml:"options"`
	Accepts []string          `yaml:"accepts"` // further words a document may use for a choice
	Label   string            `yaml:"label"`
	None    string            `yaml:"none"` // what no answer is called
	Hint    string            `yaml:"hint"`
	Missing string            `yaml:"missing"` // what no answer is read as, in words; strict is the strictest
	Read    string            `yaml:"read"`    // ... as a value; none is the strictest
	Now     bool              `yaml:"now"`     // asked before each session of whoever has the condition
	For     map[string]Detail `yaml:"for"`     // by condition, what differs
}

var detailKinds = []string{"choice", "several", "yes", "number", "text", "day", "past", "pain"}

// Detail finds a detail as a condition asks for it.
func (r *Rules) Detail(name, code string) (Detail, bool) {
	i := slices.IndexFunc(r.Details, func(d Detail) bool { return d.Name == name })
	if i < 0 {
		return Detail{}, false
	}
	d := r.Details[i]
	own := d.For[code]
	d.Kind, d.Label, d.Missing, d.Read = cmp.Or(own.Kind, d.Kind), cmp.Or(own.Label, d.Label), cmp.Or(own.Missing,
		d.Missing), cmp.Or(own.Read, d.Read)
	d.None, d.Hint = cmp.Or(own.None, d.None), cmp.Or(own.Hint, d.Hint)
	if own.Options != nil {
		d.Options, d.Accepts = own.Options, own.Accepts
	}
	return d, true
}

// Also lets the limits of another condition hold with the details of this one.
type Also struct {
	When    map[string]string `yaml:"when"`
	Like    string            `yaml:"like"`
	As      map[string]any    `yaml:"as"`      // details read otherwise there, an empty text as not recorded
	Without []string          `yaml:"without"` // quantities that this condition limits otherwise
}

// Age lets the limits of a condition hold from an age on until a one-leg stand long enough
// was measured (shared ruling 45).
type Age struct {
	From   int      `yaml:"from"`
	Like   string   `yaml:"like"`
	Only   []string `yaml:"only"`    // these quantities of it, or all
	UntilS float64  `yaml:"until_s"` // a one-leg stand of so many seconds lifts it
	Reason string   `yaml:"reason"`
}

// Limit bounds one quantity; Share is a fraction of the region's normal range.
type Limit struct {
	When     map[string]string `yaml:"when"`
	Quantity string            `yaml:"quantity"`
	Max      float64           `yaml:"max"`
	Share    float64           `yaml:"share"`
	Lacks    []string          `yaml:"lacks"`          // holds only for a client who owns none of these
	Cleared  bool              `yaml:"unless_cleared"` // a clearance that covers the condition lifts it
	Repeated bool              `yaml:"repeated"`       // counts only in sets of more than 5 passes (shared ruling 4)
	Watch    bool              `yaml:"watch"`          // a note beside the verdict, not a finding
	Reason   string            `yaml:"reason"`
	Source   string            `yaml:"source"`

	words *Vocabulary
}

// DoseCap changes doses; it never changes a verdict.
type DoseCap struct {
	When       map[string]string `yaml:"when"`
	HoldS      int               `yaml:"hold_s"`      // the longest hold, seconds
	EffortFrom int               `yaml:"effort_from"` // ... of versions of this effort and harder
	Strength   bool              `yaml:"strength"`    // ... that are strength work, or hold an arm overhead
	RestFactor float64           `yaml:"rest_factor"` // rests are this many times as long
	SupineS    int               `yaml:"supine_s"`    // the longest unbroken stretch on the back, all items together
	SittingS   int               `yaml:"sitting_s"`   // ... in sitting
	Rises      int               `yaml:"rises"`       // from the floor in a session, at most
	Items      int               `yaml:"items"`       // so many in a session, at most,
	Of         string            `yaml:"of"`          // ... in which this quantity occurs
	Reason     string            `yaml:"reason"`
}

// Refer asks for a clinician: until a date is Weeks old (nothing lifts that, unless a clearance may),
// or until a clearance covers the condition.
type Refer struct {
	When      map[string]string `yaml:"when"`
	Date      string            `yaml:"date"`
	Weeks     int               `yaml:"weeks"`
	Recorded  bool              `yaml:"recorded"`  // only where the date was recorded: a missing one does not refer
	Clearance bool              `yaml:"clearance"` // with weeks: until so many weeks old a clearance lifts it
	By        []string          `yaml:"by"`        // ... of these roles alone
	Limits    bool              `yaml:"limits"`    // ... that sets limits in words
	Urgent    bool              `yaml:"urgent"`    // help is needed now
	Do        string            `yaml:"do"`        // what to do
	Reason    string            `yaml:"reason"`
}

// Needs ties a confirmed position to the quantity that needs it.
type Needs struct {
	Answer   string `yaml:"answer"`
	Quantity string `yaml:"quantity"`
	Say      string `yaml:"say"`
}

// RedFlag is a sign that stops everything until a clinician has looked.
type RedFlag struct {
	Code   string `yaml:"code"`
	Group  string `yaml:"group"` // what it is asked with
	Urgent bool   `yaml:"urgent"`
	Ask    string `yaml:"ask"`
	Do     string `yaml:"do"` // what to do when it is there
}

// FlagCodes are the codes of all red flags.
func (r *Rules) FlagCodes() (out []string) {
	for i := range r.RedFlags {
		out = append(out, r.RedFlags[i].Code)
	}
	return out
}

// Flag finds a red flag.
func (r *Rules) Flag(code string) (*RedFlag, bool) {
	for i := range r.RedFlags {
		if r.RedFlags[i].Code == code {
			return &r.RedFlags[i], true
		}
	}
	return nil, false
}

// Act says what to do about red flags and signs of the log, urgent ones first, each sentence
// once.
func (r *Rules) Act(codes ...string) (do []string) {
	for _, urgent := range []bool{true, false} {
		for _, code := range codes {
			say := ""
			if f, ok := r.Flag(code); ok && f.Urgent == urgent {
				say = f.Do
			}
			for _, s := range r.Clearing.Signs {
				if s.Code == code && s.Urgent == urgent {
					say = s.Do
				}
			}
			if say != "" && !slices.Contains(do, say) {
				do = append(do, say)
			}
		}
	}
	return do
}

// ParseRules reads a limits file; its quantities are those of a vocabulary.
func ParseRules(data []byte, words *Vocabulary) (*Rules, error) {
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	r := &Rules{Words: words}
	if err := d.Decode(r); err != nil {
		return nil, fmt.Errorf("limits.yaml: %w", err)
	}
	for _, check := range []func() error{r.checkDetails, r.checkConditions, r.checkAges, r.Clearing.prepare} {
		if err := check(); err != nil {
			return nil, err
		}
	}
	return r, nil
}

func wrong(format string, a ...any) error { return fmt.Errorf("limits.yaml: "+format, a...) }

func (r *Rules) checkDetails() error {
	for _, d := range r.Details {
		if d.Label == "" || !slices.Contains(detailKinds, d.Kind) ||
			(d.Kind == "choice" || d.Kind == "several") != (len(d.Options) > 0) {
			return wrong("detail %q: found kind %q, allowed: %s; it needs a label, and options for a choice", d.Name, d.Kind,
				strings.Join(detailKinds, ", "))
		}
	}
	return nil
}

func (r *Rules) checkConditions() error {
	for i := range r.Conditions {
		c := &r.Conditions[i]
		for k := range c.Limits {
			c.Limits[k].words = r.Words
			if err := c.Limits[k].check(c.Code); err != nil {
				return err
			}
		}
		if err := errors.Join(r.checkNames(c), r.checkWhens(c), r.alike(c.Code, c.Code, len(r.Conditions))); err != nil {
			return err
		}
	}
	return nil
}

// check holds one limit against what is measured.
func (l *Limit) check(code string) error {
	switch v := l.Value(); {
	case l.Quantity == "" || l.Reason == "" || l.Source == "":
		return wrong("%s: a limit needs quantity, reason and source", code)
	case !l.words.Known(l.Quantity):
		return wrong("%s: there is no quantity %q in quantities.yaml", code, l.Quantity)
	case !(v >= 0 && v <= l.Most()) || !(l.Share >= 0):
		return wrong("%s: %s: found %g, allowed: %s", code, l.Quantity, v, l.Allowed())
	case l.Share > 0 && l.allowed(l.Quantity) <= 0 && !strings.HasPrefix(l.Quantity, "{region}"):
		return wrong("%s: %s has no normal range to take a share of", code, l.Quantity)
	}
	return nil
}

// checkNames: what a condition asks for, prefers and counts is there.
func (r *Rules) checkNames(c *Rule) error {
	for _, ask := range c.Asks {
		if _, ok := r.Detail(ask, c.Code); !ok {
			return wrong("%s asks for %q, which is no detail", c.Code, ask)
		}
	}
	for _, name := range c.Prefers {
		if !slices.ContainsFunc(r.Preferences, func(p Preference) bool { return p.Name == name && p.Say != "" }) {
			return wrong("%s prefers %q, which is no preference", c.Code, name)
		}
	}
	for _, d := range c.Dose {
		if (d.Items > 0) != (d.Of != "") || d.Of != "" && !r.Words.Known(d.Of) {
			return wrong("%s: found %d items of %q, allowed: a number of items of a quantity", c.Code, d.Items, d.Of)
		}
	}
	return nil
}

// checkWhens: circumstances are details, and details read otherwise fit their kind.
func (r *Rules) checkWhens(c *Rule) error {
	for _, a := range c.Also {
		if _, err := (&intake.Condition{}).With(a.As); err != nil {
			return wrong("%s: also like %s: %w", c.Code, a.Like, err)
		}
	}
	for _, when := range c.whens() {
		for key := range when {
			name := strings.TrimSuffix(strings.TrimSuffix(key, "_from"), "_under")
			if _, ok := r.Detail(name, c.Code); !ok && !slices.Contains(circumstances, name) {
				return wrong("%s: when %q, which is no detail", c.Code, key)
			}
		}
	}
	return nil
}

func (r *Rules) checkAges() error {
	for _, a := range r.Ages {
		if _, ok := r.Rule(a.Like); !ok || a.From <= 0 || a.UntilS <= 0 || a.Reason == "" {
			return wrong("ages: from %d like %q: needs an age, a condition and a reason", a.From, a.Like)
		}
	}
	return nil
}

// circumstances are what when may name beside the details.
var circumstances = []string{"one_leg_s", "age", "sij_checked", "with"}

// whens are all circumstances a rule names.
func (r *Rule) whens() (out []map[string]string) {
	for _, l := range r.Limits {
		out = append(out, l.When)
	}
	for _, a := range r.Also {
		out = append(out, a.When)
	}
	for _, d := range r.Dose {
		out = append(out, d.When)
	}
	for _, f := range r.Refer {
		out = append(out, f.When)
	}
	return out
}

// alike tells whether a condition is like itself by way of others, or like none there is.
func (r *Rules) alike(code, first string, steps int) error {
	rule, ok := r.Rule(code)
	if !ok {
		return fmt.Errorf("limits.yaml: %s: also like %q, which is no condition", first, code)
	}
	for _, a := range rule.Also {
		if a.Like == first || steps == 0 {
			return fmt.Errorf("limits.yaml: %s: also like %q, which leads back to it", first, a.Like)
		}
		if err := r.alike(a.Like, first, steps-1); err != nil {
			return err
		}
	}
	return nil
}

// Rule returns a condition's rule.
func (r *Rules) Rule(code string) (*Rule, bool) {
	for i := range r.Conditions {
		if r.Conditions[i].Code == code {
			return &r.Conditions[i], true
		}
	}
	return nil, false
}

// Concrete are the quantities that a limit bounds with a condition of which nothing is recorded, each with its value.
func (l *Limit) Concrete(code string) map[string]float64 {
	out := map[string]float64{}
	for _, q := range expand(l.Quantity, &intake.Condition{Code: code}, &intake.Today{}) {
		out[q] = l.allowed(q)
	}
	return out
}

// allowed is the limit's value for a concrete quantity; an angle limit is never read tighter than
// posture noise.
func (l *Limit) allowed(quantity string) float64 {
	if l.Share == 0 {
		return l.Max
	}
	region, rest, _ := strings.Cut(quantity, ".")
	dir, _, _ := strings.Cut(rest, ".")
	i := slices.Index([]string{"flexion", "extension", "side-bend", "rotation"}, dir)
	if i < 0 {
		return 0
	}
	return math.Max(catalogue.PostureNoise, l.Share*body.Ranges[region][i])
}

// only is a recorded side, or both when it is not recorded.
func only(side trade.Side) []string {
	if side.One() {
		return []string{string(side)}
	}
	return trade.Words(trade.BothSides[:])
}

// others is the side across from a recorded one, or both.
func others(side trade.Side) []string { return only(side.Other()) }

// expand replaces what stands in braces by the condition's details; a missing detail
// stands for all of them: {side} and {other} the recorded side and the other one,
// {convex} and {concave} the sides of a curve, {free} a side that is not jammed today,
// {region} the region.
func expand(quantity string, c *intake.Condition, today *intake.Today) []string {
	if !strings.Contains(quantity, "{") {
		return []string{quantity}
	}
	regions := []string{"lumbar", "thoracic", "neck"}
	switch c.Region {
	case "lumbar", "thoracic":
		regions = []string{c.Region}
	case "neck", "cervical":
		regions = []string{"neck"}
	case "thoracolumbar":
		regions = []string{"lumbar", "thoracic"}
	}
	free := others(today.SIJSide)
	if today.SIJSide == trade.Even {
		free = nil
	}
	out := []string{quantity}
	for _, fill := range []struct {
		key    string
		values []string
	}{{"{side}", only(c.Side)}, {"{other}", others(c.Side)}, {"{convex}", only(c.Convex)}, {"{concave}",
		others(c.Convex)}, {"{free}", free}, {"{region}", regions}} {
		var next []string
		for _, q := range out {
			if !strings.Contains(q, fill.key) {
				next = append(next, q)
				continue
			}
			for _, v := range fill.values {
				next = append(next, strings.ReplaceAll(q, fill.key, v))
			}
		}
		out = next
	}
	return out
}

// sharpPain makes disc-related pain whose phase nobody recorded acute (domain/09), of 10.
const sharpPain = 6

// sharp tells whether disc-related pain of no recorded phase hurts as an acute one does.
func (s *Screener) sharp(c *intake.Condition) bool {
	return c.Code == "disc-sciatica" && c.Phase == "" && s.client.Pain != nil && s.client.Pain.Now >= sharpPain
}

// number is a recorded detail that is a number; ok is false when it is not recorded.
// Weeks that were counted on a recorded day go on counting.
func (s *Screener) number(c *intake.Condition, name string) (v float64, ok bool) {
	switch name {
	case "degrees":
		return c.Degrees, c.Degrees > 0
	case "grade":
		return float64(c.Grade), c.Grade > 0
	case "weeks":
		if weeks, known := s.pregnantWeeks(c); known {
			return weeks, true
		}
		if at := c.Began(); !at.IsZero() {
			return float64(s.today.Since(at)) / 7, true
		}
		return float64(c.Weeks), c.Weeks > 0
	case "one_leg_s":
		return s.client.OneLegS, s.client.OneLegS > 0
	case "age":
		year, _, _ := s.today.Date()
		return float64(year - s.client.Born), s.client.Born > 0
	}
	v, ok = c.More[name].(float64)
	return v, ok
}

// applies tells whether a rule's circumstances hold. A detail nobody recorded counts as
// met: the strictest possibility. name_from and name_under compare numbers.
func (s *Screener) applies(c *intake.Condition, when map[string]string) bool {
	for k, want := range when {
		if name, ok := strings.CutSuffix(k, "_from"); ok {
			from, _ := strconv.ParseFloat(want, 64)
			if got, known := s.number(c, name); known && got < from {
				return false
			}
			continue
		}
		if name, ok := strings.CutSuffix(k, "_under"); ok {
			under, _ := strconv.ParseFloat(want, 64)
			if got, known := s.number(c, name); known && got >= under {
				return false
			}
			continue
		}
		switch k {
		case "phase":
			if got := c.Detail(k); got != "" && got != want && !(want == "acute" && s.sharp(c)) {
				return false
			}
		case "provoked_by":
			if !slices.Contains(c.ProvokedBy, want) {
				return false
			}
		case "with": // another condition, recorded too
			if !slices.ContainsFunc(s.client.Conditions, func(k intake.Condition) bool { return k.Code == want }) {
				return false
			}
		case "sij_checked":
			if want != strconv.FormatBool(s.client.Today.SIJSide != "") {
				return false
			}
		default:
			if !s.among(c, k, want) {
				return false
			}
		}
	}
	return true
}

// among tells whether a word is what a detail is read as, or one of several.
func (s *Screener) among(c *intake.Condition, name, want string) bool {
	if several, ok := c.More[name].([]string); ok {
		return slices.Contains(several, want)
	}
	got := s.reads(c, name)
	return got == "" || got == want
}

// reads is a detail as the rules take it: what is recorded, else what the data say a missing one
// is read as. Empty stands for the strictest possibility.
func (s *Screener) reads(c *intake.Condition, name string) string {
	if got := c.Detail(name); got != "" {
		return got
	}
	d, _ := s.rules.Detail(name, c.Code)
	return d.Read
}
