package site

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/trade"
)

// fractions of body weight as people say them.
var fractions = []struct {
	v    float64
	word string
}{{0.05, "a twentieth"}, {0.1, "a tenth"}, {0.17, "a sixth"}, {0.2, "a fifth"}, {0.25, "a quarter"}, {0.33,
	"a third"}, {0.4, "two fifths"},
	{0.5, "half"}, {0.6, "three fifths"}, {0.67, "two thirds"}, {0.75, "three quarters"}, {0.9, "nine tenths"}, {1, "all"}}

// fraction says a share of body weight in plain words.
func fraction(v float64) string {
	best := fractions[0]
	for _, f := range fractions {
		if math.Abs(f.v-v) < math.Abs(best.v-v) {
			best = f
		}
	}
	return "about " + best.word + " of body weight"
}

// Loads says in plain words what carries the body in one phase, heaviest first; the
// parts that statics leaves undecided are said to be shared.
func Loads(p catalogue.SolvedPhase) []string {
	m := p.Measures
	var out []string
	for _, part := range []struct{ name, one string }{{"hand", "hand"}, {"forearm", "forearm"}, {"elbow", "elbow"},
		{"foot", "foot"}, {"toes", "forefoot"}, {"heel", "heel"}, {"knee", "knee"}, {"shank", "lower leg"}} {
		l, r := m.Share[part.name+".left"], m.Share[part.name+".right"]
		switch {
		case math.Max(l, r) < 0.03:
		case math.Abs(l-r) < 0.04:
			out = append(out, fraction((l+r)/2)+" on each "+part.one)
		default:
			for _, s := range []struct {
				side trade.Side
				v    float64
			}{{trade.Left, l}, {trade.Right, r}} {
				if s.v >= 0.03 {
					out = append(out, fraction(s.v)+" on the "+string(s.side)+" "+part.one)
				}
			}
		}
	}
	if m.Indeterminate {
		out = append(out, "the trunk rests and shares the remainder")
	}
	return out
}

// Demand says how much gravity asks of the low back, against quiet standing and a plank.
func Demand(p catalogue.SolvedPhase) string {
	v := p.Measures.Moment
	word := "little"
	switch {
	case v > 1.2:
		word = "a lot"
	case v > 0.6:
		word = "a fair amount"
	case v > 0.25:
		word = "some"
	}
	return fmt.Sprintf("%s (%.2f Nm per kg)", word, v)
}

// MeasureRow is one line of a comparison.
type MeasureRow struct {
	What, A, B string
	Differs    bool
}

// Compared lists what two versions measure.
func Compared(a, b *catalogue.Version) []MeasureRow {
	var rows []MeasureRow
	add := func(what, x, y string) { rows = append(rows, MeasureRow{what, x, y, x != y}) }
	add("effort", fmt.Sprintf("%d of 10", a.Effort), fmt.Sprintf("%d of 10", b.Effort))
	add("position", string(a.Position), string(b.Position))
	add("surfaces", strings.Join(trade.Words(a.Surfaces), ", "), strings.Join(trade.Words(b.Surfaces), ", "))
	add("kit", strings.Join(a.Kit, ", "), strings.Join(b.Kit, ", "))
	add("chain", a.Chain, b.Chain)
	add("carried by", a.Base(), b.Base())
	add("aims", strings.Join(a.Aims, ", "), strings.Join(b.Aims, ", "))
	for _, r := range []string{"lumbar", "thoracic", "neck"} {
		for _, d := range []string{"flexion", "extension", "side-bend", "rotation"} {
			x, y := a.Quantities[r+"."+d].Value, b.Quantities[r+"."+d].Value
			if math.Max(x, y) > catalogue.LoadNoise {
				region := map[string]string{"lumbar": "low back", "thoracic": "upper back", "neck": "neck"}[r]
				add(
					region+" "+strings.ReplaceAll(d, "-", " "),
					fmt.Sprintf("%.0f° of %.0f°", x, fullRange(r, d)),
					fmt.Sprintf("%.0f° of %.0f°", y, fullRange(r, d)),
				)
			}
		}
	}
	pa, pb := a.Solved.Phases[a.EffortPhase()], b.Solved.Phases[b.EffortPhase()]
	add("asks of the low back", Demand(pa), Demand(pb))
	add("weight", strings.Join(Loads(pa), "; "), strings.Join(Loads(pb), "; "))
	return rows
}

func fullRange(region, direction string) float64 {
	return body.Ranges[region][map[string]int{"flexion": 0, "extension": 1, "side-bend": 2, "rotation": 3}[direction]]
}

// KitWords names props with what does instead of them at home.
func KitWords(kit []string) string {
	out := make([]string, len(kit))
	for i, k := range kit {
		out[i] = strings.ReplaceAll(k, "-", " ")
		if instead := catalogue.Household[k]; instead != "" {
			out[i] += " (or " + instead + ")"
		}
	}
	return strings.Join(out, ", ")
}

// CodeWords writes codes or words of the trade as a person reads them.
func CodeWords(codes any) string {
	if surfaces, ok := codes.([]trade.Surface); ok {
		codes = trade.Words(surfaces)
	}
	list, _ := codes.([]string)
	return strings.ReplaceAll(strings.Join(list, ", "), "-", " ")
}

// Capital begins a sentence.
func Capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// SignWords says a red flag, a sign of the log or a condition as people do.
func (s *Site) SignWords(code string) string {
	rules := s.Limits()
	if f, ok := rules.Flag(code); ok {
		return strings.ToLower(f.Ask[:1]) + strings.TrimSuffix(f.Ask[1:], "?")
	}
	if r, ok := rules.Rule(code); ok {
		return strings.ToLower(r.Name[:1]) + r.Name[1:]
	}
	return strings.ReplaceAll(code, "-", " ")
}
