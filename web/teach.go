package web

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"restbend"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/teach"
	"restbend/core/trade"
	"restbend/store"
)

type startForm struct {
	*planPage
	Signs   signs
	Problem string
	Pain    string
	Unsafe  []string
	Asked   *store.Taught // the last session, when nobody knows how sore it left the client
	Form    afterForm
	Whole   *wholeView
}

// showStart shows the page before a session with what was typed.
func (s *Server) showStart(c *gin.Context, status int, pg *planPage, problem string) {
	s.fillPlan(pg, s.cat(c))
	asked, err := s.unanswered(c, pg.Row.ClientID)
	if err != nil {
		s.failed(c, err)
		return
	}
	s.render(c, status, "start", "", "Before the session", startForm{pg, s.signsFor(pg.Person.Client), problem, c.PostForm("pain"), unsafeItems(pg), asked, newAfterForm(c.Request.PostForm, nil), s.wholeView(pg.Person)})
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
	s.showStart(c, http.StatusOK, pg, "")
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
	if err := c.Request.ParseForm(); err != nil {
		s.fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
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
	if most := progress.StartCap(pain); most > 0 && hardest(pg.Plan) > most {
		if err := s.recordPain(c, pg, pain); err != nil {
			s.failed(c, err)
			return
		}
		again(fmt.Sprintf("Pain of %g at the start: %s today. It is noted; mend the plan, or refer.", pain, map[bool]string{true: "only breath, relaxation and comfortable positions", false: "only gentle work"}[most == 1]))
		return
	}
	if left := unread(pg); left != nil {
		again("Hold these against the clinician's limits first: " + strings.Join(left, ", ") + ".")
		return
	}
	if stop := s.answersBefore(c, pg, again); stop {
		return
	}
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		s.failed(c, err)
		return
	}
	id, err := s.Store.StartTeaching(c, store.Taught{ClientID: pg.Row.ClientID, PlanID: sql.NullInt64{Int64: pg.Row.ID, Valid: true},
		Day: s.Today(), Plan: doc, PainStart: sql.NullFloat64{Float64: pain, Valid: true}})
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d", id))
}

