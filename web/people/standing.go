package people

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/site"
)

// What follows from everything known of a client is worked out once and kept until something changes: the client,
// their log, the limits, the catalogue or the day.

// stamp tells whether anything changed of which a standing is made.
type stamp struct {
	revision, logRev int64
	day              trade.Day
	rules            *safety.Rules
	cat              *catalogue.Catalogue
}

// standing is what holds for a client today, as lists show it.
type standing struct {
	stamp       stamp
	Refer, Rest bool
	Endings     []string // of clearances, soon
	Ask         *TodayRow
}

// mostStandings is how many are kept: a big practice (product default).
const mostStandings = 20000

// People are the pages of clients: the list, the intake, tests, history, and files of them.
type People struct {
	*site.Site
	standings *lru.Cache[int64, *standing]
	logs      *lru.Cache[int64, readLog]
	held      *lru.Cache[int64, *held]
	working   atomic.Bool // on standings, beside the pages
	closed    atomic.Bool
	arrivals  *lru.Cache[string, *arriving] // files that wait for a choice
}

// New prepares the pages of clients.
func New(s *site.Site) *People {
	return &People{
		Site:      s,
		standings: site.Bounded[int64, *standing](mostStandings),
		logs:      site.Bounded[int64, readLog](mostLogs),
		held:      site.Bounded[int64, *held](mostHeld),
		arrivals:  site.Bounded[string, *arriving](4),
	}
}

// StopAhead waits for the end of the work beside the pages.
func (s *People) StopAhead() {
	s.closed.Store(true)
	for s.working.Load() {
		time.Sleep(5 * time.Millisecond)
	}
}

// Working tells that standings are worked out beside the pages.
func (s *People) Working() bool { return s.working.Load() }

// stampOf is what a standing of a client would be made of now.
func (s *People) stampOf(c *gin.Context, r *store.Client) stamp {
	return stamp{r.Revision, r.LogRev, s.Today(), s.Limits(), s.Catalogue(c)}
}

// known is the kept standing of a client, when it still holds.
func (s *People) known(c *gin.Context, r *store.Client) (*standing, bool) {
	k, ok := s.standings.Get(r.ID)
	return k, ok && k.stamp == s.stampOf(c, r)
}

// holdsFor says of a client what holds for them today, as their own page says it.
func (s *People) holdsFor(c *gin.Context, r *store.Client) (*standing, error) {
	if k, ok := s.known(c, r); ok {
		return k, nil
	}
	if len(r.Document) == 0 { // a row of stamps
		whole, err := s.Store.Client(c, s.Account(c), r.ID)
		if err != nil {
			return nil, err
		}
		r = &whole
	}
	cl, err := DocumentOf(r)
	if err != nil {
		return nil, err
	}
	sc, err := safety.NewScreener(s.Limits(), s.Catalogue(c), cl, s.Today())
	if err != nil {
		return nil, fmt.Errorf("client %d: %w", r.ID, err)
	}
	log, err := s.LogOf(c, r.ID)
	if err != nil {
		return nil, err
	}
	whole := facts.ForEveryone(s.Catalogue(c), sc, cl, log, s.Today())
	out := &standing{stamp: s.stampOf(c, r)}
	out.Refer = whole != nil && whole.Decision == trade.Refer
	out.Rest = whole != nil && whole.Decision == trade.Rest
	for _, e := range sc.EndsSoon() {
		out.Endings = append(out.Endings, fmt.Sprintf("%s cleared until %s", strings.ReplaceAll(e.Code, "-", " "), e.On))
	}
	asked, err := s.Unanswered(c, r.ID)
	if err != nil {
		return nil, err
	}
	if asked != nil {
		out.Ask = &TodayRow{ID: asked.ID, ClientID: r.ID, Name: r.Name, Day: asked.Day}
	}
	s.standings.Add(r.ID, out)
	return out, nil
}

// standAside is how long a page waits for standings that are not kept yet; the rest is said to be pending, and done
// beside it.
const standAside = 45 * time.Millisecond

