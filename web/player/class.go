package player

import (
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/core/way"
	"restbend/store"
	"restbend/teaching"
	"restbend/web/people"
	"restbend/web/planning"
	"restbend/web/site"
)

// mayJoin are other clients who can be taught together with one, those taught last first.
func (s *Player) mayJoin(c *gin.Context, host int64) (out []people.ClientRow, err error) {
	rows, err := s.Store.Recent(c, s.Account(c), mostJoining)
	if err != nil {
		return nil, err
	}
	all, _, err := s.InTime(c, rows)
	if err != nil {
		return nil, err
	}
	open, err := s.Store.OpenSessions(c, s.Account(c))
	if err != nil {
		return nil, err
	}
	for i := range rows {
		r, holds := &rows[i], all[i]
		if r.ID == host || r.Intake != "" || holds == nil {
			continue
		}
		running := slices.ContainsFunc(open, func(t store.Taught) bool { return t.ClientID == r.ID })
		if !holds.Refer && !holds.Rest && !running {
			row := people.ClientRow{ID: r.ID, Name: r.Name}
			if holds.Ask != nil && holds.Ask.Day.Before(s.Today()) {
				row.Ask = holds.Ask
			}
			out = append(out, row)
		}
	}
	return out, nil
}

// mostJoining is how many clients are offered for a class (product default).
const mostJoining = 30