// answersBefore takes in what the client says of the time since the last session. It tells that
// nothing begins: an answer was wrong, or what was said asks for a clinician.
func (s *Server) answersBefore(c *gin.Context, pg *planPage, again func(string)) (stop bool) {
	t, err := s.unanswered(c, pg.Row.ClientID)
	if err != nil {
		s.failed(c, err)
		return true
	}
	if t == nil {
		return false
	}
	wrong, err := s.follow(c, t)
	if err != nil {
		s.failed(c, err)
		return true
	}
	if wrong != nil {
		again(strings.Join(wrong, "; "))
		return true
	}
	p, err := s.person(c, pg.Row.ClientID, 30)
	if err != nil {
		s.failed(c, err)
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
func (s *Server) recordPain(c *gin.Context, pg *planPage, pain float64) error {
	cl, err := documentOf(&pg.Person.Row)
	if err != nil {
		return err
	}
	if cl.Pain == nil {
		cl.Pain = &safety.Pain{Worst: pain}
	}
	cl.Pain.Now, cl.Pain.Worst, cl.Pain.On = pain, max(pain, cl.Pain.Worst), s.Today()
	if err := s.keep(c, pg.Person.Row, cl, "asked before a session"); err != nil {
		return err
	}
	pg.Stale = true
	return nil
}

func (s *Server) stopForSigns(c *gin.Context, pg *planPage) {
	cl, err := documentOf(&pg.Person.Row)
	if err != nil {
		s.failed(c, err)
		return
	}
	if _, err := s.recordSigns(c, cl); err != nil {
		s.failed(c, err)
		return
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
	cl, err := s.Store.Client(c, s.account(c), t.ClientID)
	if err != nil {
		s.failed(c, err)
		return
	}
	doc, err := documentOf(&cl)
	if err != nil {
		s.failed(c, err)
		return
	}
	sc, err := safety.NewScreener(s.limits(), s.cat(c), doc, s.Today())
	if err != nil {
		s.failed(c, err)
		return
	}
	s.render(c, http.StatusOK, "teach", "teach", "Teach", teachPage{t.ID, sc.Limits(), sc.Wishes()})
}

// teachPage is the player before it has loaded its session.
type teachPage struct {
	ID     int64
	Limits []string // the clinicians' words
	Wishes *safety.Wishes
}

// teachItem is what the page needs of one exercise besides its score.
type teachItem struct {
	Version string   `json:"version"`
	Name    string   `json:"name"`
	Dose    string   `json:"dose"`
	Surface string   `json:"surface"`
	Ease    string   `json:"ease,omitempty"`
	Minds   []string `json:"minds"`
}

// teachWords are what is said and shown in one segment of the score.
type teachWords struct {
	Say   string   `json:"say,omitempty"`
	Count []string `json:"count,omitempty"`
	Shown string   `json:"shown,omitempty"`
	Cue   string   `json:"cue,omitempty"`
}

// scoreOf is the score of a plan that is being taught, with its words: full, key or numbers.
func (s *Server) scoreOf(c *gin.Context, cl *safety.Client, p *plan.Plan, client int64, level string) (*score.Score, []teachWords, error) {
	ways, err := restbend.Ways()
	if err != nil {
		return nil, nil, err
	}
	log, err := s.logOf(c, client)
	if err != nil {
		return nil, nil, err
	}
	sc, err := score.Build(p, score.Facts{Catalogue: s.cat(c), Client: cl, Log: log, Ways: ways})
	if err != nil {
		return nil, nil, err
	}
	if !slices.Contains(score.Levels, level) {
		level = score.Full
	}
	words := make([]teachWords, len(sc.Segments))
	for i := range sc.Segments {
		w := sc.Words(i, sc.LevelFor(sc.Segments[i].Item, level), true)
		words[i] = teachWords{w.Say, w.Count, w.Shown, w.Cue}
	}
	return sc, words, nil
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
	sc, words, err := s.scoreOf(c, &cl, &p, row.ID, c.Query("words"))
	if err != nil {
		s.failed(c, err)
		return
	}
	var items []teachItem
	for i, it := range p.Items {
		v, _ := s.cat(c).Version(it.Version)
		if v == nil {
			continue
		}
		mind := minds(&it, v)
		if b := p.BlockSays(i); b != "" {
			mind = append(mind, b)
		}
		ease := ""
		if len(it.Eases) > 0 {
			ease = it.Eases[0]
		}
		items = append(items, teachItem{v.Slug, v.Name, doseText(it), string(it.Surface), ease, append([]string{}, mind...)})
	}
	limit, start := 0.0, (*float64)(nil)
	if cl.Pain != nil {
		limit = cl.Pain.StopAbove
	}
	if t.PainStart.Valid {
		start = &t.PainStart.Float64
	}
	c.JSON(http.StatusOK, gin.H{"id": t.ID, "client": row.Name, "items": items, "score": sc, "words": words, "state": json.RawMessage(t.State),
		"stop_from": progress.StopFrom(start, limit), "felt": progress.Felt, "build": row.Build, "entries": len(t.Entries), "logged": loggedSides(&t)})
}

func errorsOf(errs ...error) error {
	for _, e := range errs {
		if e != nil {
			return e
		}
	}
	return nil
}

// addEntry stores one entry before it is acknowledged; the same key twice is harmless.
func (s *Server) addEntry(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	var e teach.Entry
	if err := c.ShouldBindJSON(&e); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "entry: " + err.Error(), "kept": "nothing was stored"})
		return
	}
	var p plan.Plan
	if err := json.Unmarshal(t.Plan, &p); err != nil {
		s.failed(c, err)
		return
	}
	why := e.Check(&p)
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
	if t.EndedAt.Valid { // it arrives late: the log takes it in
		if err := s.refold(c, t.ID); err != nil {
			s.failed(c, err)
			return
		}
	}
	do := []string{}
	if slices.Contains(progress.Urgent, e.Felt) {
		do = s.limits().Act(e.Felt)
	}
	c.JSON(http.StatusOK, gin.H{"stored": e.Key, "do": do})
}

// clockMark is what moved the clock of a running session (restbend.marks/1).
type clockMark struct {
	Key     string  `json:"key"`
	Device  string  `json:"device"`
	At      string  `json:"at"`
	Rev     int     `json:"rev"`
	Pos     float64 `json:"pos"`
	Kind    string  `json:"kind"`
	On      bool    `json:"on,omitempty"`
	To      float64 `json:"to,omitempty"`
	From    float64 `json:"from,omitempty"`
	Why     string  `json:"why,omitempty"`
	Because string  `json:"because,omitempty"`
}

