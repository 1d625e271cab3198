package safety

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
)

// Gain is one thing to ask about first: a condition to have cleared or told more about, a position
// nobody confirmed, a prop or a place; with how many exercises more would suit.
type Gain struct {
	Kind  string // condition, position or kit
	Code  string
	Name  string
	Frees int
	Open  []string // details of a condition that are read strictly because nobody recorded them
}

// count is how many versions suit a client.
func (s *Screener) count(c *intake.Client) int {
	other, err := NewScreener(s.rules, s.cat, c, s.today)
	if err != nil {
		return 0
	}
	n := 0
	for _, v := range s.cat.Versions {
		if other.suits(v) {
			n++
		}
	}
	return n
}

// Gains are what would free most, the most first; what frees nothing is left out.
func (s *Screener) Gains() (out []Gain) {
	now := s.count(s.client)
	try := func(g Gain, change func(*intake.Client)) {
		c := *s.client
		change(&c)
		if g.Frees = s.count(&c) - now; g.Frees > 0 {
			out = append(out, g)
		}
	}
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		if slices.ContainsFunc(out, func(g Gain) bool { return g.Code == k.Code }) {
			continue
		}
		rule, _ := s.rules.Rule(k.Code)
		try(Gain{Kind: "condition", Code: k.Code, Name: rule.Name, Open: s.open(k, rule)}, func(c *intake.Client) {
			c.Conditions = slices.DeleteFunc(
				slices.Clone(c.Conditions),
				func(o intake.Condition) bool { return o.Code == k.Code },
			)
		})
	}
	for _, p := range append([]Needs{{Answer: "floor", Say: "getting to the floor"},
		{Answer: "stand_free", Say: "standing without a hold"}}, s.rules.Positions...) {
		if s.positions[p.Answer] == "yes" {
			continue
		}
		try(Gain{Kind: "position", Code: p.Answer, Name: p.Say}, func(c *intake.Client) {
			all := map[string]string{p.Answer: "yes"}
			for k, v := range c.Positions {
				if k != p.Answer {
					all[k] = v
				}
			}
			c.Positions = all
		})
	}
	for _, kit := range append(trade.Words(trade.Surfaces), catalogue.Kit...) {
		if s.owns[kit] || catalogue.Comfort(kit) || slices.ContainsFunc(out, func(g Gain) bool { return g.Code == kit }) {
			continue
		}
		try(Gain{Kind: "kit", Code: kit, Name: strings.ReplaceAll(kit, "-", " ")}, func(c *intake.Client) {
			c.Kit = append(slices.Clone(c.Owns()), kit) // surfaces count among what is owned
			c.Surfaces = slices.Clone(c.Surfaces)
			for _, surface := range trade.Surfaces {
				if slices.Contains(c.Kit, string(surface)) && !slices.Contains(c.Surfaces, surface) {
					c.Surfaces = append(c.Surfaces, surface)
				}
			}
		})
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Frees > out[j].Frees })
	return out
}

// open are the details of a condition that are read strictly.
func (s *Screener) open(k *intake.Condition, rule *Rule) (out []string) {
	for _, ask := range rule.Asks {
		if d, _ := s.rules.Detail(ask, k.Code); d.Missing == "strict" && k.Missing(ask) {
			out = append(out, strings.ToLower(d.Label[:1])+d.Label[1:])
		}
	}
	return out
}

// Summary says in at most five lines what everything together leaves, and what to ask about first.
func (s *Screener) Summary(sc *Screening) []string {
	if sc.Refer != nil {
		return []string{"Nothing before a clinician has looked."}
	}
	suits, eased := 0, 0
	at, aims, total := map[trade.Position]int{}, map[string]int{}, map[trade.Position]int{}
	for i := range sc.Results {
		r := &sc.Results[i]
		v, ok := s.cat.Version(r.Version)
		if !ok {
			continue
		}
		total[v.Position]++
		switch {
		case r.Verdict == trade.Suits:
			suits++
		case len(r.Eases) > 0:
			eased++
		default:
			continue
		}
		at[v.Position]++
		for _, a := range v.Aims {
			aims[a]++
		}
	}
	lines := []string{
		fmt.Sprintf("%d of %d exercises suit as they stand, %d more with an ease.", suits, len(sc.Results), eased),
	}
	var left, gone []string
	for _, p := range trade.Positions {
		switch {
		case at[p] > 0:
			left = append(left, fmt.Sprintf("%s %d", catalogue.PositionWords(p), at[p]))
		case total[p] > 0:
			gone = append(gone, catalogue.PositionWords(p))
		}
	}
	if left != nil {
		lines = append(lines, "Where: "+strings.Join(left, ", ")+".")
	}
	var none []string
	for _, a := range catalogue.Aims {
		if aims[a] == 0 {
			none = append(none, aimWords(a))
		}
	}
	if gone != nil || none != nil {
		say := "Nothing is left"
		if gone != nil {
			say += " " + strings.Join(gone, ", ")
		}
		if none != nil {
			say += map[bool]string{true: ", and nothing", false: ""}[gone != nil] + " for " + strings.Join(none, ", ")
		}
		lines = append(lines, say+".")
	}
	gains := s.Gains()
	if len(gains) > 0 {
		lines = append(lines, "Ask first about "+gains[0].say()+".")
	}
	if len(gains) > 1 {
		lines = append(lines, "Then about "+gains[1].say()+".")
	}
	return lines
}

func (g Gain) say() string {
	switch {
	case g.Kind == "position":
		return fmt.Sprintf("%s: with it %d more would suit", g.Name, g.Frees)
	case g.Kind == "kit":
		return fmt.Sprintf("a %s: with one %d more would suit", g.Name, g.Frees)
	case len(g.Open) > 0:
		return fmt.Sprintf(
			"%s: its limits hold back %d, and these are read strictly: %s",
			strings.ToLower(g.Name[:1])+g.Name[1:],
			g.Frees,
			strings.Join(g.Open, "; "),
		)
	}
	return fmt.Sprintf("%s: cleared of its limits %d more would suit", strings.ToLower(g.Name[:1])+g.Name[1:], g.Frees)
}
