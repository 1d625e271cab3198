package safety

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/intake"
)

// An ease that rests on words alone ends where somebody stops in time, so it measures at most
// three quarters of the limit it answers; only where a thing stops the movement (a cushion, a
// wall, the seat) may it come nearer (product default). For example a knee rock of 45 degrees,
// eased to 15, answers a limit of 20 and not one of 18. What keeps less than a third of the
// movement is not offered at all (catalogue.Version.Kept).
const easeMargin = 0.75

// near tells whether a value that keeps a limit comes nearer than an ease by words may. What
// occurs or does not, and what is out altogether, has no margin; an angle under the noise of
// postures needs none (shared ruling 3).
func (b *bound) near(value float64, e *catalogue.Ease) bool {
	return !e.Stopped(b.quantity) && nearLimit(b.quantity, value, b.max)
}

func nearLimit(quantity string, value, limit float64) bool {
	return limit > 0 && limit != 1 && value > easeMargin*limit+rounding &&
		!(isAngle(quantity) && value <= catalogue.PostureNoise+rounding)
}

// isAngle tells whether a quantity is an angle of the spine or of a limb.
func isAngle(quantity string) bool {
	head, _, _ := strings.Cut(quantity, ".")
	return slices.Contains([]string{"lumbar", "thoracic", "neck", "trunk", "overhead", "hip", "knee", "shoulder"}, head)
}

// holds tells whether an ease keeps its distance from every limit that the exercise as it stands
// crosses on a side.
func (s *Screener) holds(v *catalogue.Version, row *catalogue.Row, side body.Side) bool {
	full := s.row(v)
	for i := range s.bounds {
		b := &s.bounds[i]
		if b.watch || b.id < 0 {
			continue
		}
		if _, over := s.crosses(b, v, full, side); over && b.near(row.Value(side, b.id), row.Ease) {
			return false
		}
	}
	return true
}

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
	case e.Limit > 0 && e.Eased > easeMargin*e.Limit:
		word = "just within"
	}
	return fmt.Sprintf("%s/%s\t%s\t%s\t%.2f\t%.2f\t%.2f\t%s\t%s", e.Version, e.Ease, e.Condition, e.Quantity, e.Full, e.Eased,
		e.Limit, how, word)
}

// EaseTable lists every limit that an ease answers, one at a time, by version, ease and quantity; limits
// of several conditions that are alike stand once, with the first.
func (r *Rules) EaseTable(cat *catalogue.Catalogue) []Eased {
	var out []Eased
	table := cat.Table()
	seen := map[string]bool{}
	for _, rule := range r.Conditions {
		for i := range rule.Limits {
			l := &rule.Limits[i]
			if l.Watch {
				continue
			}
			for _, quantity := range expand(l.Quantity, &intake.Condition{Code: rule.Code}, &intake.Today{}) {
				id, limit := table.ID(quantity), l.allowed(quantity)
				if id < 0 {
					continue
				}
				for _, v := range cat.Versions {
					for k := range v.Eases {
						e := &v.Eases[k]
						full, eased := v.Quantities[quantity].Value, e.Quantities[quantity].Value
						key := fmt.Sprint(v.Slug, e.Slug, quantity, limit)
						if e.Together || full <= limit+rounding || eased > limit+rounding || seen[key] {
							continue
						}
						seen[key] = true
						by := ""
						if e.Stopped(quantity) {
							by = e.StoppedBy
						}
						out = append(out, Eased{v.Slug, e.Slug, rule.Code, quantity, l.Unit(), full, eased, limit, by,
							by == "" && nearLimit(quantity, eased, limit), !e.Offered})
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