// clockState is where a running session is: all that moved its clock, and in which mode.
type clockState struct {
	Segment int         `json:"segment"`
	Mode    string      `json:"mode"`
	Marks   []clockMark `json:"marks"`
}

var clockKinds = []string{"start", "go", "tap", "pause", "resume", "talk", "break", "unseen", "seek", "end"}

// mostMarks bounds the marks of a session.
const mostMarks = 5000

// badMarks says what is wrong with marks, empty when nothing is.
func badMarks(marks []clockMark) string {
	if len(marks) > mostMarks {
		return fmt.Sprintf("found %d, allowed: up to %d", len(marks), mostMarks)
	}
	for i := range marks {
		m := &marks[i]
		if !slices.Contains(clockKinds, m.Kind) {
			return fmt.Sprintf("%d: kind: found %q, allowed: %s", i, m.Kind, strings.Join(clockKinds, ", "))
		}
		if _, err := time.Parse(time.RFC3339, m.At); err != nil || len(m.Key) > 100 || len(m.Device) > 100 || len(m.Why)+len(m.Because) > 100 {
			return fmt.Sprintf("%d: found at %q, allowed: a time, and short words", i, m.At)
		}
	}
	return ""
}

func (s *Server) saveState(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	var state clockState
	if err := c.ShouldBindJSON(&state); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "state: " + err.Error(), "kept": "the earlier place"})
		return
	}
	if why := badMarks(state.Marks); why != "" || state.Mode != "" && state.Mode != score.Led && state.Mode != score.Flowing {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": "marks: " + why, "kept": "the earlier place"})
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

// sessionLog is the log session of a taught session: as it is kept once it has ended, else
// folded from what the player sent so far.
func sessionLog(t *store.Taught) (out progress.Session, err error) {
	if len(t.Log) > len("{}") {
		return out, json.Unmarshal(t.Log, &out)
	}
	out = progress.Session{Date: t.Day, Notes: t.Notes}
	if t.PainStart.Valid {
		out.PainStart = &t.PainStart.Float64
	}
	if t.PainEnd.Valid {
		out.PainEnd = &t.PainEnd.Float64
	}
	if t.SoreSettledH.Valid {
		out.Soreness = &progress.Soreness{Peak: t.SorePeak.Float64, SettledH: t.SoreSettledH.Float64}
	}
	if slices.Contains(progress.Endings, endedBy(t)) {
		out.Ended = endedBy(t)
	}
	var p plan.Plan
	if err := errorsOf(json.Unmarshal(t.RedFlags, &out.RedFlags), json.Unmarshal(t.Plan, &p)); err != nil {
		return out, fmt.Errorf("the session of %s: %w", t.Day, err)
	}
	return out, foldInto(&out, &p, t)
}

// loggedSides are the items and sides that have an entry of what was done.
func loggedSides(t *store.Taught) []string {
	out := []string{}
	for _, row := range t.Entries {
		var e teach.Entry
		if json.Unmarshal(row.Document, &e) == nil && e.Kind == "done" {
			out = append(out, fmt.Sprintf("%d %s", e.Item, e.Side))
		}
	}
	return out
}

// endedBy is why the player was ended before its end, empty when it was not.
func endedBy(t *store.Taught) string {
	var state clockState
	if json.Unmarshal(t.State, &state) != nil || len(state.Marks) == 0 {
		return ""
	}
	return state.Marks[len(state.Marks)-1].Because
}

// foldInto puts what the player sent into a log session.
func foldInto(out *progress.Session, p *plan.Plan, t *store.Taught) error {
	entries := make([]teach.Entry, len(t.Entries))
	for i, row := range t.Entries {
		if err := json.Unmarshal(row.Document, &entries[i]); err != nil {
			return fmt.Errorf("the session of %s, entry %s: %w", t.Day, row.Key, err)
		}
	}
	var notes []string
	out.Items, notes = teach.Fold(p, entries)
	for _, n := range notes {
		if !strings.Contains(out.Notes, n) {
			out.Notes = strings.TrimSpace(out.Notes + "\n" + n)
		}
	}
	return nil
}

// refold takes entries that arrived after the end into the kept log session.
func (s *Server) refold(c *gin.Context, id int64) error {
	t, err := s.Store.Teaching(c, s.account(c), id)
	if err != nil {
		return err
	}
	out, err := sessionLog(&t)
	if err != nil {
		return err
	}
	var p plan.Plan
	if err := errorsOf(json.Unmarshal(t.Plan, &p), foldInto(&out, &p, &t)); err != nil {
		return err
	}
	doc, err := json.Marshal(out)
	if err != nil {
		return err
	}
	return s.Store.SetLog(c, id, doc)
}

// foldOld keeps a log session for every session an older release ended, and closes those that
// still run although a later one was begun: at their last entry, and not confirmed.
func (s *Server) foldOld(ctx context.Context) error {
	rows, err := s.Store.Abandoned(ctx)
	if err != nil {
		return err
	}
	for i := range rows {
		out, err := sessionLog(&rows[i])
		if err != nil {
			return err
		}
		for k := range out.Items {
			out.Items[k].Confirmed = new(bool)
		}
		if rows[i].Log, err = json.Marshal(out); err != nil {
			return err
		}
		if err := s.Store.CloseAbandoned(ctx, rows[i]); err != nil {
			return err
		}
	}
	if rows, err = s.Store.Unfolded(ctx); err != nil {
		return err
	}
	for i := range rows {
		out, err := sessionLog(&rows[i])
		if err != nil {
			return err
		}
		doc, err := json.Marshal(out)
		if err != nil {
			return err
		}
		if err := s.Store.SetLog(ctx, rows[i].ID, doc); err != nil {
			return err
		}
	}
	return nil
}

// logOf reads a client's kept log.
func (s *Server) logOf(ctx context.Context, client int64) (*progress.Log, error) {
	docs, err := s.Store.Logs(ctx, client)
	if err != nil {
		return nil, err
	}
	log := &progress.Log{Format: "restbend.log/1", Sessions: make([]progress.Session, len(docs))}
	for i, doc := range docs {
		if err := json.Unmarshal(doc, &log.Sessions[i]); err != nil {
			return nil, fmt.Errorf("client %d, session %d: %w", client, i+1, err)
		}
	}
	return log, nil
}

type afterPage struct {
	T         store.Taught
	ID        int64
	ClientID  int64
	Name      string
	Session   progress.Session
	Whole     *wholeView
	Decisions []decisionRow
	Form      afterForm
	Ended     bool
}

func (s *Server) after(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	s.showAfter(c, http.StatusOK, t, nil, nil)
}

func (s *Server) showAfter(c *gin.Context, status int, t store.Taught, wrong []string, typed url.Values) {
	p, err := s.person(c, t.ClientID, 30)
	if err != nil {
		s.failed(c, err)
		return
	}
	session, err := sessionLog(&t)
	if err != nil {
		s.failed(c, err)
		return
	}
	pg := afterPage{T: t, ID: t.ID, ClientID: t.ClientID, Name: p.Row.Name, Session: session, Ended: t.EndedAt.Valid}
	if !t.EndedAt.Valid { // decide as if it ended now
		p.Log.Sessions = append(p.Log.Sessions, session)
		p.Req = p.Req.After(p.Log, s.Today())
	}
	pg.Decisions, pg.Whole = decisionRows(s.cat(c), p.Req.Decisions), s.wholeView(p)
	if typed == nil {
		typed = afterValues(&session)
	}
	pg.Form = newAfterForm(typed, wrong)
	s.render(c, status, "after", "", "After the session", pg)
}

// finish closes a session, or takes in what is said of it afterwards. A sign that needs a
// clinician is answered with what to do.
func (s *Server) finish(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	if err := c.Request.ParseForm(); err != nil {
		s.fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return
	}
	session, err := sessionLog(&t)
	if err != nil {
		s.failed(c, err)
		return
	}
	a := &answers{v: c.Request.PostForm}
	a.close(&session, s.Today())
	if a.wrong != nil {
		s.showAfter(c, http.StatusUnprocessableEntity, t, a.wrong, a.v)
		return
	}
	if err := keepLog(&t, &session); err != nil {
		s.failed(c, err)
		return
	}
	if err := s.Store.FinishTeaching(c, t); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d/after", t.ID))
}
