package safety

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/intake"
)

// How the limits of a client's conditions, of other conditions that hold as well, of an age and
// of today's side check become bounds.

// bind makes one limit concrete where it applies.
func (s *Screener) bind(k *intake.Condition, l *Limit) {
	if !s.applies(k, l.When) || l.Cleared && s.cleared(k) {
		return
	}
	for _, item := range l.Lacks {
		if s.owns[item] {
			return
		}
	}
	for _, q := range expand(l.Quantity, k, &s.client.Today) {
		s.bounds = append(s.bounds, bound{k.Code, q, l.Reason, l.Source, l.allowed(q), s.table.ID(q), l.Watch, l.Repeated})
	}
}

// also does something with every other condition that holds as well, with the details as they
// are read there.
func (s *Screener) also(k *intake.Condition, rule *Rule, do func(as *intake.Condition, a *Also, like *Rule)) {
	for i := range rule.Also {
		if a := &rule.Also[i]; s.applies(k, a.When) {
			like, _ := s.rules.Rule(a.Like)
			as, err := k.With(a.As)
			if err != nil { // the file was read: its details fit
				as = *k
			}
			do(&as, a, like)
			s.also(&as, like, do)
		}
	}
}

// bindAlso lets the limits of other conditions hold with this one's details.
func (s *Screener) bindAlso(k *intake.Condition, rule *Rule) {
	s.also(k, rule, func(as *intake.Condition, a *Also, like *Rule) {
		for j := range like.Limits {
			l := &like.Limits[j]
			if !slices.Contains(a.Without, l.Quantity) {
				s.bind(as, l)
			}
		}
	})
}

// bindAge keeps a hold at hand for those of an age who never stood on one leg long enough for a
// measurement.
func (s *Screener) bindAge() {
	s.ages(func(a *Age) {
		rule, _ := s.rules.Rule(a.Like)
		for j := range rule.Limits {
			if l := rule.Limits[j]; len(a.Only) == 0 || slices.Contains(a.Only, l.Quantity) {
				l.Reason = a.Reason
				s.bind(&intake.Condition{Code: a.Like}, &l)
			}
		}
		if !slices.Contains(s.notes, a.Note()) {
			s.notes = append(s.notes, a.Note())
		}
	})
}

// ages does something with each age that the client has reached and no measurement lifts.
func (s *Screener) ages(do func(*Age)) {
	c := s.client
	if c.Born == 0 {
		return
	}
	year, _, _ := s.today.Date()
	for i := range s.rules.Ages {
		a := &s.rules.Ages[i]
		if year-c.Born >= a.From && c.OneLegS < a.UntilS &&
			!slices.ContainsFunc(c.Conditions, func(k intake.Condition) bool { return k.Code == a.Like }) {
			do(a)
		}
	}
}

// Note says what an age holds back and what lifts it.
func (a *Age) Note() string {
	return fmt.Sprintf("From %d years: %s, until a one-leg stand of %g s was measured.", a.From, a.Reason, a.UntilS)
}

// bindSideCheck lets a side check of today bind a client without a recorded sacroiliac
// condition too: nobody checks a side and then works the other one (the strict reading).
func (s *Screener) bindSideCheck() {
	const code = "sij-pain"
	recorded := slices.ContainsFunc(s.client.Conditions, func(k intake.Condition) bool { return k.Code == code })
	rule, known := s.rules.Rule(code)
	if recorded || !known || s.client.Today.SIJSide == "" {
		return
	}
	for i := range rule.Limits {
		if l := &rule.Limits[i]; l.When["sij_checked"] == "true" {
			s.bind(&intake.Condition{Code: code}, l)
		}
	}
}

var directionWords = map[string]string{"flexion": "bending", "extension": "arching"}

// findConflicts notes conditions that pull opposite ways; the verdict stays strict.
func (s *Screener) findConflicts() {
	limits := func(dir string) (who []string) {
		for _, b := range s.bounds {
			if (strings.HasPrefix(b.quantity, "lumbar."+dir) || strings.HasPrefix(b.quantity, "trunk."+dir)) &&
				!slices.Contains(who, b.condition) {
				who = append(who, b.condition)
			}
		}
		return who
	}
	name := func(code string) string {
		r, _ := s.rules.Rule(code)
		return r.Name
	}
	say := func(text string) {
		if !slices.Contains(s.conflicts, text) {
			s.conflicts = append(s.conflicts, text)
		}
	}
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		likes := rule.Likes
		if k.Code == "disc-sciatica" {
			likes = k.Detail("preference")
		}
		if likes == "" {
			continue
		}
		for _, who := range limits(likes) {
			if who != k.Code {
				say(
					fmt.Sprintf(
						"%s finds %s comfortable, %s limits it: the limit holds.",
						rule.Name,
						directionWords[likes],
						strings.ToLower(name(who)),
					),
				)
			}
		}
	}
	f, e := limits("flexion"), limits("extension")
	for _, a := range f {
		for _, b := range e {
			if a != b && !slices.Contains(e, a) && !slices.Contains(f, b) {
				say(fmt.Sprintf("%s limits bending and %s limits arching: both limits hold.", name(a), strings.ToLower(name(b))))
			}
		}
	}
	slices.Sort(s.conflicts)
	s.notes = append(s.notes, s.conflicts...)
}
