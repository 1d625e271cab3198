package web

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/store"
)

type startForm struct {
	*planPage
	Flags   []safety.RedFlag
	Problem string
	Pain    string
	Unsafe  []string
}

// unsafeItems names the items that no longer suit; such a plan is mended first.
func unsafeItems(pg *planPage) []string {
	var out []string
	for _, k := range pg.Plan.Checks {
		if k.Rule == "safe" && !k.OK {
			out = append(out, k.Detail)
		}
	}
	return out
}

func (s *Server) startPage(c *gin.Context) {
	pg, err := s.loadPlan(c)
	if pg == nil {
		if err != nil {
			s.failed(c, err)
		}
		return
	}
	s.fillPlan(pg, s.cat(c))
	s.render(c, http.StatusOK, "start", "", "Before the session", startForm{pg, s.limits().RedFlags, "", "", unsafeItems(pg)})
}

// start opens a session after the red-flag question; a red flag is recorded and stops it.
func (s *Server) start(c *gin.Context) {
	pg, err := s.loadPlan(c)
	if pg == nil {
		if err != nil {
			s.failed(c, err)
		}
		return
	}
	again := func(why string) {
		s.fillPlan(pg, s.cat(c))
		s.render(c, http.StatusUnprocessableEntity, "start", "", "Before the session", startForm{pg, s.limits().RedFlags, why, c.PostForm("pain"), unsafeItems(pg)})
	}
	if flags := c.PostFormArray("red_flags"); len(flags) > 0 {
		s.recordFlags(c, pg, flags)
		return
	}
	if c.PostForm("clear") != "yes" {
		again("Answer the question about warning signs first.")
		return
	}
	if pg.Stale {
		again("This plan is older than what is known of the client now. Mend it first.")
		return
	}
	if unsafeItems(pg) != nil || pg.Person.Req.Screening.Refer != nil {
		again("This plan holds something that no longer suits. Mend it first.")
		return
	}
	pain, err := typedNumber(c.PostForm("pain"))
	if err != nil || pain < 0 || pain > 10 {
		again(fmt.Sprintf("Pain now: found %q, allowed: 0 to 10.", c.PostForm("pain")))
		return
	}
	if pain >= 7 {
		again("Pain of 7 or more at the start: only breath, relaxation and comfortable positions today. Plan a shorter session of those, or refer.")
		return
	}
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		s.failed(c, err)
		return
	}
	id, err := s.Store.StartTeaching(c, store.Taught{ClientID: pg.Row.ClientID, PlanID: sql.NullInt64{Int64: pg.Row.ID, Valid: true},
		Day: s.Today().Format("2006-01-02"), Plan: doc, PainStart: sql.NullFloat64{Float64: pain, Valid: true}})
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d", id))
}

func (s *Server) recordFlags(c *gin.Context, pg *planPage, flags []string) {
	cl, err := documentOf(&pg.Person.Row)
	if err != nil {
		s.failed(c, err)
		return
	}
	for _, f := range flags {
		known := slices.ContainsFunc(s.limits().RedFlags, func(r safety.RedFlag) bool { return r.Code == f })
		if known {
			cl.Raise(f, s.Today().Format(time.DateOnly))
		}
	}
	row := pg.Person.Row
	if err := s.keep(c, row, cl, "asked before a session"); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d", row.ID))
}

func (s *Server) taught(c *gin.Context) (t store.Taught, ok bool) {
	id, ok := s.id(c)
	if !ok {
		return t, false
	}
	t, err := s.Store.Teaching(c, s.account(c), id)
	if err != nil {
		s.failed(c, err)
		return t, false
	}
	return t, true
}

func (s *Server) teach(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	if t.EndedAt.Valid {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d/after", t.ID))
		return
	}
	s.render(c, http.StatusOK, "teach", "teach", "Teach", t.ID)
}

// teachItem is what the player says about one exercise.
type teachItem struct {
	Version   string   `json:"version"`
	Name      string   `json:"name"`
	Setup     []string `json:"setup"`
	In        string   `json:"in"`
	Out       string   `json:"out"`
	Image     string   `json:"image"`
	Faults    []string `json:"faults"`
	Stop      []string `json:"stop"`
	Dose      string   `json:"dose"`
	Sided     bool     `json:"sided"`
	SideMeans string   `json:"side_means"`
	Hold      int      `json:"hold_s"`
	Breaths   int      `json:"hold_breaths"`
	Rate      float64  `json:"rate,omitempty"`    // breaths a minute of the work's own
	Shaking   string   `json:"shaking,omitempty"` // what trembling means
	Effort    int      `json:"effort"`            // the phase that shows it, from 0
	Props     []string `json:"props"`
	Surface   string   `json:"surface"`
	Ease      string   `json:"ease,omitempty"`
	Minds     []string `json:"minds"`
}

