package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/safety"
	"restbend/core/trade"
)

// overrideDays is how long an override holds unless a day is given: 6 weeks.
const overrideDays = 42

// saveOverride records that one left-out exercise may be used with one client, with the
// reason and a day it ends. It never lifts a referral.
func (s *Server) saveOverride(c *gin.Context) {
	p, id, ok := s.personHere(c)
	if !ok {
		return
	}
	slug := c.PostForm("version")
	r, ok := p.Req.Screening.Result(slug)
	if !ok {
		s.fail(c, http.StatusNotFound, "There is no such exercise", "Nothing was changed.")
		return
	}
	if r.Verdict != trade.LeaveOut && c.PostForm("op") != "end" {
		s.fail(c, http.StatusUnprocessableEntity, "Only an exercise that is left out can be overridden; nothing lifts refer first", "Nothing was changed.")
		return
	}
	cl, err := documentOf(&p.Row)
	if err != nil {
		s.failed(c, err)
		return
	}
	cl.Overrides = slices.DeleteFunc(cl.Overrides, func(o safety.Override) bool { return o.Version == slug })
	why := "override ended: " + slug
	if c.PostForm("op") != "end" {
		reason, until := strings.TrimSpace(c.PostForm("reason")), c.PostForm("until")
		wrong := ""
		var day trade.Day
		today, latest := s.Today(), s.Today().AddMonths(6)
		switch err := day.UnmarshalText([]byte(until)); {
		case len(reason) < 10:
			wrong = "Reason: say in a sentence why, for this client, it may be used."
		case until == "":
			day = today.AddDays(overrideDays)
		case err != nil || day.YearOnly() || day.Before(today) || day.After(latest):
			wrong = fmt.Sprintf("Until: found %q, allowed: a day from %s to %s.", until, today, latest)
		}
		if wrong != "" {
			s.showVerdict(c, http.StatusUnprocessableEntity, p, id, r, overrideForm{reason, c.PostForm("until"), wrong})
			return
		}
		cl.Overrides = append(cl.Overrides, safety.Override{Version: slug, Reason: reason, Until: day})
		why = reason
	}
	if err := s.keep(c, p.Row, cl, why); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/verdicts/%s", id, slug))
}

// overrideForm is what was typed and what is wrong with it.
type overrideForm struct{ Reason, Until, Wrong string }
