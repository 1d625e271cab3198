package safety

import (
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
)

// RoleWords says a clinician's role as people do.
func RoleWords(by string) string {
	if strings.EqualFold(by, "gp") {
		return "GP"
	}
	return strings.ToLower(strings.ReplaceAll(by, "-", " "))
}

// Limits are the words of the clinicians whose records stand today, with who wrote them and
// when: shown wherever a plan is made, taught or printed.
func (s *Screener) Limits() (out []string) {
	for _, cl := range s.standing {
		if cl.Limits != "" {
			out = append(out, "The "+RoleWords(cl.By)+" wrote on "+cl.Date.String()+": "+cl.Limits)
		}
	}
	return out
}

// findStanding gathers the clearances whose words count today: those that still clear something,
// and others until the day they name, else as long as the longest clearance. Who wrote them does
// not matter: a restriction is not a clearance.
func (s *Screener) findStanding() {
	for i := range s.client.Clearances {
		cl := &s.client.Clearances[i]
		if cl.Date.IsZero() || cl.Date.After(s.today) {
			continue
		}
		clears, ended := false, false
		for _, code := range cl.Covers {
			through, why := s.Clears(cl, code)
			clears = clears || why == ""
			ended = ended || why != "" && !through.IsZero()
		}
		end := cl.Until
		if end.IsZero() {
			end = cl.Date.AddMonths(s.rules.Clearing.Months.Most)
		}
		if clears || !ended && !s.today.After(end) {
			s.standing = append(s.standing, cl)
		}
	}
}

// Forbidden says why a clinician's words keep a version out today: they forbid it, its family or
// an aim it serves, or somebody who held it against them said no. It is empty when none does.
func (s *Screener) Forbidden(v *catalogue.Version) string {
	for _, cl := range s.standing {
		by := "the " + RoleWords(cl.By) + "'s limits"
		for _, word := range cl.Forbids {
			if word == v.Slug || word == v.Family || slices.Contains(v.Aims, word) {
				return by + " forbid " + strings.ReplaceAll(word, "-", " ")
			}
		}
		if k := cl.Answer(v.Slug); k != nil && !k.Allowed {
			return by + " were read and do not allow it"
		}
	}
	return ""
}

// Unconfirmed tells whether a version must still be held against a clinician's words.
func (s *Screener) Unconfirmed(slug string) bool {
	return slices.ContainsFunc(
		s.standing,
		func(cl *intake.Clearance) bool { return cl.Limits != "" && cl.Answer(slug) == nil },
	)
}

// Confirm records what somebody said of a version on a day, with every clearance whose words
// count on it.
func (s *Screener) Confirm(c *intake.Client, slug string, allowed bool, by string) {
	for i := range c.Clearances {
		cl := &c.Clearances[i]
		if cl.Limits == "" ||
			!slices.ContainsFunc(
				s.standing,
				func(k *intake.Clearance) bool { return k.Date == cl.Date && k.By == cl.By && k.Limits == cl.Limits },
			) {
			continue
		}
		cl.Confirmed = append(
			slices.DeleteFunc(slices.Clone(cl.Confirmed), func(k intake.Confirmed) bool { return k.Version == slug }),
			intake.Confirmed{Version: slug, Allowed: allowed, By: by, On: s.today},
		)
	}
}

// Ending is a clearance that ends soon.
type Ending struct {
	Code string
	On   trade.Day
}

// EndsSoon are the conditions and flags whose last clearance ends within the days the limits
// name, nearest first.
func (s *Screener) EndsSoon() (out []Ending) {
	latest := map[string]trade.Day{}
	for i := range s.client.Clearances {
		cl := &s.client.Clearances[i]
		for _, code := range cl.Covers {
			through, why := s.Clears(cl, code)
			switch {
			case why != "":
			case through.IsZero():
				latest[code] = trade.On(9999, 12, 31)
			case through.After(latest[code]):
				latest[code] = through
			}
		}
	}
	for code, on := range latest {
		if on.Since(s.today) <= s.rules.Clearing.EndsSoon {
			out = append(out, Ending{code, on})
		}
	}
	slices.SortFunc(out, func(a, b Ending) int {
		if a.On == b.On {
			return strings.Compare(a.Code, b.Code)
		}
		return a.On.Since(b.On)
	})
	return out
}
