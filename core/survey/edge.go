// Package survey tells authors what the limits make of the catalogue: what measures at the edge of one, which
// limits each ease answers and how nearly, and what is left with each condition.
package survey

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"restbend/core/catalogue"
	"restbend/core/safety"
)

// Edge is a measured value so near a limit that a small change of the pose would change
// the verdict: a reason to look whether an author came to rest there by chance.
type Edge struct {
	Version   string // or version/ease
	Phase     string
	Quantity  string
	Value     float64
	Limit     float64
	Condition string
}

// Passes tells whether the value still keeps the limit.
func (e Edge) Passes() bool { return e.Value <= e.Limit+safety.Rounding }

func (e Edge) String() string {
	how := "keeps"
	if !e.Passes() {
		how = "crosses"
	}
	return fmt.Sprintf(
		"%s: %s: %s %.2f %s %s's limit of %.2f",
		e.Version,
		e.Phase,
		e.Quantity,
		e.Value,
		how,
		e.Condition,
		e.Limit,
	)
}

// How near is at the edge: degrees of an angle, a share of anything else.
const (
	edgeDegrees = 1.0
	edgeShare   = 0.02
)

// AtEdge lists every version and ease that measures within a degree or two percent of a
// limit, on either side of it, ordered by version. A limit of zero has no edge.
func AtEdge(r *safety.Rules, cat *catalogue.Catalogue) []Edge {
	var out []Edge
	seen := map[string]bool{}
	for _, rule := range r.Conditions {
		for i := range rule.Limits {
			l := &rule.Limits[i]
			if l.Watch || l.Flag() || l.Quantity == "effort" || l.Quantity == "weight" { // no pose measures these
				continue
			}
			for quantity, limit := range l.Concrete(rule.Code) {
				near := edgeShare * limit
				if unit := l.Unit(); unit == "degrees" || unit == "share of range" && l.Share > 0 {
					near = edgeDegrees
				}
				if limit <= 0 {
					continue
				}
				check := func(name string, q catalogue.Quantities) {
					p, ok := q[quantity]
					if key := fmt.Sprint(name, quantity, limit, rule.Code); ok && math.Abs(p.Value-limit) <= near && !seen[key] {
						seen[key] = true
						out = append(out, Edge{name, p.Phase, quantity, p.Value, limit, rule.Code})
					}
				}
				for _, v := range cat.Versions {
					check(v.Slug, v.Quantities)
					for k := range v.Eases {
						check(v.Slug+"/"+v.Eases[k].Slug, v.Eases[k].Quantities)
					}
				}
			}
		}
	}
	sort.SliceStable(out, func(i, k int) bool {
		return slices.Compare(
			[]string{out[i].Version, out[i].Quantity, out[i].Condition},
			[]string{out[k].Version, out[k].Quantity, out[k].Condition},
		) < 0
	})
	return out
}