func (s *Server) teachData(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	row, err := s.Store.Client(c, s.account(c), t.ClientID)
	if err != nil {
		s.failed(c, err)
		return
	}
	var cl safety.Client
	var p plan.Plan
	if err := errorsOf(json.Unmarshal(row.Document, &cl), json.Unmarshal(t.Plan, &p)); err != nil {
		s.failed(c, err)
		return
	}
	rate := cl.BreathRate
	if rate == 0 {
		rate = 12
	}
	var items []teachItem
	for _, it := range p.Items {
		v, _ := s.cat(c).Version(it.Version)
		if v == nil {
			continue
		}
		ease := ""
		if len(it.Eases) > 0 {
			ease = it.Eases[0]
		}
		items = append(items, teachItem{v.Slug, v.Name, v.Setup, v.Cues.In, v.Cues.Out, v.Cues.Image, v.FaultSays(), v.Stop, doseText(it), v.SideMode != "none", v.SideMeans,
			it.Dose.HoldSeconds(rate), it.Dose.HoldBreaths, it.Dose.Rate, catalogue.Shaking[v.Shaking], v.EffortPhase(), append([]string{it.Surface}, it.Kit...), it.Surface, ease, append([]string{}, minds(&it, v)...)})
	}
	stop := 5.0
	if cl.Pain != nil && cl.Pain.StopAbove > 0 {
		stop = cl.Pain.StopAbove
	}
	if t.PainStart.Valid {
		stop = min(stop, t.PainStart.Float64+2)
	}
	c.JSON(http.StatusOK, gin.H{"id": t.ID, "client": row.Name, "rate": rate, "items": items, "segments": plan.Segments(&p, rate), "state": json.RawMessage(t.State),
		"stop_above": stop, "build": row.Build, "entries": len(t.Entries)})
}

func errorsOf(errs ...error) error {
	for _, e := range errs {
		if e != nil {
			return e
		}
	}
	return nil
}

// entry is one line of the log as the player sends it.
type entry struct {
	Key   string           `json:"key"`
	Kind  string           `json:"kind"` // done, form, symptom, pain, ease or skip
	Item  int              `json:"item"`
	Side  string           `json:"side"`
	Rep   int              `json:"rep"`
	S     float64          `json:"s"`
	Pain  *float64         `json:"pain"`
	Where string           `json:"where"`
	Done  *progress.Amount `json:"done"`
	Ended string           `json:"ended_by"`
}

var entryKinds = []string{"done", "form", "symptom", "pain", "ease", "skip"}

// addEntry stores one entry before it is acknowledged; the same key twice is harmless.
func (s *Server) addEntry(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	var e entry
	if err := c.ShouldBindJSON(&e); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "entry: " + err.Error(), "kept": "nothing was stored"})
		return
	}
	var p plan.Plan
	if err := json.Unmarshal(t.Plan, &p); err != nil {
		s.failed(c, err)
		return
	}
	why := ""
	switch {
	case e.Key == "" || len(e.Key) > 100:
		why = "key: give one of up to 100 characters"
	case !slices.Contains(entryKinds, e.Kind):
		why = fmt.Sprintf("kind: found %q, allowed: %s", e.Kind, strings.Join(entryKinds, ", "))
	case e.Item < 0 || e.Item >= len(p.Items):
		why = fmt.Sprintf("item: found %d, allowed: 0 to %d", e.Item, len(p.Items)-1)
	case e.Pain != nil && (*e.Pain < 0 || *e.Pain > 10):
		why = fmt.Sprintf("pain: found %v, allowed: 0 to 10", *e.Pain)
	}
	if why != "" {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": why, "kept": "nothing was stored"})
		return
	}
	doc, err := json.Marshal(e)
	if err != nil {
		s.failed(c, err)
		return
	}
	if err := s.Store.AddEntry(c, t.ID, store.Entry{Key: e.Key, Kind: e.Kind, Document: doc}); err != nil {
		s.failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"stored": e.Key})
}

