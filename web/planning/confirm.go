package planning

import (
	"fmt"
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"restbend/web/people"
)

// limitsRow is an item of a plan that must be held against the clinician's limits.
type limitsRow struct{ Version, Name, Why string }

// limitsRows are the items nobody has held against the clinician's limits yet, each once.
func limitsRows(pg *PlanPage) (out []limitsRow) {
	r := pg.Person.Req
	for i := range pg.Plan.Items {
		slug := pg.Plan.Items[i].Version
		v, ok := r.Catalogue.Version(slug)
		if !ok || !r.Screener.Unconfirmed(slug) ||
			slices.ContainsFunc(out, func(l limitsRow) bool { return l.Version == slug }) {
			continue
		}
		out = append(out, limitsRow{slug, v.Name, v.Changes})
	}
	return out
}

// Unread names the items that must still be held against the clinician's limits.
func Unread(pg *PlanPage) (names []string) {
	for _, l := range limitsRows(pg) {
		names = append(names, l.Name)
	}
	return names
}

// confirm records which items of a plan the clinician's words allow, by whom and when. What they
// do not allow is left out from now on.
func (s *Planning) confirm(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		cl, err := people.DocumentOf(&pg.Person.Row)
		if err != nil {
			s.Failed(c, err)
			return
		}
		said := 0
		for _, l := range limitsRows(pg) {
			switch c.PostForm("allowed." + l.Version) {
			case "yes":
				pg.Person.Req.Screener.Confirm(cl, l.Version, true, s.Who(c))
			case "no":
				pg.Person.Req.Screener.Confirm(cl, l.Version, false, s.Who(c))
			default:
				continue
			}
			said++
		}
		if said == 0 {
			s.Fail(
				c,
				http.StatusUnprocessableEntity,
				"Say of at least one exercise whether the limits allow it",
				"Nothing was changed.",
			)
			return
		}
		fresh := !pg.Stale
		if err := s.Keep(c, pg.Person.Row, cl, "held against the clinician's limits"); err != nil {
			s.Failed(c, err)
			return
		}
		if fresh { // nothing else changed: the plan stands, and what is not allowed is marked in it
			row, err := s.Store.Client(c, s.Account(c), pg.Row.ClientID)
			if err != nil {
				s.Failed(c, err)
				return
			}
			if err := s.Store.RebasePlan(c, pg.Row, row.Revision); err != nil {
				s.Failed(c, err)
				return
			}
		}
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d", pg.Row.ID))
	})
}

// Notes are the notes of a client's screening without the clinician's words, which have a place of
// their own.
func (pg *PlanPage) Notes() (out []string) {
	words := pg.Person.Req.Screener.Limits()
	for _, n := range pg.Person.Req.Screening.Notes {
		if !slices.Contains(words, n) {
			out = append(out, n)
		}
	}
	return out
}

// limitsBox is the clinician's words beside a plan, with what must still be held against them.
type limitsBox struct {
	Plan  int64
	Words []string
	Rows  []limitsRow
}

func newLimitsBox(pg *PlanPage) *limitsBox {
	words := pg.Person.Req.Screener.Limits()
	if words == nil {
		return nil
	}
	return &limitsBox{pg.Row.ID, words, limitsRows(pg)}
}
