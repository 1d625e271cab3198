package player

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/edit"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/store"
	"restbend/teaching"
	"restbend/web/people"
	"restbend/web/site"
)

// spotForm asks for a change of a running session from a second of its score on.
type spotForm struct {
	Key       string          `json:"key"`
	Device    string          `json:"device"`
	At        time.Time       `json:"at"`
	Rev       int             `json:"rev"`
	Pos       float64         `json:"pos"`
	What      string          `json:"what"` // of record.Changes, breaths, check or undo
	Item      *int            `json:"item"`
	Version   string          `json:"version"`
	Ease      string          `json:"ease"`
	Surface   trade.Surface   `json:"surface"`
	Seconds   float64         `json:"seconds"`
	PerMinute float64         `json:"per_minute"`
	Check     string          `json:"check"`
	Value     json.RawMessage `json:"value"`
}

// Bounds of a measured breath, breaths a minute (product default).
const (
	slowestBreath = 3
	fastestBreath = 40
)

// underway is a running session with everything that follows are worked out from.
type underway struct {
	t      store.Taught
	k      teaching.Kept
	person *people.Person
	facts  spot.Facts
}

// underway reads a running session; why says why nothing can be changed in it.
func (s *Player) underway(c *gin.Context, t store.Taught) (u underway, why string, err error) {
	u.t = t
	if u.k, err = teaching.Read(&t); err != nil {
		return u, "", err
	}
	if t.EndedAt.Valid || u.k.Score == nil {
		return u, "the session has ended", nil
	}
	if t.Class != "" {
		return u, "in a class the plan stays as it is", nil
	}
	if u.person, err = s.Person(c, t.ClientID, 30); err != nil {
		return u, "", err
	}
	ways, err := restbend.Ways()
	if err != nil {
		return u, "", err
	}
	p, err := plan.Read(t.Plan)
	if err != nil {
		return u, "", err
	}
	u.facts = spot.Facts{
		Request: u.person.Req,
		Plan:    p,
		Score:   u.k.Score,
		Laid: score.Facts{Catalogue: s.Catalogue(c), Client: u.person.Client, Log: u.person.Log, Ways: ways,
			Mover: u.person.Req.Mover()},
	}
	u.facts.Start, u.facts.Limit = painBounds(&t, u.person.Client)
	return u, "", nil
}

// painBounds are the pain a session began with, nil when it was not asked, and the client's own limit.
func painBounds(t *store.Taught, cl *intake.Client) (start *float64, limit float64) {
	if t.PainStart.Valid {
		start = &t.PainStart.Float64
	}
	if cl.Pain != nil {
		limit = cl.Pain.StopAbove
	}
	return start, limit
}

// lastThatMatters is the last of some marks from which something may follow, nil when there is none.
func lastThatMatters(marks []record.Mark) (m *record.Mark) {
	for i := range marks {
		k := &marks[i]
		if k.Kind == record.Symptom || k.Kind == record.Warning || k.Kind == record.Undo ||
			k.Kind == record.Felt && k.Pain != nil ||
			k.Kind == record.Change && k.What == "skip" && k.Member != "" {
			m = k
		}
	}
	return m
}

// change makes a new revision of a running session's score: what ran stays, what follows is worked out anew.
func (s *Player) change(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	var f spotForm
	if err := c.ShouldBindJSON(&f); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "change: " + err.Error()})
		return
	}
	no := func(why string) { c.JSON(http.StatusUnprocessableEntity, gin.H{"error": why}) }
	u, why, err := s.underway(c, t)
	switch {
	case err != nil:
		s.Failed(c, err)
		return
	case why == "" && f.Rev != u.k.Score.Rev:
		why = "the session was changed elsewhere meanwhile: look again"
	case why == "" && !(f.Pos >= 0 && f.Pos <= u.k.Score.Seconds):
		why = fmt.Sprintf("pos: found %g, allowed: 0 to %g", f.Pos, u.k.Score.Seconds)
	}
	if why != "" {
		no(why)
		return
	}
	m := record.Mark{
		Key:    f.Key,
		Device: f.Device,
		By:     s.Who(c),
		At:     f.At,
		Rev:    f.Rev,
		Pos:    f.Pos,
		Kind:   record.Change,
		What:   f.What,
		Item:   f.Item,
	}
	out, err := s.spot(c, &u, &f, &m)
	var refused *spot.Refusal
	switch {
	case errors.As(err, &refused):
		no(refused.Why)
		return
	case err != nil:
		s.Failed(c, err)
		return
	}
	m.Say = cut(strings.Join(out.Say, "; "))
	if out.Score != nil {
		m.Score = out.Score.Rev
	}
	m.Clocked(time.Now())
	bounds, err := teaching.Bounds(&u.t, nil, time.Now())
	if err != nil {
		s.Failed(c, err)
		return
	}
	if why := m.Problem(bounds); why != "" {
		no(why)
		return
	}
	if err := s.keepChange(c, &u, &m, out); err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"rev": max(m.Score, f.Rev), "key": m.Key, "say": sentences(out.Say)})
}

