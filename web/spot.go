package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"restbend"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/store"
	"restbend/teaching"
)

// spotForm asks for a change of a running session from a second of its score on.
type spotForm struct {
	Key       string    `json:"key"`
	Device    string    `json:"device"`
	At        time.Time `json:"at"`
	Rev       int       `json:"rev"`
	Pos       float64   `json:"pos"`
	What      string    `json:"what"` // repeat, minute, breaths or undo
	PerMinute float64   `json:"per_minute"`
	Seconds   float64   `json:"seconds"`
}

// Bounds of a measured breath, breaths a minute (product default).
const (
	slowestBreath = 3
	fastestBreath = 40
)

// change makes a new revision of a running session's score: what ran stays, what follows is worked out anew.
func (s *Server) change(c *gin.Context) {
	t, ok := s.taught(c)
	if !ok {
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 8<<10)
	var f spotForm
	if err := c.ShouldBindJSON(&f); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": "change: " + err.Error()})
		return
	}
	k, err := teaching.Read(&t)
	if err != nil {
		s.failed(c, err)
		return
	}
	no := func(why string) { c.JSON(http.StatusUnprocessableEntity, gin.H{"error": why}) }
	switch {
	case t.EndedAt.Valid || k.Score == nil:
		no("the session has ended")
		return
	case f.Rev != k.Score.Rev:
		no("the session was changed elsewhere meanwhile: look again")
		return
	case !(f.Pos >= 0 && f.Pos <= k.Score.Seconds):
		no(fmt.Sprintf("pos: found %g, allowed: 0 to %g", f.Pos, k.Score.Seconds))
		return
	}
	m := record.Mark{Key: f.Key, Device: f.Device, By: s.who(c), At: f.At, Rev: f.Rev, Pos: f.Pos, Kind: record.Change, What: f.What}
	next, doc, err := s.spot(c, &t, &k, &f, &m)
	if err != nil {
		no(err.Error())
		return
	}
	m.Score = next.Rev
	if why := m.Problem(k.Bounds(nil)); why != "" {
		no(why)
		return
	}
	text, err := json.Marshal(next)
	if err != nil {
		s.failed(c, err)
		return
	}
	row, err := teaching.Stored(&m)
	if err != nil {
		s.failed(c, err)
		return
	}
	add := s.marking()
	add.Marks, add.Score, add.Plan = []store.Mark{row}, &store.Score{Rev: next.Rev, Document: text}, doc
	if _, err := s.Store.AddMarks(c, s.account(c), t.ID, add); err != nil {
		s.failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"rev": next.Rev, "say": capital(m.Say)})
}

// spot is the new revision, with the plan it belongs to where that changes too.
func (s *Server) spot(c *gin.Context, t *store.Taught, k *teaching.Kept, f *spotForm, m *record.Mark) (next *score.Score, plan []byte, err error) {
	switch f.What {
	case "repeat":
		next, m.Say, err = k.Score.OneMoreSet(f.Pos)
	case "minute":
		seconds := f.Seconds
		if seconds == 0 {
			seconds = 60
		}
		next, m.Say, err = k.Score.Longer(f.Pos, seconds)
	case "breaths":
		if !(f.PerMinute >= slowestBreath && f.PerMinute <= fastestBreath) {
			return nil, nil, fmt.Errorf("per_minute: found %g, allowed: %d to %d", f.PerMinute, slowestBreath, fastestBreath)
		}
		m.Kind, m.What, m.PerMinute, m.Say = record.Breaths, "", f.PerMinute, fmt.Sprintf("from here %g breaths a minute", f.PerMinute)
		return s.rebreathe(c, t, k, f)
	case "undo":
		return s.spotBack(t, k, f, m)
	default:
		return nil, nil, fmt.Errorf("what: found %q, allowed: repeat, minute, breaths, undo", f.What)
	}
	return next, nil, err
}

// rebreathe lays out what follows at another rate of breath: the exercise under way is finished at the old one.
func (s *Server) rebreathe(c *gin.Context, t *store.Taught, k *teaching.Kept, f *spotForm) (*score.Score, []byte, error) {
	row, err := s.Store.Client(c, s.account(c), t.ClientID)
	if err != nil {
		return nil, nil, err
	}
	var cl safety.Client
	var p plan.Plan
	if err := errors.Join(json.Unmarshal(row.Document, &cl), json.Unmarshal(t.Plan, &p)); err != nil {
		return nil, nil, err
	}
	ways, err := restbend.Ways()
	if err != nil {
		return nil, nil, err
	}
	log, err := s.logOf(c, t.ClientID)
	if err != nil {
		return nil, nil, err
	}
	last := k.Score.LastRunning(f.Pos)
	if len(p.Items) != len(k.Score.Items) {
		return nil, nil, errors.New("this session was changed too much for another rate of breath")
	}
	rest := slices.Clone(p.Items[last+1:])
	next, err := score.Changed(k.Score, f.Pos, "breaths", score.Next{Finish: true, Items: rest}, score.Facts{Catalogue: s.cat(c), Client: &cl, Log: log, Ways: ways, Breaths: f.PerMinute})
	return next, nil, err
}

// spotBack takes the last change back, as long as nothing of it has run.
func (s *Server) spotBack(t *store.Taught, k *teaching.Kept, f *spotForm, m *record.Mark) (*score.Score, []byte, error) {
	var last *record.Mark
	for i := range k.Marks {
		if x := &k.Marks[i]; x.Score == k.Score.Rev && x.Kind != record.Undo {
			last = x
		}
	}
	if last == nil || len(t.Scores) < 2 {
		return nil, nil, errors.New("there is no change to take back")
	}
	var before score.Score
	if err := json.Unmarshal(t.Scores[len(t.Scores)-2].Document, &before); err != nil {
		return nil, nil, err
	}
	next, err := k.Score.Back(&before, f.Pos)
	m.Kind, m.What, m.Of, m.Say = record.Undo, "", last.Key, "taken back"
	return next, nil, err
}