// beginClass opens the sessions of a small class: everybody was asked about warning signs and pain, does what suits
// them inside the host's seconds, and has a record of their own. Wrong says what keeps it from beginning.
func (s *Player) beginClass(
	c *gin.Context,
	pg *planning.PlanPage,
	pain float64,
	with []string,
) (id int64, wrong string, err error) {
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
	movers, wrong, err := s.movers(c, pg, with)
	if wrong != "" || err != nil {
		return 0, wrong, err
	}
	host, err := score.Build(
		pg.Plan,
		score.Facts{Catalogue: s.Catalogue(c), Client: pg.Person.Client, Log: pg.Person.Log, Ways: ways, Mover: movers,
			Mode: modeAsked(c)},
	)
	if err != nil {
		return 0, "", err
	}
	class := rand.Text()
	all := []store.Taught{
		{
			ClientID:  pg.Row.ClientID,
			PlanID:    sql.NullInt64{Int64: pg.Row.ID, Valid: true},
			Day:       s.Today(),
			Plan:      doc,
			PainStart: sql.NullFloat64{Float64: pain, Valid: true},
			Class:     class,
		},
	}
	scores := []*score.Score{host}
	for _, text := range with {
		member, mine, wrong, err := s.joining(c, text, pg.Plan, host, ways)
		if wrong != "" || err != nil {
			return 0, wrong, err
		}
		member.Class = class
		all = append(all, member)
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

// movers are what everybody in a class has to change position with: all are led the same way. Wrong says whom it
// would not lead to where the session goes.
func (s *Player) movers(c *gin.Context, pg *planning.PlanPage, with []string) (all *way.Mover, wrong string, err error) {
	movers := []*way.Mover{pg.Person.Req.Mover()}
	for _, text := range with {
		id, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return nil, fmt.Sprintf("with: found %q", text), nil
		}
		who, err := s.Person(c, id, 30)
		if err != nil {
			return nil, "", err
		}
		movers = append(movers, who.Req.Mover())
		for i := range pg.Plan.Items {
			if it := &pg.Plan.Items[i]; it.Role != trade.Reset && !way.Together(movers...).Reaches(it.Place()) {
				return nil, fmt.Sprintf("%s goes another way to %s than the others: a session of their own serves better.",
					who.Row.Name, catalogue.PositionWords(it.Position)), nil
			}
		}
	}
	return way.Together(movers...), "", nil
}

// joining is a member's session in a class, with their own score in the host's seconds; wrong says what keeps
// them from it.
func (s *Player) joining(c *gin.Context, id string, p *plan.Plan, host *score.Score, ways *score.Ways) (
	t store.Taught, mine *score.Score, wrong string, err error,
) {
	client, err := strconv.ParseInt(id, 10, 64)
	if err != nil {
		return t, nil, fmt.Sprintf("with: found %q", id), nil
	}
	who, err := s.Person(c, client, 30)
	if err != nil {
		return t, nil, "", err
	}
	name, typed := who.Row.Name, c.PostForm("pain."+id)
	pain, err := site.TypedNumber(typed)
	switch whole := who.Req.Whole; {
	case who.Req.Screening.Refer != nil || whole != nil && whole.Decision != trade.Stay:
		return t, nil, name + " does not take part today.", nil
	case c.PostForm("clear."+id) != "yes":
		return t, nil, "Ask " + name + " about warning signs first.", nil
	case err != nil || pain < 0 || pain > 10:
		return t, nil, fmt.Sprintf("%s, pain now: found %q, allowed: 0 to 10.", name, typed), nil
	case progress.StartCap(pain) > 0:
		return t, nil, fmt.Sprintf("%s begins with a pain of %g: gentle work alone, not in a class.", name, pain), nil
	}
	known := score.Facts{Catalogue: s.Catalogue(c), Client: who.Client, Log: who.Log, Ways: ways, Mover: who.Req.Mover()}
	m, own, _, err := spot.Join(id, name, p, host, who.Req, known)
	if no := (*spot.Refusal)(nil); errors.As(err, &no) {
		return t, nil, no.Why, nil
	}
	if err != nil {
		return t, nil, "", err
	}
	mine = m.Score(host)
	for i := range mine.Items {
		if v, ok := known.Catalogue.Version(mine.Items[i].Version); ok {
			mine.Items[i].Name, mine.Items[i].Revision, mine.Items[i].Load = v.Name, v.Revision, nil
			mine.Items[i].DoseSays = mine.Items[i].Dose.Words()
		}
	}
	doc, err := json.Marshal(own)
	now := sql.NullFloat64{Float64: pain, Valid: true}
	return store.Taught{ClientID: client, Day: s.Today(), Plan: doc, PainStart: now}, mine, "", err
}

// classMember is one of a class as the player shows them: what they do otherwise, by the number of the item, and
// from which pain they stop.
type classMember struct {
	ID       string               `json:"id"`
	Name     string               `json:"name"`
	StopFrom int                  `json:"stop_from"`
	Items    map[string]classItem `json:"items"`
}

type classItem struct {
	Name    string                `json:"name"`
	Version string                `json:"version"`
	Surface trade.Surface         `json:"surface"`
	Dose    string                `json:"dose"`
	Sides   map[trade.Side]string `json:"sides,omitempty"`
	Rests   bool                  `json:"rests,omitempty"`
	Cap     *score.Cap            `json:"cap,omitempty"` // since something happened
	Ease    string                `json:"ease,omitempty"`
	Short   string                `json:"short,omitempty"` // what that ease changes, in a few words
}

// sayMembers says at each set-up and change of sides what those in a class do otherwise by an ease; the one who
// leads is spoken to already.
func sayMembers(words []teachWords, sc *score.Score, class []classMember) {
	for i := range sc.Segments {
		g := &sc.Segments[i]
		if g.Kind != score.Setup && g.Kind != score.Change {
			continue
		}
		for n := 1; n < len(class); n++ {
			if own := class[n].Items[strconv.Itoa(g.Item)]; own.Short != "" && !own.Rests {
				words[i].Say = strings.TrimSpace(words[i].Say + " " + class[n].Name + ": " + own.Short)
			}
		}
	}
}

// classOf is everybody in a running class, the host first; nil when the session is no class.
func (s *Player) classOf(c *gin.Context, t *store.Taught) (out []classMember, err error) {
	if t.Class == "" {
		return nil, nil
	}
	rows, err := s.Store.ClassOf(c, s.Account(c), t.Class)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		row, err := s.Store.Client(c, s.Account(c), rows[i].ClientID)
		if err != nil {
			return nil, err
		}
		full, err := s.Store.Teaching(c, s.Account(c), rows[i].ID)
		if err != nil {
			return nil, err
		}
		k, err := teaching.Read(&full)
		if err != nil {
			return nil, err
		}
		cl, err := people.DocumentOf(&row)
		if err != nil {
			return nil, err
		}
		start, limit := painBounds(&full, cl)
		m := classMember{strconv.FormatInt(rows[i].ID, 10), row.Name, progress.StopFrom(start, limit), map[string]classItem{}}
		works := map[int]bool{}
		for j := range k.Score.Segments {
			if g := &k.Score.Segments[j]; g.Kind == score.Work {
				works[g.Item] = true
			}
		}
		for j := range k.Score.Items {
			it := &k.Score.Items[j]
			m.Items[strconv.Itoa(j)] = classItem{
				it.Name,
				it.Version,
				it.Surface,
				it.DoseSays,
				it.Sides,
				!works[j] && it.Role != trade.Reset,
				it.Cap,
				strings.Join(it.Eases, ""),
				it.Says.Short,
			}
		}
		out = append(out, m)
	}
	return out, nil
}

