package safety

import (
	"fmt"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
)

// Left is what a client with some conditions, every position, surface and prop may do as it
// stands: how many versions suit, in which position, and for what.
type Left struct {
	Conditions []string
	Suits      int
	At         map[string]int // by position
	Eased      map[string]int // by position, what suits with one of its eases
	Aims       map[string]int // what suits or suits with an ease
	Rise       []string       // versions that rise from a seat to standing
}

func (l Left) String() string {
	var at []string
	for _, p := range trade.Words(trade.Positions) {
		say := fmt.Sprintf("%s %d", p, l.At[p])
		if l.Eased[p] > 0 {
			say += fmt.Sprintf("+%d", l.Eased[p])
		}
		at = append(at, say)
	}
	return fmt.Sprintf(
		"%s: %d suit; %s; leg strength %d, balance %d, rising: %s",
		strings.Join(l.Conditions, " + "),
		l.Suits,
		strings.Join(at, ", "),
		l.Aims["leg-strength"],
		l.Aims["balance"],
		strings.Join(l.Rise, ", "),
	)
}

// Enough is the least that is left for anybody who may exercise (domain/09).
const Enough = 12

// strictest is a client with these conditions, each with nothing recorded but a day long past and
// a clearance of today: the strictest reading that refers to nobody. Every position, surface and
// prop is there.
func (r *Rules) strictest(today trade.Day, codes ...string) *intake.Client {
	c := &intake.Client{
		Positions: map[string]string{"floor": "yes", "stand_free": "yes"},
		Surfaces:  trade.Surfaces,
		Kit:       catalogue.Kit,
	}
	for _, p := range r.Positions {
		c.Positions[p.Answer] = "yes"
	}
	long := today.AddDays(-400)
	for _, code := range codes {
		k := intake.Condition{Code: code, Date: long, FractureDate: long}
		if code == intake.Pregnancy {
			k.Date, k.Due = trade.Day{}, today.AddDays(7*12)
		}
		c.Conditions = append(c.Conditions, k)
		c.Clearances = append(
			c.Clearances,
			intake.Clearance{Date: today, By: "specialist", Covers: []string{code}, Limits: "as the limits of the condition"},
		)
	}
	return c
}

// Left counts what suits the strictest client with these conditions.
func (r *Rules) Left(cat *catalogue.Catalogue, today trade.Day, codes ...string) (Left, error) {
	out := Left{Conditions: codes, At: map[string]int{}, Eased: map[string]int{}, Aims: map[string]int{}}
	s, err := NewScreener(r, cat, r.strictest(today, codes...), today)
	if err != nil {
		return out, err
	}
	if refer := s.Referral(); refer != nil {
		return out, fmt.Errorf("%s: %s", strings.Join(codes, " + "), refer.Say)
	}
	for _, v := range cat.Versions {
		if r, _, _ := s.judge(v); r.Verdict != trade.Suits {
			if len(r.Eases) > 0 {
				out.Eased[string(v.Position)]++
				for _, a := range v.Aims {
					out.Aims[a]++
				}
				if v.Quantities["rising"].Value > 0 {
					out.Rise = append(out.Rise, v.Slug+" with an ease")
				}
			}
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
