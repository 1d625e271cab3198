package planning

import (
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"restbend/core/intake"
	"restbend/core/trade"
	"restbend/web/people"
)

// saveOverride records that one left-out exercise may be used with one client, with the
// reason and a day it ends. It never lifts a referral.
func (s *Planning) saveOverride(c *gin.Context) {
	p, id, ok := s.PersonHere(c)
	if !ok {
		return
	}
	slug := c.PostForm("version")
	r, ok := p.Req.Screening.Result(slug)
	if !ok {
		s.Fail(c, http.StatusNotFound, "There is no such exercise", "Nothing was changed.")
		return
	}
	if r.Verdict != trade.LeaveOut && c.PostForm("op") != "end" {
		s.Fail(
			c,
			http.StatusUnprocessableEntity,
			"Only an exercise that is left out can be overridden; nothing lifts refer first",
			"Nothing was changed.",
		)
		return
	}
	cl, err := people.DocumentOf(&p.Row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	cl.EndOverride(slug)
	why := "override ended: " + slug
	if c.PostForm("op") != "end" {
		o, wrong := intake.NewOverride(slug, c.PostForm("reason"), c.PostForm("until"), s.Today())
		if wrong != "" {
			s.showVerdict(c, http.StatusUnprocessableEntity, p, id, r, overrideForm{o.Reason, c.PostForm("until"), wrong})
			return
		}
		cl.Override(o)
		why = o.Reason
	}
	if err := s.Keep(c, p.Row, cl, why); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/verdicts/%s", id, slug))
}

// overrideForm is what was typed and what is wrong with it.
type overrideForm struct{ Reason, Until, Wrong string }
