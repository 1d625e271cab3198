package safety

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// Left is what a client with some conditions, every position, surface and prop may do as it
// stands: how many versions suit, in which position, and for what.
type Left struct {
	Conditions []string
	Suits      int
	At         map[string]int // by position
	Aims       map[string]int
	Rise       []string // versions that rise from a seat to standing
}

func (l Left) String() string {
	var at []string
	for _, p := range slices.Sorted(maps.Keys(l.At)) {
		at = append(at, fmt.Sprintf("%s %d", p, l.At[p]))
	}
	return fmt.Sprintf("%s: %d suit; %s; leg strength %d, balance %d, rising: %s", strings.Join(l.Conditions, " + "), l.Suits, strings.Join(at, ", "), l.Aims["leg-strength"], l.Aims["balance"], strings.Join(l.Rise, ", "))
}

// Enough is the least that is left for anybody who may exercise (domain/09).
const Enough = 12

// Left counts what suits a client with these conditions, each with nothing recorded but a day
// long past and a clearance of today: the strictest reading that refers to nobody.
func (r *Rules) Left(cat *catalogue.Catalogue, today trade.Day, codes ...string) (Left, error) {
	c := &Client{Positions: map[string]string{"floor": "yes", "stand_free": "yes"}, Surfaces: trade.Surfaces, Kit: catalogue.Kit}
	for _, p := range r.Positions {
		c.Positions[p.Answer] = "yes"
	}
	long := today.AddDays(-400)
	for _, code := range codes {
		k := Condition{Code: code, Date: long, FractureDate: long}
		if code == Pregnancy {
			k.Date, k.Due = trade.Day{}, today.AddDays(7*12)
		}
		c.Conditions = append(c.Conditions, k)
		c.Clearances = append(c.Clearances, Clearance{Date: today, By: "doctor", Covers: []string{code}})
	}
	out := Left{Conditions: codes, At: map[string]int{}, Aims: map[string]int{}}
	s, err := NewScreener(r, cat, c, today)
	if err != nil {
		return out, err
	}
	for i, verdict := range s.Verdicts() {
		v := cat.Versions[i]
		if verdict != trade.Suits {
			continue
		}
		out.Suits++
		out.At[string(v.Position)]++
		for _, a := range v.Aims {
			out.Aims[a]++
		}
		if v.Quantities["rising"].Value > 0 {
			out.Rise = append(out.Rise, v.Slug)
		}
	}
	return out, nil
}
