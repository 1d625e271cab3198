package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/archive"
	"restbend/core/progress"
)

// last is the client's last log session as it is stored.
func (p *practice) last(client int64) (s progress.Session) {
	p.t.Helper()
	docs, err := p.store.Logs(context.Background(), client)
	require.NoError(p.t, err)
	require.NoError(p.t, json.Unmarshal(docs[len(docs)-1], &s))
	return s
}

// ran begins a session, lets it flow by itself to its end hours ago, and closes it.
func (p *practice) ran() string {
	id := p.teach()
	t0, err := p.store.Teaching(context.Background(), 1, number(p.t, id))
	require.NoError(p.t, err)
	var sc struct{ Seconds float64 }
	require.NoError(p.t, json.Unmarshal(t0.Score(), &sc))
	p.mark(id, strings.Replace(sent("s", "start", 0, `, "mode": "flowing"`), today.String(), "2026-01-01", 1))
	code, _ := p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"2"}, "ended": {"done"}})
	require.Equal(p.t, 200, code)
	return id
}

func number(t require.TestingT, id string) int64 {
	n, err := strconv.ParseInt(id, 10, 64)
	require.NoError(t, err)
	return n
}

// What ran with nobody there is not done until somebody says so, in one line; lines are corrected in place, each
// correction with who, when and why, and back again.
func TestCorrections(t *testing.T) {
	p := start(t, true).signIn()
	id := p.ran()
	s := p.last(2)
	for i := range s.Items {
		assert.Empty(t, s.Items[i].EndedBy, "never target reached")
		assert.False(t, *s.Items[i].Confirmed)
	}
	_, page := p.do("GET", "/teach/"+id+"/after", nil)
	assert.Contains(t, page, fmt.Sprintf("%d ran with nobody seen there", len(s.Items)))
	_, page = p.do("POST", "/teach/"+id+"/correct", url.Values{"line": {"all"}})
	assert.NotContains(t, page, "nobody seen there")
	s = p.last(2)
	assert.Equal(t, "target", s.Items[0].EndedBy)
	was := s.Items[0]
	change := func(v url.Values) (int, string) {
		v.Set("line", "0")
		return p.do("POST", "/teach/"+id+"/correct", v)
	}
	code, page := change(url.Values{"done.reps": {"1"}, "ended_by": {"form"}, "helped": {"held"}, "surface_cm": {"43"}, "why": {"miscounted"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "miscounted")
	s = p.last(2)
	got := s.Items[0]
	assert.Equal(t, 1, got.Done.Reps)
	assert.Equal(t, "form", got.EndedBy)
	assert.Equal(t, "held", got.Helped)
	assert.Equal(t, 43.0, got.Load.SurfaceCM)
	require.Len(t, got.Corrections, 5, "confirmed, and four now")
	assert.Equal(t, "fennick", got.Corrections[1].By)
	assert.Equal(t, "miscounted", got.Corrections[1].Why)
	change(url.Values{"done.reps": {fmt.Sprint(was.Done.Reps)}, "ended_by": {"target"}, "helped": {""}, "surface_cm": {""}})
	s = p.last(2)
	got = s.Items[0]
	assert.Equal(t, was.Done, got.Done)
	assert.Equal(t, "target", got.EndedBy)
	for want, v := range map[string]url.Values{"done.reps: found": {"done.reps": {"100000"}}, "allowed: a whole number": {"done.sets": {"two"}}, "ended_by: found": {"ended_by": {"luck"}}, "Height: found": {"surface_cm": {"high"}}} {
		code, page := change(v)
		assert.Equal(t, 422, code)
		assert.Contains(t, page, want)
	}
	code, _ = p.do("POST", "/teach/"+id+"/correct", url.Values{"line": {"99"}})
	assert.Equal(t, 422, code)
	// What is said of the session itself is corrected too; nothing changes what was not touched.
	_, page = p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"3"}, "ended": {"time"}, "notes": {"late"}, "felt.0.word": {"tiring"}, "felt.0.item": {"0"}})
	assert.Contains(t, page, "late")
	s = p.last(2)
	assert.Equal(t, 3.0, *s.PainEnd)
	assert.Equal(t, "time", s.Ended)
	assert.Equal(t, []string{"tiring"}, s.Items[0].Felt)
	assert.Equal(t, was.Done, s.Items[0].Done)
}

// A word for next time holds a step up, or keeps an exercise out of new plans; it is taken back by the same touch.
func TestTheInstructorsWordForNextTime(t *testing.T) {
	p := start(t, true).signIn()
	id := p.ran()
	p.do("POST", "/teach/"+id+"/correct", url.Values{"line": {"all"}})
	p.do("POST", "/teach/"+id+"/follow-up", url.Values{"peak": {"0"}, "settled": {"0"}})
	s := p.last(2)
	version := s.Items[0].Version
	p.do("POST", "/teach/"+id+"/next", url.Values{"version": {version}, "word": {"not"}})
	assert.Equal(t, "not", p.last(2).Items[0].Next)
	_, page := p.do("GET", p.planned(2), nil)
	assert.NotContains(t, page, fmt.Sprintf(`/figures/%s.svg`, version), "not again")
	_, page = p.do("POST", "/teach/"+id+"/next", url.Values{"word": {"same"}})
	assert.Contains(t, page, "same again")
	for _, it := range p.last(2).Items {
		assert.Equal(t, "same", it.Next)
	}
	assert.NotContains(t, page, `d-up`)
	code, _ := p.do("POST", "/teach/"+id+"/next", url.Values{"word": {"maybe"}})
	assert.Equal(t, 422, code)
}

