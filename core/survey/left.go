package survey

import (
	"fmt"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/safety"
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

// LeftWith counts what suits the strictest client with these conditions.
func LeftWith(r *safety.Rules, cat *catalogue.Catalogue, today trade.Day, codes ...string) (Left, error) {
	out := Left{Conditions: codes, At: map[string]int{}, Eased: map[string]int{}, Aims: map[string]int{}}
	s, err := safety.NewScreener(r, cat, r.Strictest(today, codes...), today)
	if err != nil {
		return out, err
	}
	if refer := s.Referral(); refer != nil {
		return out, fmt.Errorf("%s: %s", strings.Join(codes, " + "), refer.Say)
	}
	for i, r := range s.Screen().Results {
		v := cat.Versions[i]
		if r.Verdict != trade.Suits {
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