func (s *Server) saveState(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	var state struct {
		Segment int     `json:"segment"`
		Elapsed float64 `json:"elapsed"`
	}
	if err := c.ShouldBindJSON(&state); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "state: " + err.Error(), "kept": "the earlier place"})
		return
	}
	doc, err := json.Marshal(state)
	if err != nil {
		s.failed(c, err)
		return
	}
	if err := s.Store.SaveState(c, t.ID, doc); err != nil {
		s.failed(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// sessionLog folds a session's entries into the log format: one item per exercise and
// side, with what was seen and felt.
func sessionLog(t *store.Taught) progress.Session {
	out := progress.Session{Date: t.Day, Notes: t.Notes}
	if t.PainStart.Valid {
		out.PainStart = &t.PainStart.Float64
	}
	if t.PainEnd.Valid {
		out.PainEnd = &t.PainEnd.Float64
	}
	if t.SoreSettledH.Valid {
		out.Soreness = &progress.Soreness{Peak: t.SorePeak.Float64, SettledH: t.SoreSettledH.Float64}
	}
	_ = json.Unmarshal(t.RedFlags, &out.RedFlags) // the column is checked JSON; an empty list otherwise
	var p plan.Plan
	if json.Unmarshal(t.Plan, &p) != nil {
		return out
	}
	at := map[string]int{}
	for _, row := range t.Entries {
		var e entry
		if json.Unmarshal(row.Document, &e) != nil || e.Item < 0 || e.Item >= len(p.Items) {
			continue
		}
		it := &p.Items[e.Item]
		key := fmt.Sprintf("%d %s", e.Item, e.Side)
		if _, ok := at[key]; !ok {
			at[key] = len(out.Items)
			d := it.Dose
			target := progress.Amount{Sets: d.SetCount(), Reps: d.Reps, HoldS: d.HoldS + d.HoldCounts, HoldBreaths: d.HoldBreaths}
			if len(d.Pattern) > 0 {
				target.Sets, target.Reps = 1, d.TotalReps()
			}
			out.Items = append(out.Items, progress.Item{Version: it.Version, Revision: it.Revision, Side: e.Side, Target: target})
		}
		foldEntry(&out.Items[at[key]], &e)
	}
	return out
}

func foldEntry(it *progress.Item, e *entry) {
	switch e.Kind {
	case "done":
		if e.Done != nil {
			it.Done = *e.Done
		}
		if it.EndedBy == "" {
			it.EndedBy = e.Ended
		}
	case "form":
		it.EndedBy, it.FormLostS = "form", &e.S
		it.Seen = append(it.Seen, "form lost")
	case "symptom":
		it.EndedBy = "symptom"
		it.Felt = append(it.Felt, "symptom")
		if e.Rep > 0 {
			it.SymptomRep = &e.Rep
		} else {
			it.SymptomS = &e.S
		}
	case "pain":
		it.Felt = append(it.Felt, "pain")
		if e.Pain != nil {
			it.Pain, it.Where = e.Pain, e.Where
		}
	case "ease":
		it.Seen = append(it.Seen, "eased")
	case "skip":
		it.EndedBy = "choice"
		it.Seen = append(it.Seen, "skipped")
	}
}

type afterPage struct {
	T                             store.Taught
	ID                            int64
	ClientID                      int64
	Name                          string
	Session                       progress.Session
	Decisions                     []decisionRow
	Problem                       string
	Ended                         bool
	PainEnd, Peak, Settled, Notes string
}

func (s *Server) after(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	s.showAfter(c, http.StatusOK, t, "", nil)
}

func (s *Server) showAfter(c *gin.Context, status int, t store.Taught, problem string, typed map[string]string) {
	p, err := s.person(c, t.ClientID, 30)
	if err != nil {
		s.failed(c, err)
		return
	}
	pg := afterPage{T: t, ID: t.ID, ClientID: t.ClientID, Name: p.Row.Name, Session: sessionLog(&t), Problem: problem, Ended: t.EndedAt.Valid, Notes: t.Notes}
	if !t.EndedAt.Valid { // decide as if it ended now
		p.Log.Sessions = append(p.Log.Sessions, pg.Session)
		p.Req.Decisions = p.Req.Decide(p.Log, s.Today())
	}
	pg.Decisions = decisionRows(s.cat(c), p.Req.Decisions)
	text := func(n sql.NullFloat64) string {
		if !n.Valid {
			return ""
		}
		return strconv.FormatFloat(n.Float64, 'f', -1, 64)
	}
	pg.PainEnd, pg.Peak, pg.Settled = text(t.PainEnd), text(t.SorePeak), text(t.SoreSettledH)
	if typed != nil {
		pg.PainEnd, pg.Peak, pg.Settled, pg.Notes = typed["pain_end"], typed["peak"], typed["settled"], typed["notes"]
	}
	s.render(c, status, "after", "", "After the session", pg)
}

func (s *Server) finish(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	typed := map[string]string{"pain_end": c.PostForm("pain_end"), "peak": c.PostForm("peak"), "settled": c.PostForm("settled"), "notes": c.PostForm("notes")}
	var wrong []string
	number := func(name, label string, most float64) sql.NullFloat64 {
		v := strings.TrimSpace(typed[name])
		if v == "" {
			return sql.NullFloat64{}
		}
		f, err := typedNumber(v)
		if err != nil || f < 0 || f > most {
			wrong = append(wrong, fmt.Sprintf("%s: found %q, allowed: 0 to %v", label, v, most))
		}
		return sql.NullFloat64{Float64: f, Valid: true}
	}
	t.PainEnd = number("pain_end", "Pain at the end", 10)
	t.SorePeak = number("peak", "Soreness", 10)
	t.SoreSettledH = number("settled", "Settled after", 400)
	if t.SorePeak.Valid && !t.SoreSettledH.Valid {
		wrong = append(wrong, "Settled after: give the hours, or leave both empty")
	}
	if len(typed["notes"]) > 4000 {
		wrong = append(wrong, "Notes: at most 4000 characters")
	}
	if wrong != nil {
		s.showAfter(c, http.StatusUnprocessableEntity, t, strings.Join(wrong, "; "), typed)
		return
	}
	t.Notes, t.RedFlags = typed["notes"], []byte("[]")
	if err := s.Store.FinishTeaching(c, t); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d/after", t.ID))
}
