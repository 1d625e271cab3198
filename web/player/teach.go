// Package player is the pages of a session while it is taught: its start, the player, a class, what
// happens in it, and what is asked after it.
package player

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/exchange"
	"restbend/store"
	"restbend/teaching"
	"restbend/web/people"
	"restbend/web/planning"
	"restbend/web/site"
)

// Player are the pages of a session: its start, the player, a class, what happens in it, and after.
type Player struct {
	*planning.Planning
	extents *lru.Cache[extent, record.Bounds] // of running sessions
}

// New prepares the pages of sessions.
func New(plans *planning.Planning) *Player {
	return &Player{Planning: plans, extents: site.Bounded[extent, record.Bounds](500)}
}

func (s *Player) taught(c *gin.Context) (t store.Taught, ok bool) {
	id, ok := s.ID(c)
	if !ok {
		return t, false
	}
	t, err := s.Store.Teaching(c, s.Account(c), id)
	if err != nil {
		s.Failed(c, err)
		return t, false
	}
	return t, true
}

func (s *Player) teach(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	if t.EndedAt.Valid {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/teach/%d/after", t.ID))
		return
	}
	cl, err := s.Store.Client(c, s.Account(c), t.ClientID)
	if err != nil {
		s.Failed(c, err)
		return
	}
	doc, err := people.DocumentOf(&cl)
	if err != nil {
		s.Failed(c, err)
		return
	}
	sc, err := safety.NewScreener(s.Limits(), s.Catalogue(c), doc, s.Today())
	if err != nil {
		s.Failed(c, err)
		return
	}
	if c.Query("beside") != "" {
		sideBySide(c)
	}
	s.Render(c, http.StatusOK, "teach", "teach", "Teach", teachPage{t.ID, sc.Limits(), sc.Wishes()})
}

// teachPage is the player before it has loaded its session.
type teachPage struct {
	ID     int64
	Limits []string // the clinicians' words
	Wishes *safety.Wishes
}

// sideBySide lets a player stand in the page of two, of this server only.
func sideBySide(c *gin.Context) {
	h := c.Writer.Header()
	h.Set(
		"Content-Security-Policy",
		strings.Replace(
			h.Get("Content-Security-Policy"),
			"frame-ancestors 'none'",
			"frame-ancestors 'self'; frame-src 'self'",
			1,
		),
	)
	h.Set("X-Frame-Options", "SAMEORIGIN")
}

// besidePage is two running sessions beside each other.
type besidePage struct{ Both [2]besideOne }

type besideOne struct {
	ID   int64
	Name string
}

// beside shows two clients with two plans: two players, each with its own go, the active one large.
func (s *Player) beside(c *gin.Context) {
	var pg besidePage
	for i, name := range []string{"a", "b"} {
		id, err := strconv.ParseInt(c.Query(name), 10, 64)
		if err != nil {
			s.Fail(c, http.StatusNotFound, "There is no such session", "Choose two that are open.")
			return
		}
		t, err := s.Store.Taught(c, s.Account(c), id)
		if err != nil {
			s.Failed(c, err)
			return
		}
		row, err := s.Store.Client(c, s.Account(c), t.ClientID)
		if err != nil {
			s.Failed(c, err)
			return
		}
		pg.Both[i] = besideOne{id, row.Name}
	}
	if pg.Both[0].ID == pg.Both[1].ID {
		s.Fail(c, http.StatusUnprocessableEntity, "These are one session", "Choose two that are open.")
		return
	}
	sideBySide(c)
	s.Render(c, http.StatusOK, "beside", "beside", "Two clients", pg)
}

// teachWords are what is said and shown in one segment of the score.
type teachWords struct {
	Say   string   `json:"say,omitempty"`
	Count []string `json:"count,omitempty"`
	Shown string   `json:"shown,omitempty"`
	Cue   string   `json:"cue,omitempty"`
}

// wordsOf are the words of a whole score: full, key or numbers, counting up or down.
func wordsOf(sc *score.Score, level string, up bool) []teachWords {
	if !slices.Contains(score.Levels, level) {
		level = score.Full
	}
	words := make([]teachWords, len(sc.Segments))
	for i := range sc.Segments {
		w := sc.Words(i, sc.LevelFor(sc.Segments[i].Item, level), up)
		words[i] = teachWords{w.Say, w.Count, w.Shown, w.Cue}
	}
	return words
}

// teachData is everything the player needs of a session.
func (s *Player) teachData(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	data, err := s.playerData(c, &t)
	switch {
	case err != nil:
		s.Failed(c, err)
	case data == nil:
		c.JSON(http.StatusConflict, gin.H{"error": "this session is of an earlier release and has ended"})
	default:
		c.JSON(http.StatusOK, data)
	}
}