// sentences writes what is said one sentence after the other.
func sentences(say []string) string {
	out := make([]string, len(say))
	for i, s := range say {
		out[i] = site.Capital(s) + "."
	}
	return strings.Join(out, " ")
}

// cut keeps what a mark says within its length.
func cut(text string) string {
	if len(text) > 100 {
		return strings.ToValidUTF8(text[:97], "") + "…"
	}
	return text
}

// keepChange stores a mark with the revision of the score it made.
func (s *Player) keepChange(c *gin.Context, u *underway, m *record.Mark, out *spot.Outcome) error {
	row, err := teaching.Stored(m)
	if err != nil {
		return err
	}
	add := s.marking()
	add.Marks = []store.Mark{row}
	if err := put(&add, out); err != nil {
		return err
	}
	_, err = s.Store.AddMarks(c, s.Account(c), u.t.ID, add)
	return err
}

// put adds what follows to what is stored.
func put(add *store.Marking, out *spot.Outcome) error {
	if out.Score == nil {
		return nil
	}
	text, err := json.Marshal(out.Score)
	if err != nil {
		return err
	}
	add.Score = &store.Score{Rev: out.Score.Rev, Document: text}
	add.Plan, err = json.Marshal(out.Plan)
	return err
}

// spot is what follows from what was asked for.
func (s *Player) spot(c *gin.Context, u *underway, f *spotForm, m *record.Mark) (*spot.Outcome, error) {
	switch f.What {
	case "breaths":
		if !(f.PerMinute >= slowestBreath && f.PerMinute <= fastestBreath) {
			return nil, &spot.Refusal{
				Why: fmt.Sprintf("per_minute: found %g, allowed: %d to %d", f.PerMinute, slowestBreath, fastestBreath),
			}
		}
		m.Kind, m.What, m.PerMinute = record.Breaths, "", f.PerMinute
		u.facts.Laid.Breaths = f.PerMinute
		out, err := u.facts.Anew(f.Pos, "breaths")
		if err == nil {
			out.Say = []string{fmt.Sprintf("from here %g breaths a minute", f.PerMinute)}
		}
		return out, err
	case "check":
		return s.checked(c, u, f, m)
	case "undo":
		return spotBack(u, f, m)
	}
	change := spot.Change{
		What:    f.What,
		At:      f.Pos,
		Item:    -1,
		Version: f.Version,
		Ease:    f.Ease,
		Surface: f.Surface,
		Seconds: f.Seconds,
	}
	if f.Item != nil {
		change.Item = *f.Item
	}
	if to, err := json.Marshal(gin.H{"version": f.Version, "ease": f.Ease, "surface": f.Surface}); err == nil &&
		f.Version+f.Ease+string(f.Surface) != "" {
		m.To = to
	}
	return u.facts.Apply(change)
}

// spotBack takes the last change back, as long as nothing of it has run.
func spotBack(u *underway, f *spotForm, m *record.Mark) (*spot.Outcome, error) {
	made := standing(u.k.Marks, u.t.Scores)
	if len(made) == 0 {
		return nil, &spot.Refusal{Why: "there is no change to take back"}
	}
	m.Kind, m.What, m.Of, m.Item = record.Undo, "", made[len(made)-1].key, nil
	return back(u, f.Pos, []string{m.Of})
}

// revision is a change of a score that stands: the mark that made it, and its place among the scores of its session.
type revision struct {
	key string
	at  int
}

