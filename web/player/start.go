package player

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend"
	"restbend/core/edit"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/people"
	"restbend/web/planning"
	"restbend/web/site"
)

type startForm struct {
	*planning.PlanPage
	Signs   site.Signs
	Problem string
	Pain    string
	Unsafe  []string
	Asked   *store.Taught // the last session, when nobody knows how sore it left the client
	Form    people.AfterForm
	Whole   *people.WholeView
	Others  []people.ClientRow // who can be taught together with the client
	Barred  []barred           // what the plan may not be taught with
}

// barred is a remark that stops teaching until it is mended, or overridden with a reason where that may be.
type barred struct {
	plan.Check
	Mends       []edit.Repair
	MayOverride bool
	Why         string // the reason that was typed
}

// longestWhy bounds the reason of an override (product default).
const longestWhy = 200

// barredBy are the remarks that stop a plan from being taught, with what was typed of them; open tells that one of
// them is neither mended nor overridden.
func barredBy(c *gin.Context, pg *planning.PlanPage) (out []barred, open bool) {
	mends := edit.Mends(pg.Person.Req, pg.Plan)
	for _, k := range planning.NotAllowed(pg) {
		if k.Rule == "clinician-limits" { // held against the words in a box of its own
			continue
		}
		b := barred{Check: k, Mends: mends[k.Rule], MayOverride: planning.Overridable(k.Rule)}
		b.Why = strings.TrimSpace(c.PostForm("override." + k.Rule))
		open = open || !b.MayOverride || b.Why == "" || len(b.Why) > longestWhy
		out = append(out, b)
	}
	return out, open
}

// showStart shows the page before a session with what was typed.
func (s *Player) showStart(c *gin.Context, status int, pg *planning.PlanPage, problem string) {
	s.FillPlan(pg, s.Catalogue(c))
	asked, err := s.Unanswered(c, pg.Row.ClientID)
	if err != nil {
		s.Failed(c, err)
		return
	}
	others, err := s.mayJoin(c, pg.Row.ClientID)
	if err != nil {
		s.Failed(c, err)
		return
	}
	stops, _ := barredBy(c, pg)
	s.Render(
		c,
		status,
		"start",
		"",
		"Before the session",
		startForm{
			pg,
			s.SignsFor(pg.Person.Client),
			problem,
			c.PostForm("pain"),
			planning.UnsafeItems(pg),
			asked,
			people.NewAfterForm(c.Request.PostForm, nil),
			s.WholeView(pg.Person),
			others,
			stops,
		},
	)
}

func (s *Player) startPage(c *gin.Context) {
	pg, err := s.LoadPlan(c)
	if pg == nil {
		if err != nil {
			s.Failed(c, err)
		}
		return
	}
	s.showStart(c, http.StatusOK, pg, "")
}

// start opens a session after the red-flag question; a red flag is recorded and stops it.
func (s *Player) start(c *gin.Context) {
	pg, err := s.LoadPlan(c)
	if pg == nil {
		if err != nil {
			s.Failed(c, err)
		}
		return
	}
	if err := c.Request.ParseForm(); err != nil {
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return
	}
	again := func(why string) { s.showStart(c, http.StatusUnprocessableEntity, pg, why) }
	if len(c.PostFormArray("red_flags"))+len(c.PostFormArray("question")) > 0 {
		s.stopForSigns(c, pg)
		return
	}
	if c.PostForm("clear") != "yes" {
		again("Answer the question about warning signs first.")
		return
	}
	if pg.Stale && pg.Taught {
		again("This session was taught already. Mend it first: it then follows what that session decided.")
		return
	}
	if pg.Stale {
		again("This plan is older than what is known of the client now. Mend it first.")
		return
	}
	if planning.UnsafeItems(pg) != nil || pg.Person.Req.Screening.Refer != nil {
		again("This plan holds something that no longer suits. Mend it first.")
		return
	}
	pain, err := site.TypedNumber(c.PostForm("pain"))
	if err != nil || pain < 0 || pain > 10 {
		again(fmt.Sprintf("Pain now: found %q, allowed: 0 to 10.", c.PostForm("pain")))
		return
	}
	if most := progress.StartCap(pain); most > 0 && hardest(pg.Plan) > most {
		if err := s.recordPain(c, pg, pain); err != nil {
			s.Failed(c, err)
			return
		}
		again(
			fmt.Sprintf(
				"Pain of %g at the start: %s today. It is noted; mend the plan, or refer.",
				pain,
				map[bool]string{true: "only breath, relaxation and comfortable positions", false: "only gentle work"}[most == 1],
			),
		)
		return
	}
	if left := planning.Unread(pg); left != nil {
		again("Hold these against the clinician's limits first: " + strings.Join(left, ", ") + ".")
		return
	}
	if _, open := barredBy(c, pg); open {
		again("Something in this plan is not allowed. Mend it, or override it with a reason.")
		return
	}
	if stop := s.answersBefore(c, pg, again); stop {
		return
	}
	if with := c.PostFormArray("with"); len(with) > 0 {
		id, wrong, err := s.beginClass(c, pg, pain, with)
		if err == nil && wrong == "" {
			err = s.keepOverrides(c, pg, id)
		}
		switch {
		case err != nil:
			s.Failed(c, err)
		case wrong != "":
			again(wrong)
		default:
			c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d", id))
		}
		return
	}
	id, err := s.begin(c, pg, pain)
	if err == nil {
		err = s.keepOverrides(c, pg, id)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d", id))
}

// modeAsked is how this one session runs: led, unless it was asked for that it flows.
func modeAsked(c *gin.Context) string {
	if c.PostForm("flow") == "yes" {
		return score.Flowing
	}
	return score.Led
}

// begin opens the session of a plan with its score; one that runs already goes on.
func (s *Player) begin(c *gin.Context, pg *planning.PlanPage, pain float64) (id int64, err error) {
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		return 0, err
	}
	ways, err := restbend.Ways()
	if err != nil {
		return 0, err
	}
	log, err := s.LogOf(c, pg.Row.ClientID)
	if err != nil {
		return 0, err
	}
	sc, err := score.Build(pg.Plan, score.Facts{Catalogue: s.Catalogue(c), Client: pg.Person.Client, Log: log, Ways: ways,
		Mover: pg.Person.Req.Mover(), Mode: modeAsked(c)})
	if err != nil {
		return 0, err
	}
	text, err := json.Marshal(sc)
	if err != nil {
		return 0, err
	}
	id, _, err = s.Store.StartTeaching(
		c,
		store.Taught{
			ClientID:  pg.Row.ClientID,
			PlanID:    sql.NullInt64{Int64: pg.Row.ID, Valid: true},
			Day:       s.Today(),
			Plan:      doc,
			PainStart: sql.NullFloat64{Float64: pain, Valid: true},
			Scores:    []store.Score{{Rev: sc.Rev, Document: text}},
		},
	)
	return id, err
}