// playerData is what the player needs of a session, nil for one of an earlier release.
func (s *Player) playerData(c *gin.Context, t *store.Taught) (gin.H, error) {
	row, err := s.Store.Client(c, s.Account(c), t.ClientID)
	if err != nil {
		return nil, err
	}
	var cl intake.Client
	if err := json.Unmarshal(row.Document, &cl); err != nil {
		return nil, err
	}
	k, err := teaching.Read(t)
	if err != nil || k.Score == nil {
		return nil, err
	}
	start, limit := painBounds(t, &cl)
	if t.Class != "" { // everybody's seconds, whatever happened to the one that leads
		k.Score = &score.Score{}
		if err := json.Unmarshal(t.Scores[0].Document, k.Score); err != nil {
			return nil, err
		}
	}
	revs, err := s.Store.ClassRevisions(c, t.Class)
	if err != nil {
		return nil, err
	}
	class, err := s.classOf(c, t)
	if err != nil {
		return nil, err
	}
	likes, err := s.Store.Setting(c, s.preferencesOf(c))
	if err != nil {
		return nil, err
	}
	if likes == "" {
		likes = "{}"
	}
	set, err := s.settingsOf(c, &cl, k.Score)
	if err != nil {
		return nil, err
	}
	acts := map[string][]string{}
	for _, f := range progress.Urgent {
		acts[f] = s.Limits().Act(f)
	}
	words := wordsOf(k.Score, c.Query("words"), c.Query("count") != "down")
	sayMembers(words, k.Score, class)
	return gin.H{
		"id":          t.ID,
		"client":      row.Name,
		"score":       k.Score,
		"words":       words,
		"minds":       s.mindsOf(c, t, len(k.Score.Items)),
		"marks":       k.Marks,
		"seq":         lastSeq(t.Marks),
		"now":         time.Now().UTC(),
		"stop_from":   progress.StopFrom(start, limit),
		"acts":        acts,
		"felt":        progress.Felt,
		"build":       row.Build,
		"ended":       t.EndedAt.Valid,
		"pain_start":  start,
		"likes":       json.RawMessage(likes),
		"line":        site.ScoreLine(k.Score),
		"answers":     record.AnswerWords(),
		"asks":        record.AnswerLabels(),
		"places":      record.Places(),
		"class":       class,
		"class_rev":   revs,
		"settings":    set,
		"asks_memory": asksMemory(t),
	}, nil
}

// settingsOf is what each exercise of a score is set by, within what the client may have.
func (s *Player) settingsOf(c *gin.Context, cl *intake.Client, sc *score.Score) ([][]spot.Setting, error) {
	out := make([][]spot.Setting, len(sc.Items))
	screener, err := safety.NewScreener(s.Limits(), s.Catalogue(c), cl.On(s.Today()), s.Today())
	if err != nil {
		return nil, err
	}
	for i := range out {
		out[i] = []spot.Setting{}
		if v, ok := s.Catalogue(c).Version(sc.Items[i].Version); ok {
			out[i] = append(out[i], spot.Settings(v, screener)...)
		}
	}
	return out, nil
}

// asksMemory tells whether it is asked at the end if the fixed beginning and end were done from memory.
func asksMemory(t *store.Taught) bool {
	var p struct {
		Asks bool `json:"asks_memory"`
	}
	return json.Unmarshal(t.Plan, &p) == nil && p.Asks
}

func lastSeq(marks []store.Mark) int64 {
	if len(marks) == 0 {
		return 0
	}
	return marks[len(marks)-1].Seq
}

// marking is what the player sends: its new marks, and the last it has seen of the others.
type marking struct {
	Marks []json.RawMessage `json:"marks"`
	After int64             `json:"after"`
}

type refusedMark struct {
	Key string `json:"key"`
	Why string `json:"why"`
}

