package survey

import (
	"fmt"
	"slices"
	"sort"

	"restbend/core/catalogue"
	"restbend/core/safety"
)

// Eased is one limit that an exercise crosses as it stands and keeps with an ease.
type Eased struct {
	Version, Ease       string
	Condition, Quantity string
	Unit                string
	Full, Eased, Limit  float64
	StoppedBy           string
	Near                bool // nearer than words may: it does not answer this limit
	Another             bool // too little of the movement is left: it is not offered
}

func (e Eased) String() string {
	how := "words"
	if e.StoppedBy != "" {
		how = e.StoppedBy
	}
	word := "well within"
	switch {
	case e.Another:
		word = "another exercise: not offered"
	case e.Near:
		word = "too near: not offered"
	case e.Limit > 0 && e.Eased > safety.EaseMargin*e.Limit:
		word = "just within"
	}
	return fmt.Sprintf("%s/%s\t%s\t%s\t%.2f\t%.2f\t%.2f\t%s\t%s", e.Version, e.Ease, e.Condition, e.Quantity, e.Full, e.Eased,
		e.Limit, how, word)
}

// Eases lists every limit that an ease answers, one at a time, by version, ease and quantity; limits
// of several conditions that are alike stand once, with the first.
func Eases(r *safety.Rules, cat *catalogue.Catalogue) []Eased {
	var out []Eased
	table := cat.Table()
	seen := map[string]bool{}
	for _, rule := range r.Conditions {
		for i := range rule.Limits {
			l := &rule.Limits[i]
			if l.Watch {
				continue
			}
			for quantity, limit := range l.Concrete(rule.Code) {
				if table.ID(quantity) < 0 {
					continue
				}
				for _, v := range cat.Versions {
					for k := range v.Eases {
						e := &v.Eases[k]
						full, eased := v.Quantities[quantity].Value, e.Quantities[quantity].Value
						key := fmt.Sprint(v.Slug, e.Slug, quantity, limit)
						if e.Together || full <= limit+safety.Rounding || eased > limit+safety.Rounding || seen[key] {
							continue
						}
						seen[key] = true
						by := ""
						if e.Stopped(quantity) {
							by = e.StoppedBy
						}
						out = append(out, Eased{v.Slug, e.Slug, rule.Code, quantity, l.Unit(), full, eased, limit, by,
							by == "" && r.Words.Near(quantity, eased, limit), !e.Offered})
					}
				}
			}
		}
	}
	sort.SliceStable(out, func(i, k int) bool {
		a, b := out[i], out[k]
		return slices.Compare([]string{a.Version, a.Ease, a.Quantity}, []string{b.Version, b.Ease, b.Quantity}) < 0
	})
	return out
}
