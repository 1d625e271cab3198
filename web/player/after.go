package player

import (
	"crypto/rand"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/store"
	"restbend/teaching"
	"restbend/web/people"
	"restbend/web/planning"
	"restbend/web/site"
)

// afterPage is a session that has ended, or is about to.
type afterPage struct {
	T           store.Taught
	ID          int64
	ClientID    int64
	Name        string
	Session     progress.Session
	Lines       []afterLine
	Unconfirmed int
	Unreached   int
	Whole       *people.WholeView
	Next        []nextGroup // of what was done, in the order done
	NextOthers  []nextGroup // of what was not
	Form        people.AfterForm
	Ended       bool
	Open        int // the line whose correction stands open, -1 for none
	Said        string
	Class       []people.TodayRow // the others of a class
}

// nextGroup is what one reason decides for next time, of one exercise or of several.
type nextGroup struct {
	people.DecisionRow
	Rows []people.DecisionRow
}

// nextGroups puts decisions in the order in which their exercises were done, each reason said once: those of what was
// done in a session, and the others.
func nextGroups(session *progress.Session, rows []people.DecisionRow) (done, others []nextGroup) {
	place := func(version string) int {
		i := slices.IndexFunc(session.Items, func(it progress.Item) bool { return it.Version == version && it.Begun() })
		if i < 0 {
			return len(session.Items)
		}
		return i
	}
	rows = slices.Clone(rows)
	slices.SortStableFunc(rows, func(a, b people.DecisionRow) int { return place(a.Version) - place(b.Version) })
	for _, d := range rows {
		list := &done
		if place(d.Version) == len(session.Items) {
			list = &others
		}
		i := slices.IndexFunc(*list, func(g nextGroup) bool {
			return g.Decision.Decision == d.Decision.Decision && g.Because == d.Because && g.Rule == d.Rule && g.Change == d.Change
		})
		if i < 0 {
			*list = append(*list, nextGroup{d, nil})
			i = len(*list) - 1
		}
		(*list)[i].Rows = append((*list)[i].Rows, d)
	}
	return done, others
}

// afterLine is one line of the log, with what can be corrected in it.
type afterLine struct {
	N int
	*progress.Item
	Name      string
	Asked     string
	Did       string
	Reached   bool
	Confirmed bool
	Heavier   string          // than last time
	Offer     progress.Amount // what a correction begins from
	Changes   []string        // corrections in words
	Eased     string          // what its ease changed, in a few words
}

// Word is what was said of a version for next time.
func (p afterPage) Word(version string) string {
	for i := range p.Session.Items {
		if it := &p.Session.Items[i]; it.Version == version && it.Begun() {
			return it.Next
		}
	}
	return ""
}

// OpenUnreached tells that a line that was not reached stands open.
func (p afterPage) OpenUnreached() bool {
	return p.Open >= 0 && p.Open < len(p.Lines) && !p.Lines[p.Open].Reached
}

// correctedWords are the fields of a line as people say them.
var correctedWords = map[string]string{
	"done.sets":         "sets",
	"done.reps":         "repetitions",
	"done.hold_s":       "seconds",
	"done.hold_breaths": "breaths",
	"ended_by":          "ended by",
	"form_lost_s":       "form lost at, seconds",
	"symptom_at_rep":    "symptom at",
	"symptom_at_s":      "symptom at, seconds",
	"symptom_at_set":    "symptom in set",
	"warning_at_rep":    "warning at",
	"warning_at_s":      "warning at, seconds",
	"warning_at_set":    "warning in set",
	"sets_done":         "set by set",
	"next":              "next time",
}

