package survey

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/safety"
	"restbend/core/trade"
)

// Inversion is a rung that suits although an easier rung of its branch is out, and by what the
// easier one is out (shared ruling 34).
type Inversion struct {
	Conditions []string
	Easier     string
	Harder     string
	Why        []Crossed
}

// Crossed is a quantity that the easier rung crosses, with what the harder one measures.
type Crossed struct {
	Quantity              string
	Easier, Harder, Limit float64
}

// Wrong tells whether an inversion must not be: the harder rung measures as much, or it is a
// matter of effort.
func (i Inversion) Wrong() bool {
	for _, c := range i.Why {
		if c.Quantity == "effort" || c.Harder >= c.Easier {
			return true
		}
	}
	return false
}

// Key names an inversion whatever the condition and the side: the rungs and what they differ in.
func (i Inversion) Key() string {
	var by []string
	for _, c := range i.Why {
		q := strings.TrimSuffix(strings.TrimSuffix(c.Quantity, ".left"), ".right")
		if !slices.Contains(by, q) {
			by = append(by, q)
		}
	}
	slices.Sort(by)
	return i.Easier + " < " + i.Harder + ": " + strings.Join(by, ", ")
}

func (i Inversion) String() string {
	var by []string
	for _, c := range i.Why {
		by = append(by, fmt.Sprintf("%s %.4g over %.4g, the harder %.4g", c.Quantity, c.Easier, c.Limit, c.Harder))
	}
	return fmt.Sprintf(
		"%s: %s is out, %s suits (%s)",
		strings.Join(i.Conditions, " + "),
		i.Easier,
		i.Harder,
		strings.Join(by, "; "),
	)
}

// Inversions lists every inversion of a client, for each rung the nearest harder one that suits.
// What the client's positions keep out is none.
func Inversions(s *safety.Screener, cat *catalogue.Catalogue, codes ...string) (out []Inversion) {
	for _, v := range cat.Versions {
		if v.Set {
			continue
		}
		sides := []body.Side{body.Left}
		if v.SideMode == trade.Each {
			sides = append(sides, body.Right)
		}
		for _, side := range sides {
			if s.Clean(v, side) {
				continue
			}
			for w := cat.Next(v); w != nil; w = cat.Next(w) {
				if w.SideMode != v.SideMode || !s.Clean(w, side) {
					continue
				}
				i := Inversion{Conditions: codes, Easier: v.Slug, Harder: w.Slug}
				for _, f := range s.Crossed(v, side) {
					i.Why = append(i.Why, Crossed{f.Quantity, f.Value, s.Measure(w, side, f.Quantity), f.Allowed})
				}
				if len(i.Why) > 0 && !slices.ContainsFunc(out, func(o Inversion) bool { return o.Key() == i.Key() }) {
					out = append(out, i)
				}
				break
			}
		}
	}
	return out
}

// AllInversions are those of every single condition, read as strictly as it can be.
func AllInversions(r *safety.Rules, cat *catalogue.Catalogue, today trade.Day) (out []Inversion, err error) {
	for i := range r.Conditions {
		code := r.Conditions[i].Code
		s, err := safety.NewScreener(r, cat, r.Strictest(today, code), today)
		if err != nil {
			return nil, err
		}
		out = append(out, Inversions(s, cat, code)...)
	}
	return out, nil
}
