package planning

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/edit"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/store"
)

// withPlan loads a plan and hands it on, or answers why it cannot.
func (s *Planning) withPlan(c *gin.Context, do func(*PlanPage)) {
	pg, err := s.LoadPlan(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if pg != nil {
		do(pg)
	}
}

// current tells whether a change was asked for on the plan as it is; a plan that was
// changed in another tab is not overwritten.
func (s *Planning) current(c *gin.Context, pg *PlanPage) bool {
	v, err := strconv.ParseInt(c.PostForm("version"), 10, 64)
	if err != nil || v == pg.Row.Version {
		return true
	}
	if c.GetHeader("HX-Request") != "true" {
		s.Failed(c, store.ErrChanged)
		return false
	}
	pg.Problem = "This session was changed elsewhere meanwhile. Nothing was overwritten; what you see now is the newer state."
	s.sent.forget(pg.Row.ID)
	s.showPlan(c, http.StatusUnprocessableEntity, pg)
	return false
}

// editPlan changes a plan by hand; the checks answer at once.
func (s *Planning) editPlan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		if !s.current(c, pg) {
			return
		}
		e := editAsked(c)
		said, err := edit.Do(pg.Person.Req, pg.Plan, e)
		if err != nil {
			pg.Problem = plainly(err)
			s.showPlan(c, http.StatusUnprocessableEntity, pg)
			return
		}
		pg.At, pg.Stale = follow(pg, e), pg.Stale && e.Op != "rebuild"
		pg.Said = said
		s.keepPlan(c, pg, pg.Said)
	})
}

// plainly is what is wrong with a change, as a sentence.
func plainly(err error) string {
	said := plan.Why(err)
	return strings.ToUpper(said[:1]) + said[1:] + "."
}

// editAsked reads a change: a button says all of it in one value, op:item:with; a program
// may name the fields.
func editAsked(c *gin.Context) edit.Edit {
	e := edit.Edit{Op: c.PostForm("op"), With: c.PostForm("with"), Item: -1}
	item := c.PostForm("item")
	if do := strings.SplitN(c.PostForm("do"), ":", 3); do[0] != "" {
		e.Op, item, e.With = do[0], "", ""
		if len(do) > 1 {
			item = do[1]
		}
		if len(do) > 2 {
			e.With = do[2]
		}
		if e.Op == "add" && e.With == "" {
			e.With = c.PostForm("add")
		}
	}
	if n, err := strconv.Atoi(item); err == nil {
		e.Item = n
	}
	if n, err := strconv.Atoi(c.PostForm("to")); err == nil {
		e.To = n
	}
	if e.Op == "dose" {
		e.Dose = typedDose(c)
	}
	return e
}

// typedDose reads a dose typed by hand; what was left empty stays as it is, and what is no whole number is
// out of every range.
func typedDose(c *gin.Context) *plan.Typed {
	number := func(name string) *int {
		typed := strings.TrimSpace(c.PostForm(name))
		if typed == "" {
			return nil
		}
		n, err := strconv.Atoi(typed)
		if err != nil {
			n = -1
		}
		return &n
	}
	return &plan.Typed{
		Sets:        number("dose_sets"),
		Reps:        number("dose_reps"),
		HoldS:       number("dose_hold"),
		HoldBreaths: number("dose_breaths"),
		RestS:       number("dose_rest"),
		Side:        trade.Side(c.PostForm("dose_side")),
		Why:         c.PostForm("dose_why"),
	}
}

// follow keeps the item in view that was changed.
func follow(pg *PlanPage, e edit.Edit) int {
	at := pg.At
	switch e.Op {
	case "up":
		at = e.Item - 1
	case "down":
		at = e.Item + 1
	case "move":
		at = e.To
	case "add", "begin", "finish":
		at = slices.IndexFunc(
			pg.Plan.Items,
			func(it plan.Item) bool { return it.Version == e.With && it.Role != trade.Reset },
		)
	case "swap", "harder", "easier", "longer", "shorter", "side", "dose", "layer", "unlayer", "lock", "unlock":
		at = e.Item
	}
	return max(0, min(at, len(pg.Plan.Items)-1))
}