// changeWords are corrections in words: what it was, what it is, who said so and when.
func changeWords(list []progress.Correction, zone *time.Location) (out []string) {
	say := func(v any) string {
		switch v := v.(type) {
		case nil:
			return "nothing"
		case bool:
			return map[bool]string{true: "yes", false: "no"}[v]
		case string:
			return map[string]string{"": "nothing"}[v] + strings.ReplaceAll(v, "-", " ")
		case map[string]any:
			if cm, ok := v["surface_cm"]; ok {
				return fmt.Sprintf("%v cm", cm)
			}
			return "as measured"
		}
		return strings.Trim(fmt.Sprint(v), "[]")
	}
	for _, c := range list {
		name, ok := correctedWords[c.Field]
		if !ok {
			name = strings.ReplaceAll(c.Field, "_", " ")
		}
		text := fmt.Sprintf("%s: %s → %s", name, say(c.From), say(c.To))
		if c.By != "" {
			text += ", by " + c.By
		}
		if at, err := time.Parse(time.RFC3339, c.At); err == nil {
			text += at.In(zone).Format(", 2006-01-02 15:04")
		}
		if c.Why != "" {
			text += " (" + c.Why + ")"
		}
		out = append(out, text)
	}
	return out
}

// newMark is a mark made on the server, for whoever is signed in.
func (s *Player) newMark(c *gin.Context, kind string) record.Mark {
	return record.Mark{Key: rand.Text(), Device: "page", By: s.Who(c), At: time.Now().UTC(), Kind: kind}
}

// keepMarks stores marks made on the server, and ends the session with them.
func (s *Player) keepMarks(c *gin.Context, id int64, end bool, marks ...record.Mark) error {
	add := s.marking()
	add.Close = end
	last, err := s.Store.MarksAfter(c, id, 0)
	if err != nil {
		return err
	}
	bounds, _, err := s.bounds(c, id)
	if err != nil {
		return err
	}
	for i := range marks {
		if why := marks[i].Problem(bounds); why != "" {
			return exchange.Problems{{Path: marks[i].Kind, Text: why}}
		}
		if n := len(last); n > 0 { // a device whose clock is ahead: what is said now was said after it
			if at := teaching.MadeAt(&last[n-1]); !marks[i].At.After(at) {
				marks[i].At = at.Add(time.Duration(i+1) * time.Millisecond)
			}
		}
		row, err := teaching.Stored(&marks[i])
		if err != nil {
			return err
		}
		add.Marks = append(add.Marks, row)
	}
	_, err = s.Store.AddMarks(c, s.Account(c), id, add)
	return err
}

func (s *Player) after(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	s.showAfter(c, http.StatusOK, &t, nil, nil)
}

func (s *Player) showAfter(c *gin.Context, status int, t *store.Taught, wrong []string, typed url.Values) {
	p, err := s.Person(c, t.ClientID, 30)
	if err != nil {
		s.Failed(c, err)
		return
	}
	session, err := teaching.Session(t, time.Now())
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg := afterPage{
		T:        *t,
		ID:       t.ID,
		ClientID: t.ClientID,
		Name:     p.Row.Name,
		Session:  session,
		Ended:    t.EndedAt.Valid,
		Open:     -1,
		Said:     c.Query("said"),
	}
	if n, err := strconv.Atoi(c.Query("line")); err == nil {
		pg.Open = n
	}
	if t.Class != "" {
		rows, err := s.Store.ClassOf(c, s.Account(c), t.Class)
		if err != nil {
			s.Failed(c, err)
			return
		}
		for i := range rows {
			if row, err := s.Store.Client(c, s.Account(c), rows[i].ClientID); err == nil && rows[i].ID != t.ID {
				pg.Class = append(pg.Class, people.TodayRow{ID: rows[i].ID, Name: row.Name, Taught: rows[i].EndedAt.Valid})
			}
		}
	}
	k, err := teaching.Read(t)
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg.Lines = s.afterLines(c, &session, p.Log, k.Score)
	for i := range pg.Lines {
		switch {
		case !pg.Lines[i].Reached:
			pg.Unreached++
		case !pg.Lines[i].Confirmed:
			pg.Unconfirmed++
		}
	}
	if !t.EndedAt.Valid { // decide as if it ended now
		p.Log.Sessions = append(p.Log.Sessions, session)
		p.Req = p.Req.After(p.Log, s.Today())
	}
	pg.Whole = s.WholeView(p)
	pg.Next, pg.NextOthers = nextGroups(&session, people.DecisionRows(s.Catalogue(c), p.Req.Decisions))
	if typed == nil {
		typed = people.AfterValues(&session)
	}
	pg.Form = people.NewAfterForm(typed, wrong)
	s.Render(c, status, "after", "", "After the session", pg)
}

