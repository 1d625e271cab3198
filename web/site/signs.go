package site

import (
	"slices"

	"github.com/gin-gonic/gin"

	"restbend/core/intake"
	"restbend/core/safety"
)

// Warning signs and the questions of conditions, asked at the intake and before each session.

// FlagGroup is warning signs that are asked together.
type FlagGroup struct {
	Name  string
	Flags []safety.RedFlag
}

// FlagGroups are the warning signs by what they are about.
func FlagGroups(rules *safety.Rules) (out []FlagGroup) {
	for _, f := range rules.RedFlags {
		if n := len(out); n == 0 || out[n-1].Name != f.Group {
			out = append(out, FlagGroup{Name: f.Group})
		}
		out[len(out)-1].Flags = append(out[len(out)-1].Flags, f)
	}
	return out
}

// Signs is what is asked of a client before a session.
type Signs struct {
	Groups    []FlagGroup
	Questions []safety.Question
}

// SignsFor are the warning signs to ask a client about.
func (s *Site) SignsFor(cl *intake.Client) Signs {
	return Signs{FlagGroups(s.Limits()), s.Limits().Questions(cl)}
}

// RecordSigns keeps the warning signs and the answers of conditions that a form holds and tells
// whether any is a yes. With none, the questions of the conditions are answered with no.
func (s *Site) RecordSigns(c *gin.Context, cl *intake.Client) (any bool, err error) {
	for _, f := range c.PostFormArray("red_flags") {
		if _, known := s.Limits().Flag(f); known {
			cl.Raise(f, s.Today())
			any = true
		}
	}
	yes := c.PostFormArray("question")
	return any || len(yes) > 0, s.Limits().Answer(cl, s.Today(), func(q safety.Question) bool {
		return slices.Contains(yes, q.Code+"/"+q.Detail)
	})
}
