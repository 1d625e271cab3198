package planning

import (
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/trade"
)

// characterWords say what a further proposal is like.
var characterWords = map[string]string{
	plan.MoreMobility: "More mobility", plan.MoreStrength: "More strength", plan.OtherPlace: "Another place",
}

var placeWords = map[string]string{
	"mat": "on the mat", "mixed": "partly on the mat", "bed": "on the bed", "upright": "sitting and standing",
}

// othersPage is the further proposals for a session, each with its value beside the best.
type othersPage struct {
	ID, Version int64
	Leans       string // of which character the session is now; empty for the best
	Best        otherPlan
	Others      []otherPlan
}

type otherPlan struct {
	Character, Name, Where, Costs string
	Minutes                       int
	Plan                          *plan.Plan
	Items                         []string
}

func (s *Planning) otherOf(c *gin.Context, p *plan.Plan) otherPlan {
	out := otherPlan{Plan: p, Where: placeWords[p.Place]}
	for i := range p.Items {
		if v, ok := s.Catalogue(c).Version(p.Items[i].Version); ok && p.Items[i].Role != trade.Reset {
			out.Items = append(out.Items, v.Name)
		}
	}
	return out
}

// showOthers offers proposals of another character beside the best one.
func (s *Planning) showOthers(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		r := pg.Person.Req
		base := *pg.Plan
		if base.Character == plan.OtherPlace {
			base.Where = ""
		}
		base.Character = ""
		best, err := edit.Rebuild(r, &base)
		if err != nil {
			s.Failed(c, err)
			return
		}
		out := othersPage{ID: pg.Row.ID, Version: pg.Row.Version, Leans: pg.Plan.Character, Best: s.otherOf(c, best)}
		out.Best.Character, out.Best.Name = "best", "The best of it"
		for _, a := range edit.Alternatives(r, best) {
			o := s.otherOf(c, a.Plan)
			o.Character, o.Name = a.Character, characterWords[a.Character]
			if o.Costs = fmt.Sprintf("worth %.0f points less than the best, which is worth %.0f", a.Costs,
				best.Score); a.Costs < 1 {
				o.Costs = "worth nearly as much as the best"
			}
			out.Others = append(out.Others, o)
		}
		fragment := ""
		if c.GetHeader("HX-Request") == "true" {
			fragment = "others"
		}
		s.Render(c, http.StatusOK, "others", fragment, "Other proposals", out)
	})
}