// afterLines are the lines of a session as people read them.
func (s *Player) afterLines(c *gin.Context, session *progress.Session, log *progress.Log, sc *score.Score) []afterLine {
	out := make([]afterLine, len(session.Items))
	for i := range session.Items {
		it := &session.Items[i]
		l := afterLine{
			N:         i,
			Item:      it,
			Name:      strings.ReplaceAll(it.Version, "-", " "),
			Asked:     it.Target.Words(it.Target),
			Did:       it.Did(),
			Reached:   it.Begun(),
			Confirmed: it.Confirmed == nil || *it.Confirmed,
			Offer:     it.Done,
			Changes:   changeWords(it.Corrections, s.Zone.Load()),
		}
		if it.Done.Reps == 0 { // a repetition that is corrected in was as long as asked
			l.Offer.Sets, l.Offer.HoldS, l.Offer.HoldBreaths = it.Target.Sets, it.Target.HoldS, it.Target.HoldBreaths
		}
		if v, ok := s.Catalogue(c).Version(it.Version); ok {
			l.Name, l.Eased = v.Name, easedIn(sc, v)
		}
		if before := log.LoadBefore(session.Date, it); before != nil {
			l.Heavier = progress.Heavier(before, it.Load)
		}
		out[i] = l
	}
	return out
}

// easedIn is how an exercise was eased in a session, in a few words; empty when it was done in full.
func easedIn(sc *score.Score, v *catalogue.Version) string {
	if sc == nil {
		return ""
	}
	for i := range slices.Backward(sc.Items) {
		if it := &sc.Items[i]; it.Version == v.Slug && len(it.Eases) > 0 {
			return v.EaseShort(catalogue.Doing{Side: it.Side, Ease: it.Eases[0], EasedSide: it.EasedSide})
		}
	}
	return ""
}

// read reads a session and a form about it.
func (s *Player) read(c *gin.Context) (t store.Taught, k teaching.Kept, session progress.Session, ok bool) {
	if t, ok = s.taught(c); !ok {
		return t, k, session, false
	}
	if err := c.Request.ParseForm(); err != nil {
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return t, k, session, false
	}
	k, err := teaching.Read(&t)
	if err == nil {
		session, err = teaching.Session(&t, time.Now())
	}
	if err != nil {
		s.Failed(c, err)
	}
	return t, k, session, err == nil
}

// finish closes a session, or takes in what is said of it afterwards. A sign that needs a clinician is answered
// with what to do.
func (s *Player) finish(c *gin.Context) {
	t, k, session, ok := s.read(c)
	if !ok {
		return
	}
	marks, wrong := s.saidAfter(c, &t, &k, &session)
	if wrong != nil {
		s.showAfter(c, http.StatusUnprocessableEntity, &t, wrong, c.Request.PostForm)
		return
	}
	if err := s.keepMarks(c, t.ID, true, marks...); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d/after", t.ID))
}