// fanned stores the marks of a class with everybody they are about, and what follows for them: what names nobody is
// about all. Say is what follows, by name.
func (s *Player) fanned(
	c *gin.Context,
	t *store.Taught,
	add store.Marking,
	marks []record.Mark,
) (late, say []string, err error) {
	rows, err := s.Store.ClassOf(c, s.Account(c), t.Class)
	if err != nil {
		return nil, nil, err
	}
	for i := range slices.Backward(rows) { // the one that leads comes last: what failed before is sent again
		one := add
		one.Marks = nil
		id := strconv.FormatInt(rows[i].ID, 10)
		var about []record.Mark
		for k := range marks {
			m := marks[k]
			theirs := m.Member == "" || m.Member == id
			if !theirs && rows[i].ID != t.ID {
				continue
			}
			row, err := teaching.Stored(&m)
			if err != nil {
				return nil, nil, err
			}
			one.Marks = append(one.Marks, row)
			if theirs {
				about = append(about, m)
			}
		}
		said, err := s.follows(c, &rows[i], about, &one)
		if err != nil {
			return nil, nil, err
		}
		say = append(say, said...)
		refused, err := s.Store.AddMarks(c, s.Account(c), rows[i].ID, one)
		if err != nil {
			return nil, nil, err
		}
		if rows[i].ID == t.ID {
			late = refused
		}
	}
	return late, say, nil
}

// follows works out what follows for one of a class from marks about them. The seconds stay everybody's: who does
// less rests; what is taken back is done again as before.
func (s *Player) follows(
	c *gin.Context,
	row *store.Taught,
	about []record.Mark,
	add *store.Marking,
) (say []string, err error) {
	m := lastThatMatters(about)
	if m == nil {
		return nil, nil
	}
	t, err := s.Store.Teaching(c, s.Account(c), row.ID)
	if err != nil || t.EndedAt.Valid || slices.ContainsFunc(t.Marks, func(k store.Mark) bool { return k.Key == m.Key }) {
		return nil, err
	}
	k, err := teaching.Read(&t)
	if err != nil || k.Score == nil {
		return nil, err
	}
	client, err := s.Store.Client(c, s.Account(c), t.ClientID)
	if err != nil {
		return nil, err
	}
	cl, err := people.DocumentOf(&client)
	if err != nil {
		return nil, err
	}
	var out *spot.Outcome
	if m.Kind == record.Undo {
		if out, err = back(&underway{t: t, k: k}, m.Pos, undone(about)); err != nil {
			return []string{client.Name + ": it stays as it is, " + err.Error()}, nil
		}
	} else {
		f := spot.Facts{Score: k.Score, InClass: true}
		f.Start, f.Limit = painBounds(&t, cl)
		out = f.Happens(m)
	}
	if told(k.Marks, m) && (out.Score == nil || out.Score.Because == "cap") {
		return nil, nil
	}
	for _, x := range out.Say {
		say = append(say, client.Name+": "+x)
	}
	if out.Score == nil {
		return say, nil
	}
	stored := *m
	stored.Score = out.Score.Rev
	doc, err := teaching.Stored(&stored)
	if err != nil {
		return nil, err
	}
	for i := range add.Marks {
		if add.Marks[i].Key == m.Key {
			add.Marks[i] = doc
		}
	}
	text, err := json.Marshal(out.Score)
	if err != nil {
		return nil, err
	}
	add.Score = &store.Score{Rev: out.Score.Rev, Document: text}
	return say, nil
}
