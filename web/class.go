package web

import (
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"restbend"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/store"
	"restbend/teaching"
)

// mayJoin are the other clients who can be taught together with one.
func (s *Server) mayJoin(c *gin.Context, host int64) (out []clientRow, err error) {
	rows, err := s.Store.Clients(c, s.account(c))
	if err != nil {
		return nil, err
	}
	for i := range rows {
		r := &rows[i]
		if r.ID == host || r.Intake != "" {
			continue
		}
		cl, err := documentOf(r)
		if err != nil {
			return nil, err
		}
		row := clientRow{ID: r.ID, Name: r.Name}
		if err := s.mark(c, &row, cl); err != nil {
			return nil, err
		}
		if _, running := s.Store.Running(c, r.ID); !row.Refer && !row.Rest && running != nil {
			out = append(out, row)
		}
	}
	return out, nil
}

// beginClass opens the sessions of a small class: everybody was asked about warning signs and pain, does what suits
// them inside the host's seconds, and has a record of their own. Wrong says what keeps it from beginning.
func (s *Server) beginClass(c *gin.Context, pg *planPage, pain float64, with []string) (id int64, wrong string, err error) {
	if len(with) >= record.MostMembers {
		return 0, fmt.Sprintf("A class has at most %d.", record.MostMembers), nil
	}
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		return 0, "", err
	}
	ways, err := restbend.Ways()
	if err != nil {
		return 0, "", err
	}
	host, err := score.Build(pg.Plan, score.Facts{Catalogue: s.cat(c), Client: pg.Person.Client, Log: pg.Person.Log, Ways: ways})
	if err != nil {
		return 0, "", err
	}
	class := rand.Text()
	number := func(f float64) sql.NullFloat64 { return sql.NullFloat64{Float64: f, Valid: true} }
	all := []store.Taught{{ClientID: pg.Row.ClientID, PlanID: sql.NullInt64{Int64: pg.Row.ID, Valid: true}, Day: s.Today(), Plan: doc, PainStart: number(pain), Class: class}}
	scores := []*score.Score{host}
	for _, text := range with {
		client, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return 0, fmt.Sprintf("with: found %q", text), nil
		}
		p, err := s.person(c, client, 30)
		if err != nil {
			return 0, "", err
		}
		now, err := typedNumber(c.PostForm("pain." + text))
		switch {
		case p.Req.Screening.Refer != nil || p.Req.Whole != nil && p.Req.Whole.Decision != trade.Stay:
			return 0, p.Row.Name + " does not take part today.", nil
		case c.PostForm("clear."+text) != "yes":
			return 0, "Ask " + p.Row.Name + " about warning signs first.", nil
		case err != nil || now < 0 || now > 10:
			return 0, fmt.Sprintf("%s, pain now: found %q, allowed: 0 to 10.", p.Row.Name, c.PostForm("pain."+text)), nil
		case progress.StartCap(now) > 0:
			return 0, fmt.Sprintf("%s begins with a pain of %g: gentle work alone, not in a class.", p.Row.Name, now), nil
		}
		m, own, _, err := spot.Join(text, p.Row.Name, pg.Plan, host, p.Req, score.Facts{Catalogue: s.cat(c), Client: p.Client, Log: p.Log, Ways: ways})
		if err != nil {
			return 0, "", err
		}
		mine := m.Score(host)
		for i := range mine.Items {
			if v, ok := s.cat(c).Version(mine.Items[i].Version); ok {
				mine.Items[i].Name, mine.Items[i].Revision, mine.Items[i].Load = v.Name, v.Revision, nil
				mine.Items[i].DoseSays = mine.Items[i].Dose.Words()
			}
		}
		doc, err := json.Marshal(own)
		if err != nil {
			return 0, "", err
		}
		all = append(all, store.Taught{ClientID: client, Day: s.Today(), Plan: doc, PainStart: number(now), Class: class})
		scores = append(scores, mine)
	}
	for i := range all {
		text, err := json.Marshal(scores[i])
		if err != nil {
			return 0, "", err
		}
		all[i].Scores = []store.Score{{Rev: scores[i].Rev, Document: text}}
	}
	id, err = s.Store.StartClass(c, all)
	if errors.Is(err, store.ErrRunning) {
		return 0, "Somebody of these has a session that is still open: close it first.", nil
	}
	return id, "", err
}

// classMember is one of a class as the player shows them: what they do otherwise, by the number of the item.
type classMember struct {
	ID    string               `json:"id"`
	Name  string               `json:"name"`
	Items map[string]classItem `json:"items"`
}

type classItem struct {
	Name    string                `json:"name"`
	Version string                `json:"version"`
	Surface trade.Surface         `json:"surface"`
	Dose    string                `json:"dose"`
	Sides   map[trade.Side]string `json:"sides,omitempty"`
	Rests   bool                  `json:"rests,omitempty"`
}

// classOf is everybody in a running class, the host first; nil when the session is no class.
func (s *Server) classOf(c *gin.Context, t *store.Taught) (out []classMember, err error) {
	if t.Class == "" {
		return nil, nil
	}
	rows, err := s.Store.ClassOf(c, s.account(c), t.Class)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		row, err := s.Store.Client(c, s.account(c), rows[i].ClientID)
		if err != nil {
			return nil, err
		}
		full, err := s.Store.Teaching(c, s.account(c), rows[i].ID)
		if err != nil {
			return nil, err
		}
		k, err := teaching.Read(&full)
		if err != nil {
			return nil, err
		}
		m := classMember{ID: strconv.FormatInt(rows[i].ID, 10), Name: row.Name, Items: map[string]classItem{}}
		works := map[int]bool{}
		for j := range k.Score.Segments {
			if g := &k.Score.Segments[j]; g.Kind == score.Work {
				works[g.Item] = true
			}
		}
		for j := range k.Score.Items {
			it := &k.Score.Items[j]
			m.Items[strconv.Itoa(j)] = classItem{it.Name, it.Version, it.Surface, it.DoseSays, it.Sides, !works[j] && it.Role != trade.Reset}
		}
		out = append(out, m)
	}
	return out, nil
}

// fanned stores the marks of a class with everybody they are about: what names nobody is about all.
func (s *Server) fanned(c *gin.Context, t *store.Taught, add store.Marking, marks []record.Mark) (late []string, err error) {
	rows, err := s.Store.ClassOf(c, s.account(c), t.Class)
	if err != nil {
		return nil, err
	}
	for i := range slices.Backward(rows) { // the one that leads comes last: what failed before is sent again
		one := add
		one.Marks = nil
		id := strconv.FormatInt(rows[i].ID, 10)
		for k := range marks {
			if marks[k].Member == "" || marks[k].Member == id || rows[i].ID == t.ID {
				row, err := teaching.Stored(&marks[k])
				if err != nil {
					return nil, err
				}
				one.Marks = append(one.Marks, row)
			}
		}
		refused, err := s.Store.AddMarks(c, s.account(c), rows[i].ID, one)
		if err != nil {
			return nil, err
		}
		if rows[i].ID == t.ID {
			late = refused
		}
	}
	return late, nil
}
