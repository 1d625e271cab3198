package safety

import (
	"slices"
	"strings"

	"restbend/core/intake"
	"restbend/core/trade"
)

// What the client's conditions say of a session beside limits: how they like it, when it stops,
// what to do when something happens, and what is asked before it.

// rulesOf are the rules of the client's conditions, each once.
func (s *Screener) rulesOf() (out []*Rule) {
	for i := range s.client.Conditions {
		if r, ok := s.rules.Rule(s.client.Conditions[i].Code); ok && !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	return out
}

func (s *Screener) gather(of func(*Rule) []string) (out []string) {
	for _, r := range s.rulesOf() {
		for _, say := range of(r) {
			if !slices.Contains(out, say) {
				out = append(out, say)
			}
		}
	}
	return out
}

// Wants says how a condition likes a session to be.
func (r *Rules) Wants(rule *Rule) (out []string) {
	for _, p := range r.Preferences {
		if slices.Contains(rule.Prefers, p.Name) {
			out = append(out, p.Say)
		}
	}
	return out
}

// Prefers is how the client's conditions like a session to be, each preference once.
func (s *Screener) Prefers() (out []Preference) {
	names := s.gather(func(r *Rule) []string { return r.Prefers })
	for _, p := range s.rules.Preferences {
		if slices.Contains(names, p.Name) {
			out = append(out, p)
		}
	}
	return out
}

// Order is the school of order the client's conditions prefer, empty when none does.
func (s *Screener) Order() string {
	for _, p := range s.Prefers() {
		if p.Order != "" {
			return p.Order
		}
	}
	return ""
}

// StopSigns are the signs of the client's conditions at which a session stops.
func (s *Screener) StopSigns() []string { return s.gather(func(r *Rule) []string { return r.Stop }) }

// FirstAid is what to do when something of the client's conditions happens.
func (s *Screener) FirstAid() []string { return s.gather(func(r *Rule) []string { return r.FirstAid }) }

// Question is asked before each session of whoever has a condition; a yes refers.
type Question struct{ Code, Condition, Detail, Ask string }

// Questions are those of the client's conditions.
func (r *Rules) Questions(c *intake.Client) (out []Question) {
	for _, k := range c.Conditions {
		rule, ok := r.Rule(k.Code)
		if !ok {
			continue
		}
		for _, ask := range rule.Asks {
			q := Question{Code: k.Code, Condition: rule.Name, Detail: ask}
			if d, _ := r.Detail(ask, k.Code); d.Now {
				if q.Ask = d.Label; !slices.Contains(out, q) {
					out = append(out, q)
				}
			}
		}
	}
	return out
}

// saidOn ends the name of the day on which such a question was answered with yes.
const saidOn = "_on"

// DayOfYes tells whether a name is that of such a day.
func (r *Rules) DayOfYes(name, code string) bool {
	question, ok := strings.CutSuffix(name, saidOn)
	d, known := r.Detail(question, code)
	return ok && known && d.Now
}

// Say sets a detail; a question of before a session keeps the day of its yes, from the day it was
// first given on.
func (r *Rules) Say(k intake.Condition, name string, value any, day trade.Day) (intake.Condition, error) {
	details := map[string]any{name: value}
	if d, _ := r.Detail(name, k.Code); d.Now {
		switch {
		case value != any(true):
			details[name+saidOn] = ""
		case k.More[name] != any(true):
			details[name+saidOn] = day.String()
		}
	}
	return k.With(details)
}

// Answer records the answers to the questions of a day: a yes for those named, no for the others
// that were not a yes already.
func (r *Rules) Answer(c *intake.Client, day trade.Day, yes func(Question) bool) error {
	asked := r.Questions(c)
	c.Conditions = slices.Clone(c.Conditions)
	for i := range c.Conditions {
		for _, q := range asked {
			if q.Code != c.Conditions[i].Code {
				continue
			}
			if c.Conditions[i].More[q.Detail] == any(true) && !yes(q) {
				continue // only a clearance lifts it
			}
			k, err := r.Say(c.Conditions[i], q.Detail, yes(q), day)
			if err != nil {
				return err
			}
			c.Conditions[i] = k
		}
	}
	return nil
}

// Wishes is what the client's conditions say of every session: shown where it is planned, taught
// and printed.
type Wishes struct {
	Prefers  []string `json:"prefers,omitempty"`
	Stop     []string `json:"stop,omitempty"`
	FirstAid []string `json:"first_aid,omitempty"`
}

// Wishes gathers them; nil when the conditions say nothing.
func (s *Screener) Wishes() *Wishes {
	w := &Wishes{Stop: s.StopSigns(), FirstAid: s.FirstAid()}
	for _, p := range s.Prefers() {
		w.Prefers = append(w.Prefers, p.Say)
	}
	if factor, _ := s.RestFactor(); factor > 1 {
		w.Prefers = append(w.Prefers, "Rests are longer")
	}
	if len(w.Prefers)+len(w.Stop)+len(w.FirstAid) == 0 {
		return nil
	}
	return w
}
