package safety

import (
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"

	"restbend/core/trade"
)

// Change is a practice's own value for one limit: degrees, centimetres, shares or a share
// of range, whatever the limit is written in.
type Change struct {
	Value  float64
	Source string
}

// Key names one limit of a condition for good: its quantity and circumstances.
func (l *Limit) Key(code string) string {
	key := code + "/" + l.Quantity
	names := make([]string, 0, len(l.When))
	for k := range l.When {
		names = append(names, k)
	}
	sort.Strings(names)
	for i, k := range names {
		key += map[bool]string{true: "?", false: "&"}[i == 0] + k + "=" + l.When[k]
	}
	if l.Watch {
		key += "!watch"
	}
	return key
}

// Value is what an instructor edits: the share of range, or the largest value.
func (l *Limit) Value() float64 {
	if l.Share > 0 {
		return l.Share
	}
	return l.Max
}

// Unit is what the value is in.
func (l *Limit) Unit() string {
	if l.Share > 0 {
		return "share of range"
	}
	return l.words.Unit(l.Quantity)
}

// Flag tells whether the quantity either occurs or does not: 0 is out, 1 allowed.
func (l *Limit) Flag() bool { return l.words.Unit(l.Quantity) == "" }

// Most is the largest value that makes sense.
func (l *Limit) Most() float64 {
	if l.Share > 0 {
		return 1
	}
	return l.words.Most(l.Quantity)
}

// With returns the rules with a practice's changes; the receiver stays as it is. A change of a
// limit that a release renamed, or to a value it does not take any more, is set aside: it is
// listed with what is wrong, and the limit as delivered holds.
func (r *Rules) With(changes map[string]Change) (out *Rules, aside []Aside) {
	copied := *r
	out = &copied
	out.Conditions = slices.Clone(r.Conditions)
	used := map[string]bool{}
	for i := range out.Conditions {
		c := &out.Conditions[i]
		c.Limits = slices.Clone(c.Limits)
		for k := range c.Limits {
			l := &c.Limits[k]
			key := l.Key(c.Code)
			ch, ok := changes[key]
			if !ok {
				continue
			}
			used[key] = true
			if err := l.set(ch); err != nil {
				aside = append(aside, Aside{Key: key, Why: err.Error()})
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(changes)) {
		if !used[key] {
			aside = append(aside, Aside{Key: key, Why: "no such limit", Unknown: true})
		}
	}
	slices.SortFunc(aside, func(a, b Aside) int { return strings.Compare(a.Key, b.Key) })
	return out, aside
}

// Aside is a change of a practice that is not in force, and why.
type Aside struct {
	Key, Why string
	Unknown  bool // no limit has this key any more
}

func (l *Limit) set(c Change) error {
	most := l.Most()
	if !(c.Value >= 0 && c.Value <= most) || l.Flag() && c.Value != 0 && c.Value != 1 || l.Share > 0 && c.Value == 0 {
		return fmt.Errorf("found %g, allowed: %s", c.Value, l.Allowed())
	}
	if l.Share > 0 {
		l.Share = c.Value
	} else {
		l.Max = c.Value
	}
	if c.Source != "" {
		l.Source = c.Source
	} else {
		l.Source = "this practice"
	}
	return nil
}

// Allowed says which values the limit takes.
func (l *Limit) Allowed() string {
	switch {
	case l.Flag():
		return "0 (out) or 1 (allowed)"
	case l.Share > 0:
		return "above 0 to 1"
	}
	return fmt.Sprintf("0 to %g", l.Most())
}

// Limit finds a limit by its key.
func (r *Rules) Limit(key string) (*Rule, *Limit, bool) {
	for i := range r.Conditions {
		c := &r.Conditions[i]
		for k := range c.Limits {
			if c.Limits[k].Key(c.Code) == key {
				return c, &c.Limits[k], true
			}
		}
	}
	return nil, nil, false
}

// Difference is how a client's verdicts change from one set of limits to another.
type Difference struct {
	Stricter, Looser []string // versions
}

// Compare holds two screenings of the same client with the same catalogue against each
// other.
func Compare(before, after *Screener) (d Difference) {
	rank := map[trade.Verdict]int{trade.Suits: 0, trade.Adapt: 1, trade.LeaveOut: 2, trade.ReferFirst: 3}
	a, b := before.Verdicts(), after.Verdicts()
	for i, v := range after.cat.Versions {
		switch {
		case rank[b[i]] > rank[a[i]]:
			d.Stricter = append(d.Stricter, v.Slug)
		case rank[b[i]] < rank[a[i]]:
			d.Looser = append(d.Looser, v.Slug)
		}
	}
	return d
}