// addMarks stores marks before it acknowledges them; the same key twice is harmless, and a mark that is refused is
// said with its reason. The answer also brings what other devices marked meanwhile.
func (s *Player) addMarks(c *gin.Context) {
	id, ok := s.ID(c)
	if !ok {
		return
	}
	t, err := s.Store.Taught(c, s.Account(c), id)
	if err != nil {
		s.Failed(c, err)
		return
	}
	var sent marking
	if err := c.ShouldBindJSON(&sent); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "marks: " + err.Error(), "kept": "nothing was stored"})
		return
	}
	bounds, many, err := s.bounds(c, id)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if n := many + len(sent.Marks); n > record.MostMarks {
		c.JSON(
			http.StatusUnprocessableEntity,
			gin.H{
				"error": fmt.Sprintf("marks: found %d, allowed: up to %d in a session", n, record.MostMarks),
				"kept":  "nothing was stored",
			},
		)
		return
	}
	add := s.marking()
	marks, refused, err := s.readMarks(c, sent.Marks, id, bounds, &add)
	if err != nil {
		s.Failed(c, err)
		return
	}
	stored := []string{}
	var felt []string
	for i := range marks {
		felt = append(append(felt, marks[i].Felt...), marks[i].Answers()...)
	}
	var say, late []string
	if t.Class != "" { // in a class the seconds are everybody's
		late, say, err = s.fanned(c, &t, add, marks)
	} else if say, err = s.following(c, id, marks, &add); err == nil {
		late, err = s.Store.AddMarks(c, s.Account(c), id, add)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	for _, m := range add.Marks {
		if slices.Contains(late, m.Key) {
			refused = append(
				refused,
				refusedMark{m.Key, "the session has ended: only corrections, notes and the follow-up are taken in"},
			)
		} else {
			stored = append(stored, m.Key)
		}
	}
	s.answerMarks(
		c,
		id,
		sent.After,
		gin.H{
			"stored":  stored,
			"refused": refused,
			"say":     append([]string{}, say...),
			"do":      append([]string{}, s.Limits().Act(urgent(felt)...)...),
		},
	)
}

// readMarks reads marks, with who made them, into what is stored; what cannot be taken in is said.
func (s *Player) readMarks(c *gin.Context, sent []json.RawMessage, id int64, bounds record.Bounds, add *store.Marking) (
	marks []record.Mark, refused []refusedMark, err error,
) {
	refused = []refusedMark{}
	who := s.Who(c)
	for _, doc := range sent {
		m, why := s.readMark(c, doc, id, bounds)
		if why != "" {
			refused = append(refused, refusedMark{m.Key, why})
			continue
		}
		m.By = who
		row, err := teaching.Stored(&m)
		if err != nil {
			return nil, nil, err
		}
		add.Marks = append(add.Marks, row)
		marks = append(marks, m)
	}
	return marks, refused, nil
}

// extent names one revision of a session's score.
type extent struct {
	id  int64
	rev int
}

// bounds is what the marks of a session may name, and how many there are.
func (s *Player) bounds(c *gin.Context, id int64) (b record.Bounds, marks int, err error) {
	rev, marks, err := s.Store.Extent(c, id)
	if err != nil {
		return b, 0, err
	}
	if b, ok := s.extents.Get(extent{id, rev}); ok {
		b.Flags = s.Limits().FlagCodes()
		return b, marks, nil
	}
	t, err := s.Store.Teaching(c, s.Account(c), id)
	if err != nil {
		return b, 0, err
	}
	if b, err = teaching.Bounds(&t, s.Limits().FlagCodes(), time.Time{}); err != nil {
		return b, 0, err
	}
	s.extents.Add(extent{id, rev}, b)
	return b, marks, nil
}

// urgent are the felt words that end a session.
func urgent(felt []string) (out []string) {
	for _, f := range felt {
		if slices.Contains(progress.Urgent, f) {
			out = append(out, f)
		}
	}
	return out
}

// readMark reads one mark of a session and says what is wrong with it.
func (s *Player) readMark(c *gin.Context, doc json.RawMessage, id int64, b record.Bounds) (m record.Mark, why string) {
	m, err := exchange.ReadMark(doc, b)
	if err != nil {
		var named struct{ Key string }
		_ = json.Unmarshal(doc, &named) // the answer names the mark, as far as it has a name
		m.Key = named.Key
		return m, err.Error()
	}
	m.Clocked(time.Now())
	if m.Kind != record.Correct {
		return m, ""
	}
	t, err := s.Store.Teaching(c, s.Account(c), id)
	if err != nil {
		return m, err.Error()
	}
	k, err := teaching.Read(&t)
	if err != nil {
		return m, err.Error()
	}
	session, err := teaching.Session(&t, time.Now())
	if err != nil {
		return m, err.Error()
	}
	return m, record.CorrectionProblem(session, k.Line(&session, &m), &m)
}

// marking is what is common to all ways of marking a session.
func (s *Player) marking() store.Marking {
	return store.Marking{Late: record.Late, Made: teaching.Made, Fold: teaching.Fold}
}

// newMarks brings the marks that came in after one.
func (s *Player) newMarks(c *gin.Context) {
	id, ok := s.ID(c)
	if !ok {
		return
	}
	after, err := strconv.ParseInt(c.DefaultQuery("after", "0"), 10, 64)
	if err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "after: a number"})
		return
	}
	s.answerMarks(c, id, after, gin.H{})
}