// saidAfter are the marks of what a form says of a session: its end, and once it has ended corrections.
func (s *Player) saidAfter(
	c *gin.Context,
	t *store.Taught,
	k *teaching.Kept,
	session *progress.Session,
) (out []record.Mark, wrong []string) {
	a := &people.Answers{V: c.Request.PostForm}
	pain := a.Number("pain_end", "Pain at the end", 10)
	because := a.One("ended", "Why it ended", progress.Endings)
	felt := a.Felt(len(session.Items))
	follow := a.FollowUp(s.Today())
	notes := strings.TrimSpace(strings.ReplaceAll(a.V.Get("notes"), "\r\n", "\n"))
	if len(notes) > 4000 {
		a.Wrong = append(a.Wrong, "Notes: at most 4000 characters")
	}
	if a.V.Has("base_notes") { // what was on the form, whatever is kept by now
		notes = unlessTouched(
			a,
			"Notes",
			strings.TrimSpace(strings.ReplaceAll(a.V.Get("base_notes"), "\r\n", "\n")),
			session.Notes,
			notes,
		)
		because = unlessTouched(a, "Why it ended", a.V.Get("base_ended"), session.Ended, because)
		kept := numberText(session.PainEnd)
		if unlessTouched(a, "Pain at the end", a.V.Get("base_pain_end"), kept, numberText(pain)) == kept {
			pain = session.PainEnd
		}
	}
	if a.Wrong != nil {
		return nil, a.Wrong
	}
	mark := func(kind string) *record.Mark {
		m := s.newMark(c, kind)
		if k.Score != nil {
			m.Pos, m.Rev = record.Position(k.Score, k.Marks, time.Now()), k.Score.Rev
		}
		out = append(out, m)
		return &out[len(out)-1]
	}
	correct := func(field string, from, to any) *record.Mark {
		m := mark(record.Correct)
		m.Field = field
		m.From, _ = json.Marshal(from) // numbers and words: it cannot fail
		m.To, _ = json.Marshal(to)
		return m
	}
	if t.EndedAt.Valid || k.Score == nil {
		if !same(pain, session.PainEnd) {
			correct("pain_end", session.PainEnd, pain)
		}
		if because != session.Ended {
			correct("ended_because", session.Ended, because)
		}
	} else {
		m := mark(record.End)
		m.Because, m.Pain = because, pain
	}
	if notes != session.Notes {
		correct("notes", session.Notes, notes)
	}
	for _, f := range felt {
		it := &session.Items[f.Line]
		if slices.Contains(it.Felt, f.Word) {
			continue
		}
		it.Felt = append(slices.Clone(it.Felt), f.Word)
		m := correct("felt", nil, it.Felt)
		k.Name(f.Line, m)
	}
	if follow != nil {
		mark(record.FollowUp).FollowUp = follow
	}
	return out, nil
}

// unlessTouched is what a field becomes: what was typed when it was changed here, what is kept now when it was not.
// When both changed it, it is wrong, and says what is kept.
func unlessTouched(a *people.Answers, name, base, now, typed string) string {
	switch {
	case typed == base:
		return now
	case now != base && now != typed:
		if now == "" {
			now = "nothing"
		}
		a.Wrong = append(
			a.Wrong,
			fmt.Sprintf(
				"%s: somebody changed it meanwhile. Kept now: %s. Yours stands below; save again to put it in its place",
				name,
				site.AtMost(now, 500),
			),
		)
	}
	return typed
}

// numberText is a number as a form has it, empty for none.
func numberText(f *float64) string {
	if f == nil {
		return ""
	}
	return strconv.FormatFloat(*f, 'g', -1, 64)
}

func same(a, b *float64) bool { return a == b || a != nil && b != nil && *a == *b }