// keepPlan stores a change as a step that can be undone and shows what changed.
func (s *Planning) keepPlan(c *gin.Context, pg *PlanPage, what string) {
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg.Row.Document, pg.Row.Quick = doc, false
	if !pg.Stale { // a change by hand does not make an old plan a new one
		pg.Row.ClientRevision, pg.Row.Basis = pg.Person.Row.Revision, pg.Person.Req.Basis()
	}
	if err := s.Store.UpdatePlan(c, pg.Row, what); err != nil {
		s.Failed(c, err)
		return
	}
	pg.Row.Version++
	pg.Row.Step++
	pg.Row.Steps = pg.Row.Step + 1
	s.answerPlan(c, pg)
}

func (s *Planning) answerPlan(c *gin.Context, pg *PlanPage) {
	if c.GetHeader("HX-Request") == "true" {
		s.showPlan(c, http.StatusOK, pg)
		return
	}
	if c.PostForm("back") == "start" {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d/start", pg.Row.ID))
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d?at=%d", pg.Row.ID, pg.At))
}

// stepPlan undoes or redoes a change.
func (s *Planning) stepPlan(c *gin.Context) {
	by := map[string]int{"undo": -1, "redo": 1}[c.Param("way")]
	s.withPlan(c, func(pg *PlanPage) {
		if by == 0 {
			s.Fail(c, http.StatusNotFound, "There is no such page", "Nothing was changed.")
			return
		}
		if !s.current(c, pg) {
			return
		}
		what, err := s.Store.StepPlan(c, pg.Row, by)
		if errors.Is(err, store.ErrNotFound) {
			pg.Problem = map[int]string{-1: "There is nothing to undo.", 1: "There is nothing to redo."}[by]
			s.showPlan(c, http.StatusUnprocessableEntity, pg)
			return
		}
		if err != nil {
			s.Failed(c, err)
			return
		}
		s.withPlan(c, func(pg *PlanPage) {
			pg.Said = map[int]string{-1: "Undone: ", 1: "Done again: "}[by] + what
			s.answerPlan(c, pg)
		})
	})
}

// bestPlan replaces a quick plan that nobody touched by the best one.
func (s *Planning) bestPlan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		if !pg.Row.Quick {
			s.answerPlan(c, pg)
			return
		}
		best, err := edit.Rebuild(pg.Person.Req, pg.Plan)
		if err != nil || best.Score < pg.Plan.Score {
			best = pg.Plan
		}
		pg.Plan, pg.At, pg.Stale = best, 0, pg.Stale && best == pg.Plan
		pg.Said = "This is the best session found"
		if best.Proven {
			pg.Said = "This is the best session: proven, none is worth more for these aims, in this place and these minutes"
		}
		s.keepPlan(c, pg, "the best session")
	})
}

// rebuildPlan plans again around what is locked, perhaps with other minutes or of another
// kind.
func (s *Planning) rebuildPlan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		if !s.current(c, pg) {
			return
		}
		minutes, err := minutesAsked(c)
		if err == nil {
			var kind *kinds.Template
			if kind, err = s.Kind(c, c.PostForm("template")); err == nil {
				pg.Person.Req = s.Lasting(c, pg.Person.Req, minutes).For(kind)
				pg.Plan.SlotS = pg.Person.Req.SlotSeconds()
			}
		}
		if err == nil {
			var unknown error
			pg.Plan.Where, err = placeAsked(c)
			pg.Plan.Skill, unknown = s.skillAsked(c)
			err = errors.Join(err, unknown)
		}
		if n, no := strconv.Atoi(c.PostForm("allow_new")); no == nil && n > 0 && n <= mostAllowed {
			pg.Plan.AllowNew = n
		}
		if lean := c.PostForm("character"); lean != "" && err == nil {
			err = edit.Lean(pg.Person.Req, pg.Plan, lean)
		}
		if err == nil {
			var q *plan.Plan
			if q, err = edit.Rebuild(pg.Person.Req, pg.Plan); err == nil {
				pg.Said, err = edit.Rebuilt(pg.Person.Req, pg.Plan, q)
			}
			if err == nil {
				pg.Plan, pg.At, pg.Stale = q, 0, false
				s.keepPlan(c, pg, pg.Said)
				return
			}
		}
		pg.Problem = plainly(err)
		s.showPlan(c, http.StatusUnprocessableEntity, pg)
	})
}

// refreshPlan mends a stale plan.
func (s *Planning) refreshPlan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		said := edit.Mend(pg.Person.Req, pg.Plan)
		pg.Said = "Mended. Nothing had to change"
		if said != nil {
			pg.Said = "Mended: " + strings.Join(said, "; ")
		}
		pg.At, pg.Stale = min(pg.At, max(0, len(pg.Plan.Items)-1)), false
		s.keepPlan(c, pg, pg.Said)
	})
}
