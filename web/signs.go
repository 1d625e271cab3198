package web

import (
	"slices"

	"github.com/gin-gonic/gin"

	"restbend/core/intake"
	"restbend/core/safety"
)

// Warning signs and the questions of conditions, asked at the intake and before each session.

// flagGroup is warning signs that are asked together.
type flagGroup struct {
	Name  string
	Flags []safety.RedFlag
}

func flagGroups(rules *safety.Rules) (out []flagGroup) {
	for _, f := range rules.RedFlags {
		if n := len(out); n == 0 || out[n-1].Name != f.Group {
			out = append(out, flagGroup{Name: f.Group})
		}
		out[len(out)-1].Flags = append(out[len(out)-1].Flags, f)
	}
	return out
}

// signs is what is asked of a client before a session.
type signs struct {
	Groups    []flagGroup
	Questions []safety.Question
}

func (s *Server) signsFor(cl *intake.Client) signs {
	return signs{flagGroups(s.limits()), s.limits().Questions(cl)}
}

// recordSigns keeps the warning signs and the answers of conditions that a form holds and tells
// whether any is a yes. With none, the questions of the conditions are answered with no.
func (s *Server) recordSigns(c *gin.Context, cl *intake.Client) (any bool, err error) {
	for _, f := range c.PostFormArray("red_flags") {
		if _, known := s.limits().Flag(f); known {
			cl.Raise(f, s.Today())
			any = true
		}
	}
	yes := c.PostFormArray("question")
	return any || len(yes) > 0, s.limits().Answer(cl, s.Today(), func(q safety.Question) bool {
		return slices.Contains(yes, q.Code+"/"+q.Detail)
	})
}