// correct changes lines of the log in place; each change is kept with who made it and when.
func (s *Player) correct(c *gin.Context) {
	t, k, session, ok := s.read(c)
	if !ok {
		return
	}
	var marks []record.Mark
	var wrong []string
	back := fmt.Sprintf("/teach/%d/after", t.ID)
	switch {
	case c.PostForm("line") == "all": // what nobody confirmed was done
		for i := range session.Items {
			if it := &session.Items[i]; it.Begun() && it.Confirmed != nil && !*it.Confirmed {
				m := s.correction(c, &k, i, "confirmed", false, true)
				marks = append(marks, m)
			}
		}
	default:
		line, err := strconv.Atoi(c.PostForm("line"))
		if err != nil || line < 0 || line >= len(session.Items) {
			s.Fail(
				c,
				http.StatusUnprocessableEntity,
				fmt.Sprintf("line: found %q, allowed: 0 to %d", c.PostForm("line"), len(session.Items)-1),
				"Nothing was changed.",
			)
			return
		}
		marks, wrong = s.corrections(c, &k, &session, line)
		back = fmt.Sprintf("%s?line=%d#line-%d", back, line, line)
	}
	for i := range marks {
		if why := record.CorrectionProblem(session, k.Line(&session, &marks[i]), &marks[i]); why != "" {
			wrong = append(wrong, why)
		}
	}
	if wrong != nil {
		s.showAfter(c, http.StatusUnprocessableEntity, &t, wrong, nil)
		return
	}
	if err := s.keepMarks(c, t.ID, false, marks...); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

// correction is a mark that sets a field of a line.
func (s *Player) correction(c *gin.Context, k *teaching.Kept, line int, field string, from, to any) record.Mark {
	m := s.newMark(c, record.Correct)
	k.Name(line, &m)
	m.Field, m.Why = field, c.PostForm("why")
	m.From, _ = json.Marshal(from) // numbers and words: it cannot fail
	m.To, _ = json.Marshal(to)
	return m
}

// corrections are what a form changes in a line.
func (s *Player) corrections(
	c *gin.Context,
	k *teaching.Kept,
	session *progress.Session,
	line int,
) (out []record.Mark, wrong []string) {
	it := &session.Items[line]
	if len(c.PostForm("why")) > 100 {
		return nil, []string{"Why: at most 100 characters"}
	}
	reps := it.Done.Reps
	if n, err := strconv.Atoi(strings.TrimSpace(c.PostForm("done.reps"))); err == nil {
		reps = n
	}
	put := func(field string, from, to any) { out = append(out, s.correction(c, k, line, field, from, to)) }
	for _, f := range []struct {
		name string
		from int
	}{
		{"done.sets", it.Done.Sets},
		{"done.reps", it.Done.Reps},
		{"done.hold_s", it.Done.HoldS},
		{"done.hold_breaths", it.Done.HoldBreaths},
	} {
		text := strings.TrimSpace(c.PostForm(f.name))
		if text == "" && it.Done.Reps == 0 && reps > 0 { // a repetition that is corrected in was as long as asked
			text = map[string]string{"done.sets": "1", "done.hold_s": strconv.Itoa(it.Target.HoldS),
				"done.hold_breaths": strconv.Itoa(it.Target.HoldBreaths)}[f.name]
		}
		if text == "" {
			continue
		}
		n, err := strconv.Atoi(text)
		if err != nil {
			wrong = append(wrong, fmt.Sprintf("%s: found %q, allowed: a whole number", f.name, text))
		} else if n != f.from && (reps > 0 || f.name == "done.reps") { // of nothing done there is no length
			put(f.name, f.from, n)
		}
	}
	for _, f := range []struct{ name, from string }{{"ended_by", it.EndedBy}, {"next", it.Next},
		{"side", string(it.Side)}, {"helped", it.Helped}} {
		if v, given := c.GetPostForm(f.name); given && v != f.from {
			put(f.name, f.from, v)
		}
	}
	if v, given := c.GetPostForm("surface_cm"); given {
		out, wrong = s.correctHeight(c, k, it, line, v, out, wrong)
	}
	if c.PostForm("done_reached") == "yes" && !it.Begun() {
		put("reached", false, true)
	}
	if c.PostForm("confirm") == "yes" && it.Confirmed != nil && !*it.Confirmed {
		put("confirmed", false, true)
	}
	if !it.Begun() && len(out) > 0 && c.PostForm("done_reached") == "" &&
		slices.ContainsFunc(out, func(m record.Mark) bool { return strings.HasPrefix(m.Field, "done.") }) {
		put("reached", false, true)
	}
	return out, wrong
}

// correctHeight changes the height of the surface a line was done at.
func (s *Player) correctHeight(
	c *gin.Context,
	k *teaching.Kept,
	it *progress.Item,
	line int,
	v string,
	out []record.Mark,
	wrong []string,
) ([]record.Mark, []string) {
	var load progress.Load
	if it.Load != nil {
		load = *it.Load
	}
	if strings.TrimSpace(v) == "" {
		v = "0"
	}
	n, err := site.TypedNumber(v)
	if err != nil {
		return out, append(wrong, fmt.Sprintf("Height: found %q, allowed: centimetres", v))
	}
	if n == load.SurfaceCM {
		return out, wrong
	}
	load.SurfaceCM = n
	return append(out, s.correction(c, k, line, "load", it.Load, load)), wrong
}

// nextWord keeps what the instructor says of a line, or of the whole session, for next time.
func (s *Player) nextWord(c *gin.Context) {
	t, k, session, ok := s.read(c)
	if !ok {
		return
	}
	word := c.PostForm("word")
	if !slices.Contains([]string{"", progress.SameAgain, progress.NotAgain}, word) {
		s.Fail(
			c,
			http.StatusUnprocessableEntity,
			fmt.Sprintf("word: found %q, allowed: same, not", word),
			"Nothing was changed.",
		)
		return
	}
	version := c.PostForm("version")
	var marks []record.Mark
	for i := range session.Items {
		if it := &session.Items[i]; it.Begun() && (version == "" || it.Version == version) && it.Next != word {
			marks = append(marks, s.correction(c, &k, i, "next", it.Next, word))
		}
	}
	if err := s.keepMarks(c, t.ID, false, marks...); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d/after#next", t.ID))
}

// todayPage is the start of the day.
type todayPage struct {
	Day     trade.Day
	Open    []people.TodayRow
	Asks    []people.TodayRow
	Planned []people.TodayRow
	Refer   []people.TodayRow
	Form    people.AfterForm
	Any     bool

	Pending             int // clients still looked at
	MoreRefer, MoreAsks int // that are not shown
}

// startOfDay shows who waits for what: sessions still open, answers due about the last one, plans of the day and
// referrals.
func (s *Player) startOfDay(c *gin.Context) {
	today := s.Today()
	pg := todayPage{Day: today, Form: people.NewAfterForm(nil, nil)}
	rows, holds, pending, err := s.StandingsOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg.Any, pg.Pending = len(rows) > 0, pending
	for i, k := range holds {
		if k == nil {
			continue
		}
		if k.Refer {
			pg.Refer = append(pg.Refer, people.TodayRow{ClientID: rows[i].ID, Name: rows[i].Name})
		}
		if k.Ask != nil && k.Ask.Day.Before(today) {
			pg.Asks = append(pg.Asks, *k.Ask)
		}
	}
	slices.SortStableFunc(pg.Asks, func(a, b people.TodayRow) int { // the freshest memory first
		switch {
		case a.Day.After(b.Day):
			return -1
		case b.Day.After(a.Day):
			return 1
		}
		return 0
	})
	pg.MoreRefer, pg.MoreAsks = max(0, len(pg.Refer)-mostRefer), max(0, len(pg.Asks)-mostAsks)
	pg.Refer, pg.Asks = pg.Refer[:min(len(pg.Refer), mostRefer)], pg.Asks[:min(len(pg.Asks), mostAsks)]
	open, err := s.Store.OpenSessions(c, s.Account(c))
	if err != nil {
		s.Failed(c, err)
		return
	}
	for _, t := range open {
		pg.Open = append(pg.Open, people.TodayRow{ID: t.ID, ClientID: t.ClientID, Name: t.Notes})
	}
	plans, names, err := s.Store.PlansOf(c, s.Account(c), today)
	if err != nil {
		s.Failed(c, err)
		return
	}
	for i := range plans {
		var cs planning.CourseSession
		cs.Read(plans[i].Document)
		pg.Planned = append(
			pg.Planned,
			people.TodayRow{
				ID:       plans[i].ID,
				ClientID: plans[i].ClientID,
				Name:     names[i],
				Minutes:  cs.Minutes,
				Taught:   plans[i].Taught,
			},
		)
	}
	s.Render(c, http.StatusOK, "today", "", "Today", pg)
}

// Lists of the start of the day show so many; how many more there are is said.
const (
	mostRefer = 60
	mostAsks  = 20
)

// saveFollowUp keeps what a client says of the time since a session.
func (s *Player) saveFollowUp(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	if !t.EndedAt.Valid {
		s.Fail(c, http.StatusConflict, "This session is still open", "Close it first.")
		return
	}
	if err := c.Request.ParseForm(); err != nil {
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return
	}
	wrong, err := s.follow(c, &t)
	switch {
	case err != nil:
		s.Failed(c, err)
	case wrong != nil:
		s.Fail(c, http.StatusUnprocessableEntity, strings.Join(wrong, "; "), "Nothing was changed. Go back and answer again.")
	case c.PostForm("from") == "today":
		c.Redirect(http.StatusSeeOther, "/today")
	default:
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d", t.ClientID))
	}
}

// follow takes the answers of a form about the time since a session into its record.
func (s *Player) follow(c *gin.Context, t *store.Taught) (wrong []string, err error) {
	a := &people.Answers{V: c.Request.PostForm}
	f := a.FollowUp(s.Today())
	if a.Wrong != nil || f == nil {
		return a.Wrong, nil
	}
	m := s.newMark(c, record.FollowUp)
	m.FollowUp = f
	return nil, s.keepMarks(c, t.ID, false, m)
}
