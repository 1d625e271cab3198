package safety

import (
	"slices"

	"restbend/core/intake"
)

// Holds tells whether the limits of one of some conditions hold for the client: it is recorded, another
// condition brings it along, or the age does.
func (s *Screener) Holds(codes ...string) (holds bool) {
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		holds = holds || slices.Contains(codes, k.Code)
		rule, _ := s.rules.Rule(k.Code)
		s.also(k, rule, func(_ *intake.Condition, _ *Also, like *Rule) { holds = holds || slices.Contains(codes, like.Code) })
	}
	s.ages(func(a *Age) { holds = holds || len(a.Only) == 0 && slices.Contains(codes, a.Like) })
	return holds
}

// shaping are the conditions whose limits say where a session takes place and how dear a rise is.
var shaping = []string{"osteoporosis", "osteopenia", "falls-risk"}

// AsIf are the conditions that shape a whole session and whose limits hold, recorded or not.
func (s *Screener) AsIf() (codes []string) {
	for _, code := range shaping {
		if s.Holds(code) {
			codes = append(codes, code)
		}
	}
	return codes
}

// Acute tells whether the limits of an acute back pain hold, as phases are read that nobody recorded.
func (s *Screener) Acute() bool {
	return slices.ContainsFunc(s.client.Conditions, func(k intake.Condition) bool {
		return slices.Contains([]string{"low-back-pain", "disc-sciatica"}, k.Code) &&
			s.applies(&k, map[string]string{"phase": "acute"})
	})
}