// standing are the changes of a session's score that were not taken back, oldest first.
func standing(marks []record.Mark, scores []store.Score) (out []revision) {
	for i := 1; i < len(scores); i++ {
		by := slices.IndexFunc(marks, func(m record.Mark) bool { return m.Score == scores[i].Rev })
		switch {
		case by < 0:
			out = append(out, revision{at: i})
		case marks[by].Kind != record.Undo:
			out = append(out, revision{marks[by].Key, i})
		default: // with what was said of it later
			gone := answers(marks, []string{marks[by].Of})
			for len(out) > 0 && slices.Contains(gone, out[len(out)-1].key) {
				out = out[:len(out)-1]
			}
		}
	}
	return out
}

// answers are marks with those that say more of them.
func answers(marks []record.Mark, keys []string) []string {
	out := slices.Clone(keys)
	for i := range marks {
		if m := &marks[i]; m.Of != "" && m.Kind != record.Undo && slices.Contains(keys, m.Of) {
			out = append(out, m.Key)
		}
	}
	return out
}

// back is the score as it was before what followed from some marks, nil when nothing did.
func back(u *underway, pos float64, keys []string) (*spot.Outcome, error) {
	gone := answers(u.k.Marks, keys)
	made := standing(u.k.Marks, u.t.Scores)
	n := len(made)
	for n > 0 && slices.Contains(gone, made[n-1].key) {
		n--
	}
	if n == len(made) {
		if slices.ContainsFunc(made, func(r revision) bool { return slices.Contains(gone, r.key) }) {
			return nil, &spot.Refusal{Why: "the session was changed once more since"}
		}
		return &spot.Outcome{}, nil
	}
	first := made[n].at
	var before score.Score
	if err := json.Unmarshal(u.t.Scores[first-1].Document, &before); err != nil {
		return nil, err
	}
	next, err := u.k.Score.Back(&before, pos)
	if err != nil {
		return nil, &spot.Refusal{Why: err.Error()}
	}
	p := plan.Plan{}
	if u.facts.Plan != nil {
		p = *u.facts.Plan
	}
	if doc := u.t.Scores[first].Before; len(doc) > 0 { // the plan that went with it
		p = plan.Plan{} // read into the other one, fields it has not would stay
		if err := json.Unmarshal(doc, &p); err != nil {
			return nil, err
		}
	}
	return &spot.Outcome{Score: next, Plan: &p, Say: []string{"taken back, with what followed from it"}}, nil
}

// checked takes in what was compared in the session: it is kept for the day, and the rest is fitted to it.
func (s *Player) checked(c *gin.Context, u *underway, f *spotForm, m *record.Mark) (*spot.Outcome, error) {
	m.Kind, m.What, m.Check, m.Value = record.Check, "", f.Check, f.Value
	cl, err := people.DocumentOf(&u.person.Row)
	if err != nil {
		return nil, err
	}
	if cl.Today.Date != s.Today() {
		cl.Today = intake.Today{Date: s.Today()}
	}
	if err := spot.Checked(&cl.Today, f.Check, f.Value); err != nil {
		return nil, err
	}
	if err := s.Keep(c, u.person.Row, cl, "checked in the session"); err != nil {
		return nil, err
	}
	again, err := s.Person(c, u.t.ClientID, 30)
	if err != nil {
		return nil, err
	}
	kind, err := s.Kind(c, u.facts.Plan.Template)
	if err != nil {
		return nil, err
	}
	u.facts.Request, u.facts.Laid.Client = again.Req.For(kind), again.Client
	return u.facts.Refitted(f.Pos, "check")
}

// offers is what can be done now about an exercise that is too hard or too easy, when the hour is late, or next.
func (s *Player) offers(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	pos, err := site.TypedNumber(c.Query("pos"))
	u, why, fail := s.underway(c, t)
	switch {
	case fail != nil:
		s.Failed(c, fail)
		return
	case err != nil || pos < 0 || why == "" && pos > u.k.Score.Seconds:
		why = fmt.Sprintf("pos: found %q", c.Query("pos"))
	}
	if why != "" {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": why})
		return
	}
	var list []spot.Offer
	switch c.Query("what") {
	case "hard":
		list = u.facts.TooHard(pos)
	case "easy":
		list, why = u.facts.TooEasy(pos)
	case "late":
		list = u.facts.Late(pos)
	case "next":
		list = u.facts.Coming(pos)
	case "add":
		list = s.addable(c, &u, pos)
	default:
		c.JSON(
			http.StatusUnprocessableEntity,
			gin.H{"error": fmt.Sprintf("what: found %q, allowed: hard, easy, late, next, add", c.Query("what"))},
		)
		return
	}
	c.JSON(http.StatusOK, gin.H{"offers": append([]spot.Offer{}, list...), "why": why})
}