// StandingsOf are the standings of all clients an account may read; pending is how many are still worked out.
func (s *People) StandingsOf(c *gin.Context) (rows []store.Client, out []*standing, pending int, err error) {
	if rows, err = s.Store.Stamps(c, s.Account(c)); err != nil {
		return nil, nil, 0, err
	}
	out, pending, err = s.InTime(c, rows)
	return rows, out, pending, err
}

// InTime are the standings of the clients of a page as far as there is time: nil for those that are worked out beside
// it. However long one client takes, the page waits no longer.
func (s *People) InTime(c *gin.Context, rows []store.Client) (out []*standing, pending int, err error) {
	out = make([]*standing, len(rows))
	var open []int
	for i := range rows {
		if k, ok := s.known(c, &rows[i]); ok {
			out[i] = k
		} else {
			open = append(open, i)
		}
	}
	if len(open) == 0 {
		return out, 0, nil
	}
	until := time.Now().Add(standAside)
	beside := s.workAhead(c, rows)
	for len(open) > 0 && time.Now().Before(until) {
		if !beside { // somebody else's page is being worked for
			if out[open[0]], err = s.holdsFor(c, &rows[open[0]]); err != nil {
				return nil, 0, err
			}
			open = open[1:]
			continue
		}
		open = slices.DeleteFunc(open, func(i int) bool {
			k, ok := s.known(c, &rows[i])
			if ok {
				out[i] = k
			}
			return ok
		})
		if len(open) > 0 {
			time.Sleep(2 * time.Millisecond)
		}
	}
	return out, len(open), nil
}

// mostFailed is how many clients that cannot be read end the work beside the pages: it is not they, it is the database.
const mostFailed = 20

// workAhead works out beside the pages what is not known yet, once at a time. A client that cannot be read is said in
// the log and on their own page, and ends nothing here. It tells whether it has begun.
func (s *People) workAhead(c *gin.Context, rows []store.Client) (begun bool) {
	if !s.working.CompareAndSwap(false, true) {
		return false
	}
	own := c.Copy()
	ctx := context.WithoutCancel(c.Request.Context())
	own.Request = own.Request.WithContext(ctx)
	account := s.Account(c)
	go func() {
		defer s.working.Store(false)
		defer func() {
			if p := recover(); p != nil {
				slog.Error("panic", "work", "standings", "error", p)
			}
		}()
		for i, failed := 0, 0; i < len(rows); i++ {
			if s.closed.Load() || failed > mostFailed {
				return
			}
			if _, ok := s.known(own, &rows[i]); ok {
				continue
			}
			whole, err := s.Store.Client(ctx, account, rows[i].ID)
			if err == nil {
				_, err = s.holdsFor(own, &whole)
			}
			if err != nil {
				failed++
				slog.Warn("standing", "client", rows[i].ID, "error", err)
			}
		}
	}()
	return true
}

// mostLogs is how many clients' logs are kept read (product default).
const mostLogs = 12

type readLog struct {
	rev int64
	log *progress.Log
}

// LogOf reads a client's log; what was read last is kept until something changes. Whoever gets it may add sessions.
func (s *People) LogOf(ctx context.Context, client int64) (*progress.Log, error) {
	rev, err := s.Store.LogRev(ctx, client)
	if err != nil {
		return nil, err
	}
	if k, ok := s.logs.Get(client); ok && k.rev == rev {
		own := *k.log
		own.Sessions = append(make([]progress.Session, 0, len(k.log.Sessions)+1), k.log.Sessions...)
		return &own, nil
	}
	docs, err := s.Store.Logs(ctx, client)
	if err != nil {
		return nil, err
	}
	log := &progress.Log{Format: "restbend.log/1", Sessions: make([]progress.Session, len(docs))}
	for i, doc := range docs {
		if err := json.Unmarshal(doc, &log.Sessions[i]); err != nil {
			return nil, fmt.Errorf("client %d, session %d: %w", client, i+1, err)
		}
		// reading leaves room for twice as many lines: a kept log has none
		log.Sessions[i].Items = append(make([]progress.Item, 0, len(log.Sessions[i].Items)), log.Sessions[i].Items...)
	}
	s.logs.Add(client, readLog{rev, log})
	own := *log
	own.Sessions = append(make([]progress.Session, 0, len(log.Sessions)+1), log.Sessions...)
	return &own, nil
}
