// Package safety computes verdicts: a condition sets limits on measured quantities, a
// version has peaks of those quantities, a limit that is crossed gives a finding and the
// findings give the verdict. Nothing here knows an exercise by name.
package safety

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gopkg.in/yaml.v3"

	"restbend/core/body"
)

// Rules is the limits file: what every condition forbids.
type Rules struct {
	Conditions []Rule    `yaml:"conditions"`
	Later      []string  `yaml:"later"` // valid codes that are not computed yet
	Positions  []Needs   `yaml:"positions"`
	RedFlags   []RedFlag `yaml:"red_flags"`
	Cautions   []string  `yaml:"cautions"`
}

// Rule is one condition's limits.
type Rule struct {
	Code   string    `yaml:"code"`
	Name   string    `yaml:"name"`
	Asks   []string  `yaml:"asks"` // details the intake asks for
	Limits []Limit   `yaml:"limits"`
	Dose   []DoseCap `yaml:"dose"`
	Refer  []Refer   `yaml:"refer"`
	Notes  []string  `yaml:"notes"`
}

// Limit bounds one quantity; Share is a fraction of the region's normal range.
type Limit struct {
	When     map[string]string `yaml:"when"`
	Quantity string            `yaml:"quantity"`
	Max      float64           `yaml:"max"`
	Share    float64           `yaml:"share"`
	Reason   string            `yaml:"reason"`
	Source   string            `yaml:"source"`
}

// DoseCap shortens holds; it never changes a verdict.
type DoseCap struct {
	When   map[string]string `yaml:"when"`
	HoldS  int               `yaml:"hold_s"`
	Reason string            `yaml:"reason"`
}

// Refer asks for a clinician: until a date is Weeks old (nothing lifts that), or until
// a clearance covers the condition.
type Refer struct {
	When      map[string]string `yaml:"when"`
	Date      string            `yaml:"date"`
	Weeks     int               `yaml:"weeks"`
	Clearance bool              `yaml:"clearance"`
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
	Urgent bool   `yaml:"urgent"`
	Ask    string `yaml:"ask"`
}

// ParseRules reads a limits file.
func ParseRules(data []byte) (*Rules, error) {
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	r := &Rules{}
	if err := d.Decode(r); err != nil {
		return nil, fmt.Errorf("limits.yaml: %w", err)
	}
	for _, c := range r.Conditions {
		for _, l := range c.Limits {
			if l.Quantity == "" || l.Reason == "" || l.Source == "" {
				return nil, fmt.Errorf("limits.yaml: %s: a limit needs quantity, reason and source", c.Code)
			}
			if l.Share > 0 && l.allowed(l.Quantity) <= 0 && !strings.HasPrefix(l.Quantity, "{region}") {
				return nil, fmt.Errorf("limits.yaml: %s: %s has no normal range to take a share of", c.Code, l.Quantity)
			}
		}
	}
	return r, nil
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

// postureNoise is the tightest an angle limit is ever read, degrees (shared ruling 3).
const postureNoise = 3

// allowed is the limit's value for a concrete quantity.
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
	return math.Max(postureNoise, l.Share*body.Ranges[region][i])
}

// expand replaces {side} and {region} by the condition's details; a missing detail
// stands for all of them.
func expand(quantity string, c *Condition) []string {
	out := []string{quantity}
	fill := func(key string, values []string) {
		var next []string
		for _, q := range out {
			if !strings.Contains(q, key) {
				next = append(next, q)
				continue
			}
			for _, v := range values {
				next = append(next, strings.ReplaceAll(q, key, v))
			}
		}
		out = next
	}
	sides := []string{"left", "right"}
	if slices.Contains(sides, c.Side) {
		sides = []string{c.Side}
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
	fill("{side}", sides)
	fill("{region}", regions)
	return out
}

// detail is a condition's recorded detail as text, empty when not recorded.
func (c *Condition) detail(name string) string {
	switch name {
	case "phase":
		return c.Phase
	case "preference":
		if c.Preference == "none" || c.Preference == "unknown" {
			return ""
		}
		return c.Preference
	case "school":
		if c.Fracture != nil && *c.Fracture {
			return "strict" // always strict after a vertebral fracture
		}
		if c.School == "" {
			return "strict"
		}
		return c.School
	case "vertebral_fracture":
		if c.Fracture != nil {
			return strconv.FormatBool(*c.Fracture)
		}
	case "progressing":
		if c.Progressing == nil {
			return "false"
		}
		return strconv.FormatBool(*c.Progressing)
	case "date":
		return c.Date
	case "fracture_date":
		return c.FractureDate
	case "side":
		return c.Side
	case "region":
		return c.Region
	case "convex":
		return c.Convex
	case "degrees":
		if c.Degrees > 0 {
			return strconv.FormatFloat(c.Degrees, 'f', -1, 64)
		}
	}
	return ""
}

// applies tells whether a rule's circumstances hold. A detail nobody recorded counts as
// met: the strictest possibility.
func (c *Condition) applies(when map[string]string) bool {
	for k, want := range when {
		switch k {
		case "provoked_by":
			if !slices.Contains(c.ProvokedBy, want) {
				return false
			}
		case "degrees_from":
			from, _ := strconv.ParseFloat(want, 64)
			if c.Degrees > 0 && c.Degrees < from {
				return false
			}
		default:
			if got := c.detail(k); got != "" && got != want {
				return false
			}
		}
	}
	return true
}

// day parses an ISO day; ok is false when it is missing.
func day(s string) (time.Time, bool) {
	t, err := time.Parse(time.DateOnly, s)
	return t, err == nil
}

// cleared tells whether a clearance covers a code on a day. A clearance without an end
// holds for six months.
func (c *Client) cleared(code string, today time.Time) bool {
	for _, cl := range c.Clearances {
		from, ok := day(cl.Date)
		if !ok || from.After(today) || !slices.Contains(cl.Covers, code) {
			continue
		}
		until, ok := day(cl.Until)
		if !ok {
			until = from.AddDate(0, 6, 0)
		}
		if !today.After(until) {
			return true
		}
	}
	return false
}