// mostFound is how many exercises a search in a session shows (product default).
const mostFound = 8

// addable are the exercises a search finds that may be put in now, those that fit the position first.
func (s *Player) addable(c *gin.Context, u *underway, pos float64) (out []spot.Offer) {
	under := u.facts.Score.UnderWay(pos)
	words := strings.Fields(strings.ToLower(c.Query("q")))
	list := edit.Adoptable(u.person.Req, u.facts.Plan)
	slices.SortStableFunc(list, func(a, b *catalogue.Version) int {
		here := func(v *catalogue.Version) int {
			if under >= 0 && v.Position == u.facts.Score.Items[under].Position {
				return 0
			}
			return 1
		}
		return here(a) - here(b)
	})
	for _, v := range list {
		text := strings.ToLower(v.Name + " " + v.Family + " " + strings.Join(v.Aliases, " "))
		if slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, w) }) {
			continue
		}
		note := ""
		if under >= 0 && v.Position == u.facts.Score.Items[under].Position {
			note = "from here"
		}
		out = append(out, spot.Offer{What: "add", Item: -1, Version: v.Slug, Surface: v.Surfaces[0], Say: v.Name, Note: note})
		if len(out) == mostFound {
			break
		}
	}
	return out
}

// undone are the marks that some marks take back.
func undone(marks []record.Mark) (keys []string) {
	for i := range marks {
		if marks[i].Kind == record.Undo {
			keys = append(keys, marks[i].Of)
		}
	}
	return keys
}

// told tells that the same symptom was marked before: what is said of it later caps nothing again.
func told(marks []record.Mark, m *record.Mark) bool {
	return slices.ContainsFunc(marks, func(k record.Mark) bool { return m.Of != "" && k.Key == m.Of && k.Score > 0 })
}

// clock is where the clock of a running session is with marks that come in: after the last of them, where the line was
// down while they were made.
func clock(u *underway, marks []record.Mark) float64 {
	last := slices.MaxFunc(marks, func(a, b record.Mark) int { return a.At.Compare(b.At) })
	return record.Position(u.k.Score, append(slices.Clone(u.k.Marks), marks...), last.At)
}

// following works out what follows from marks that came in: the sets still to come are capped, an exercise is left, a
// change that is taken back is taken back in the score. Only what is new, and was made in the score as it is, changes
// anything; the answer is said.
func (s *Player) following(
	c *gin.Context,
	id int64,
	marks []record.Mark,
	add *store.Marking,
) (say []string, err error) {
	m := lastThatMatters(marks)
	if m == nil {
		return nil, nil
	}
	t, err := s.Store.Teaching(c, s.Account(c), id)
	if err != nil || slices.ContainsFunc(t.Marks, func(k store.Mark) bool { return k.Key == m.Key }) {
		return nil, err // stored before: sent again
	}
	u, why, err := s.underway(c, t)
	if err != nil || why != "" || m.Rev != u.k.Score.Rev || len(u.facts.Plan.Items) != len(u.k.Score.Items) {
		return nil, err
	}
	var out *spot.Outcome
	u.facts.Now = clock(&u, marks)
	if m.Kind == record.Undo {
		if out, err = back(&u, max(m.Pos, u.facts.Now), undone(marks)); err != nil {
			return []string{"the rest stays as it is: " + err.Error()}, nil
		}
	} else {
		out = u.facts.Happens(m)
	}
	if told(u.k.Marks, m) && (out.Score == nil || out.Score.Because == "cap") {
		return nil, nil
	}
	if out.Score == nil {
		return out.Say, nil
	}
	m.Score = out.Score.Rev
	row, err := teaching.Stored(m)
	if err != nil {
		return nil, err
	}
	for i := range add.Marks {
		if add.Marks[i].Key == m.Key {
			add.Marks[i] = row
		}
	}
	return out.Say, put(add, out)
}
