package planning

import (
	"bytes"
	"fmt"
	"hash/fnv"
	"log/slog"
	"net/http"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"restbend/web/site"
)

// benchParts are the parts of the session's working surface. An answer to a change holds
// only those that are not as they were sent last.
var benchParts = []string{"bench-head", "bench-line", "bench-list", "bench-panel", "bench-facts", "bench-limits"}

// sentParts remembers what each open session last showed, by account and plan.
type sentParts struct {
	mu    sync.Mutex
	plans *lru.Cache[string, map[string]uint64]
}

// mostSent bounds the memory of what was sent.
const mostSent = 500

// swap keeps what is sent now and tells which parts differ from before; all do when
// nothing is known of the state the request was made on.
func (s *sentParts) swap(before, now string, parts map[string]uint64) (changed map[string]bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.plans == nil {
		s.plans = site.Bounded[string, map[string]uint64](mostSent)
	}
	known, _ := s.plans.Get(before)
	changed = map[string]bool{}
	for name, sum := range parts {
		changed[name] = known == nil || known[name] != sum
	}
	s.plans.Add(now, parts)
	return changed
}

// forget makes the next answer whole.
func (s *sentParts) forget(plan int64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.plans == nil {
		return
	}
	for _, key := range s.plans.Keys() {
		if strings.HasPrefix(key, fmt.Sprintf("%d/", plan)) {
			s.plans.Remove(key)
		}
	}
}

// showPlan answers with the whole page, or to a change with the parts that changed.
func (s *Planning) showPlan(c *gin.Context, status int, pg *PlanPage) {
	s.FillPlan(pg, s.Catalogue(c))
	if c.GetHeader("HX-Request") != "true" {
		s.Render(c, status, "plan", "", "Session for "+pg.Person.Row.Name, pg)
		return
	}
	bodies, sums := map[string][]byte{}, map[string]uint64{}
	data := site.Page{Data: pg}
	for _, part := range append([]string{"bench-said"}, benchParts...) {
		var buf bytes.Buffer
		if err := s.Pages["plan"].ExecuteTemplate(&buf, part, data); err != nil {
			slog.Error("template", "part", part, "error", err)
			c.String(http.StatusInternalServerError, "Something went wrong while drawing this page.")
			return
		}
		bodies[part] = buf.Bytes()
		h := fnv.New64a()
		_, _ = h.Write(buf.Bytes())
		sums[part] = h.Sum64()
	}
	// The page names what it shows: a random name it was given with the parts.
	view := c.GetHeader("X-View")
	if c.PostForm("view") != "" {
		view = c.PostForm("view")
	}
	key := fmt.Sprintf("%d/%d/%.40s", pg.Row.ID, s.Account(c), view)
	changed := s.sent.swap(key, key, sums)
	out := bodies["bench-said"]
	for _, part := range benchParts {
		if changed[part] {
			out = append(out, bodies[part]...)
		}
	}
	c.Data(status, "text/html; charset=utf-8", out)
}