// The start of the day: what is open, who is to be asked, what is planned.
func TestToday(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/", nil)
	assert.Contains(t, page, "Nobody to ask", "every demo client has answered")
	id := p.teach()
	_, page = p.do("GET", "/today", nil)
	assert.Contains(t, page, "/teach/"+id, "still open")
	p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"1"}})
	_, page = p.do("GET", "/today", nil)
	assert.NotContains(t, page, "/teach/"+id+"/follow-up", "due the next day, not before")
	_, err := p.store.DB.Exec(`UPDATE taught SET day = ? WHERE id = ?`, today.AddDays(-1).String(), id)
	require.NoError(t, err)
	_, page = p.do("GET", "/today", nil)
	assert.Contains(t, page, "/teach/"+id+"/follow-up")
	_, page = p.do("POST", "/teach/"+id+"/follow-up", url.Values{"from": {"today"}, "peak": {"2"}, "settled": {"24"}, "kind": {"muscle"}, "effect": {"better"}})
	assert.Contains(t, page, "Nobody to ask")
	said := p.last(2)
	assert.Equal(t, 2.0, said.Sore().Peak)
	at := p.planned(1)
	p.do("POST", at+"/day", url.Values{"day": {today.String()}})
	_, page = p.do("GET", "/today", nil)
	assert.Contains(t, page, at+"/start")
}

// More than was planned: a set, a minute, another rate of breath; each a new revision of the score that is taken
// back until it runs; a stale one is told so.
func TestChangesOfARunningSession(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	score := func() (d struct {
		Score struct {
			Rev      int
			Seconds  float64
			Breaths  float64 `json:"breaths_per_minute"`
			Segments []struct {
				Kind       string
				Start, End float64
			}
		}
	}) {
		_, page := p.do("GET", "/teach/"+id+"/data", nil)
		require.NoError(t, json.Unmarshal([]byte(page), &d))
		return d
	}
	before := score().Score
	at := 0.0
	for _, s := range before.Segments {
		if s.Kind == "work" {
			at = s.Start + 1
			break
		}
	}
	ask := func(what string, rev int, more string) (int, string) {
		return p.json("/teach/"+id+"/change", fmt.Sprintf(`{"key": "%s-%d", "device": "d", "at": "2026-11-20T09:31:04Z", "rev": %d, "pos": %g, "what": %q%s}`, what, rev, rev, at, what, more))
	}
	code, page := ask("repeat", 1, "")
	require.Equal(t, 200, code, page)
	assert.Contains(t, page, "one more set")
	longer := score().Score
	assert.Equal(t, 2, longer.Rev)
	assert.Greater(t, longer.Seconds, before.Seconds)
	code, page = ask("minute", 1, "")
	assert.Equal(t, 422, code, "an older revision")
	assert.Contains(t, page, "changed elsewhere")
	code, _ = ask("undo", 2, "")
	assert.Equal(t, 200, code)
	assert.Equal(t, before.Seconds, score().Score.Seconds)
	code, _ = ask("minute", 3, "")
	assert.Equal(t, 200, code)
	code, page = ask("breaths", 4, `, "per_minute": 8`)
	require.Equal(t, 200, code, page)
	assert.Equal(t, 8.0, score().Score.Breaths)
	for _, bad := range []string{"dance", "breaths"} {
		code, page = ask(bad, 5, `, "per_minute": 90`)
		assert.Equal(t, 422, code, page)
	}
	p.do("POST", "/teach/"+id+"/after", url.Values{})
	code, page = ask("repeat", 5, "")
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "has ended")
}

var decided = regexp.MustCompile(`(?s)<tr><td>([^<]+).{0,200}?<span class="decision d-(\w+)">.*?<td>(.*?) <span class="rule">`)

// decisions are those of a client as their page has them.
func (p *practice) decisions(client int64) (out []string) {
	p.t.Helper()
	for _, m := range decided.FindAllStringSubmatch(p.page(client), -1) {
		out = append(out, strings.Join(m[1:], ": "))
	}
	return out
}

// importBundle brings in what another practice exported.
func (p *practice) importBundle(doc string) error {
	cat, err := restbend.Catalogue()
	if err != nil {
		return err
	}
	rules, err := restbend.Rules()
	if err != nil {
		return err
	}
	b, _, err := archive.Read(strings.NewReader(doc), cat, rules, today)
	if err != nil {
		return err
	}
	return archive.Add(context.Background(), p.store, 1, b)
}