func (s *Player) answerMarks(c *gin.Context, id, after int64, out gin.H) {
	t, err := s.Store.Taught(c, s.Account(c), id)
	if err != nil {
		s.Failed(c, err)
		return
	}
	rows, err := s.Store.MarksAfter(c, id, after)
	if err != nil {
		s.Failed(c, err)
		return
	}
	marks := make([]json.RawMessage, len(rows))
	for i, m := range rows {
		marks[i] = m.Document
	}
	if t.Class != "" {
		out["class_rev"], err = s.Store.ClassRevisions(c, t.Class)
	} else {
		out["rev"], _, err = s.Store.Extent(c, id)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	out["marks"], out["seq"], out["ended"] = marks, max(after, lastSeq(rows)), t.EndedAt.Valid
	c.JSON(http.StatusOK, out)
}

// mindsOf is what to mind in each exercise: what the plan says beside it.
func (s *Player) mindsOf(c *gin.Context, t *store.Taught, n int) [][]string {
	out := make([][]string, n)
	for i := range out {
		out[i] = []string{}
	}
	p, err := plan.Read(t.Plan)
	if err != nil {
		return out
	}
	for i := range min(n, len(p.Items)) {
		if v, ok := s.Catalogue(c).Version(p.Items[i].Version); ok {
			out[i] = append(out[i], planning.Minds(&p.Items[i], v)...)
		}
		if b := p.BlockSays(i); b != "" {
			out[i] = append(out[i], b)
		}
	}
	return out
}

// savePreferences keeps how somebody likes the player, on every device.
func (s *Player) savePreferences(c *gin.Context) {
	var p preferences
	if err := c.ShouldBindJSON(&p); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "preferences: " + err.Error(), "kept": "what was kept before"})
		return
	}
	if why := p.problem(); why != "" {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": why, "kept": "what was kept before"})
		return
	}
	doc, err := json.Marshal(p)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if err := s.Store.Set(c, s.preferencesOf(c), string(doc)); err != nil {
		s.Failed(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

func (s *Player) preferencesOf(c *gin.Context) string {
	return fmt.Sprintf("player %d", s.Account(c))
}

// preferences is how somebody likes the player.
type preferences struct {
	Words   string            `json:"words,omitempty"`
	Count   string            `json:"count,omitempty"` // up or down
	Tones   map[string]bool   `json:"tones,omitempty"` // start, half, last and end, each
	Voice   bool              `json:"voice,omitempty"`
	Numbers bool              `json:"numbers,omitempty"` // spoken
	Awake   bool              `json:"awake,omitempty"`
	Hand    string            `json:"hand,omitempty"` // left or right: where the thumb is
	KeysOff bool              `json:"keys_off,omitempty"`
	Keys    map[string]string `json:"keys,omitempty"` // what is done, by which key
}

func (p *preferences) problem() string {
	for _, f := range []struct {
		name, found string
		allowed     []string
	}{
		{"words", p.Words, append([]string{""}, score.Levels...)},
		{"count", p.Count, []string{"", "up", "down"}},
		{"hand", p.Hand, []string{"", "left", "right"}},
	} {
		if !slices.Contains(f.allowed, f.found) {
			return fmt.Sprintf("%s: found %q, allowed: %s", f.name, f.found, strings.Join(f.allowed[1:], ", "))
		}
	}
	for _, m := range []int{len(p.Tones), len(p.Keys)} {
		if m > 40 {
			return "too many of one kind"
		}
	}
	for what, key := range p.Keys {
		if len(what) > 20 || len(key) > 20 {
			return fmt.Sprintf("keys: %q: allowed: short words", what)
		}
	}
	return ""
}

// Routes registers the pages of sessions.
func (s *Player) Routes(in *gin.RouterGroup) {
	in.GET("/today", s.startOfDay)
	in.POST("/teach/:id/follow-up", s.saveFollowUp)
	in.GET("/plans/:id/start", s.startPage)
	in.POST("/plans/:id/start", s.start)
	in.GET("/teach/:id", s.teach)
	in.GET("/beside", s.beside)
	in.GET("/teach/:id/data", s.teachData)
	in.POST("/teach/:id/marks", s.addMarks)
	in.GET("/teach/:id/marks", s.newMarks)
	in.POST("/teach/:id/change", s.change)
	in.GET("/teach/:id/offers", s.offers)
	in.POST("/teach/:id/correct", s.correct)
	in.POST("/teach/:id/next", s.nextWord)
	in.POST("/preferences", s.savePreferences)
	in.GET("/teach/:id/after", s.after)
	in.POST("/teach/:id/after", s.finish)
}
