package people

import (
	"reflect"
	"sync"

	"github.com/gin-gonic/gin"

	"restbend/core/facts"
	"restbend/core/kinds"
)

// What a client's pages are worked out from is kept between requests: the verdicts, the decisions and what follows from
// them. It holds as long as its stamp: the client, their log, the limits, the catalogue and the day (ruling 68). One
// request at a time works with it; another one for the same client meanwhile works it out for itself.

// mostHeld is for how many clients it is kept (product default).
const mostHeld = 12

// held is what is kept of one client.
type held struct {
	mu     sync.Mutex
	stamp  stamp
	asked  map[asking]*facts.Request
	glance *glance
}

// asking is what a session is asked for: so many minutes, of a kind, empty for a free one.
type asking struct {
	minutes int
	kind    string
}

// heldKey is where a request keeps what it works with.
const heldKey = "held"

// hold gives a request what is kept of a client, nil when another request works with it.
func (s *People) hold(c *gin.Context, client int64, now stamp) *held {
	mine, _ := c.Value(heldKey).(map[int64]*held)
	if mine == nil {
		mine = map[int64]*held{}
		c.Set(heldKey, mine)
	}
	k := mine[client]
	if k == nil {
		var ok bool
		if k, ok = s.held.Get(client); !ok {
			k = &held{}
			if before, there, _ := s.held.PeekOrAdd(client, k); there {
				k = before
			}
		}
		if !k.mu.TryLock() {
			return nil
		}
		mine[client] = k
	}
	if k.stamp != now {
		k.stamp, k.asked, k.glance = now, map[asking]*facts.Request{}, nil
	}
	return k
}

// GiveBack gives back, when a request is over, what it worked with.
func GiveBack(c *gin.Context) {
	defer func() {
		mine, _ := c.Value(heldKey).(map[int64]*held)
		for _, k := range mine {
			k.mu.Unlock()
		}
	}()
	c.Next()
}

// request is what a session of so many minutes is made from.
func (s *People) request(c *gin.Context, p *Person, minutes int) (*facts.Request, error) {
	if p.held != nil {
		if r := p.held.asked[asking{minutes: minutes}]; r != nil {
			return r, nil
		}
		for _, r := range p.held.asked { // of other minutes
			r = r.For(nil).Lasting(minutes)
			p.held.asked[asking{minutes: minutes}] = r
			return r, nil
		}
	}
	log, err := s.LogOf(c, p.Row.ID) // its own: whoever reads a page may add to theirs
	if err != nil {
		return nil, err
	}
	r, err := facts.New(s.Catalogue(c), s.Limits(), s.Tasks, p.Client, log, minutes, s.Today())
	if err == nil && p.held != nil {
		p.held.asked[asking{minutes: minutes}] = r
	}
	return r, err
}

// For turns to another kind of session, nil for a free one.
func (p *Person) For(kind *kinds.Template) {
	if p.held == nil || kind == nil {
		if kind != nil || p.Req.Template != nil {
			p.Req = p.Req.For(kind)
		}
		return
	}
	a := asking{p.Req.Minutes, kind.Slug}
	r := p.held.asked[a]
	if r == nil || !reflect.DeepEqual(r.Template, kind) {
		r = p.Req.For(kind)
		p.held.asked[a] = r
	}
	p.Req = r
}