// keepOverrides keeps what was overridden, and why, with the session.
func (s *Player) keepOverrides(c *gin.Context, pg *planning.PlanPage, id int64) error {
	over, _ := barredBy(c, pg)
	var notes []record.Mark
	for _, b := range over {
		m := s.newMark(c, record.Note)
		m.Text = fmt.Sprintf("Overridden: %s, %s. Why: %s", strings.ReplaceAll(b.Rule, "-", " "), b.Detail, b.Why)
		notes = append(notes, m)
	}
	if notes == nil {
		return nil
	}
	return s.keepMarks(c, id, false, notes...)
}

// answersBefore takes in what the client says of the time since the last session. It tells that
// nothing begins: an answer was wrong, or what was said asks for a clinician.
func (s *Player) answersBefore(c *gin.Context, pg *planning.PlanPage, again func(string)) (stop bool) {
	t, err := s.Unanswered(c, pg.Row.ClientID)
	if err != nil {
		s.Failed(c, err)
		return true
	}
	if t == nil {
		return false
	}
	wrong, err := s.follow(c, t)
	if err != nil {
		s.Failed(c, err)
		return true
	}
	if wrong != nil {
		again(strings.Join(wrong, "; "))
		return true
	}
	p, err := s.Person(c, pg.Row.ClientID, 30)
	if err != nil {
		s.Failed(c, err)
		return true
	}
	if p.Req.Whole != nil && p.Req.Whole.Decision == trade.Refer {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d", pg.Row.ClientID))
		return true
	}
	return false
}

// hardest is the hardest effort of a plan.
func hardest(p *plan.Plan) (effort int) {
	for i := range p.Items {
		effort = max(effort, p.Items[i].Effort)
	}
	return effort
}

// recordPain notes the pain before a session, so that what is planned now heeds it.
func (s *Player) recordPain(c *gin.Context, pg *planning.PlanPage, pain float64) error {
	cl, err := people.DocumentOf(&pg.Person.Row)
	if err != nil {
		return err
	}
	if cl.Pain == nil {
		cl.Pain = &intake.Pain{Worst: pain}
	}
	cl.Pain.Now, cl.Pain.Worst, cl.Pain.On = pain, max(pain, cl.Pain.Worst), s.Today()
	if err := s.Keep(c, pg.Person.Row, cl, "asked before a session"); err != nil {
		return err
	}
	pg.Stale = true
	return nil
}

func (s *Player) stopForSigns(c *gin.Context, pg *planning.PlanPage) {
	cl, err := people.DocumentOf(&pg.Person.Row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if _, err := s.RecordSigns(c, cl); err != nil {
		s.Failed(c, err)
		return
	}
	row := pg.Person.Row
	if err := s.Keep(c, row, cl, "asked before a session"); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d", row.ID))
}
