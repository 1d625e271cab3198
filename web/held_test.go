package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"regexp"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/trade"
)

// What is worked out for a client's pages is kept between requests. Whatever it depends on changes, the client, their
// log, the limits, the catalogue and the day: the next page is the page of a program that kept nothing, and another one
// than before.
func TestWhatIsKeptFollowsEveryChange(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	_, page := p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	plan := regexp.MustCompile(`/plans/\d+`).FindString(page)
	p.do("POST", plan+"/best", url.Values{})
	paths := []string{"/clients/2", "/clients/2/verdicts", "/clients/2/course", plan, plan + "/start", plan + "/print", "/today", "/clients"}
	look := func(p *practice) (out []string) {
		for _, path := range paths {
			code, page := p.do("GET", path, nil)
			require.Less(t, code, 500, path)
			out = append(out, fmt.Sprint(code, page)) // a plan that no longer fits is not printed
		}
		return out
	}
	before := look(p)
	for _, c := range []struct {
		name   string
		change func()
		seen   []int // pages that must be other ones after it
	}{
		{"nothing", func() {}, nil},
		{"the client", func() {
			row, err := p.store.Client(context.Background(), 1, 2)
			require.NoError(t, err)
			var cl intake.Client
			require.NoError(t, json.Unmarshal(row.Document, &cl))
			cl.Conditions = append(cl.Conditions, intake.Condition{Code: "knee-pain", Side: "left"})
			row.Document, err = json.Marshal(cl)
			require.NoError(t, err)
			require.NoError(t, p.store.UpdateClient(context.Background(), 1, row))
		}, []int{0, 1, 3}},
		{"their log, a session", func() {
			code, page := p.do("POST", "/clients/2/plans", url.Values{"minutes": {"20"}})
			require.Equal(t, 200, code)
			own := regexp.MustCompile(`/plans/\d+`).FindString(page)
			code, page = p.do("POST", own+"/start", url.Values{"clear": {"yes"}, "pain": {"2"}})
			require.Equal(t, 200, code, regexp.MustCompile(`(?s)role="alert".{0,300}`).FindString(page))
			m := teachPath.FindStringSubmatch(page)
			require.NotNil(t, m, "%.400s", page)
			p.mark(m[1], sent("felt", "felt", 200, `, "felt": ["travels-down"], "item": 1, "side": "none"`))
			code, _ = p.do("POST", "/teach/"+m[1]+"/after", url.Values{"pain_end": {"6"}, "ended": {"symptom"}})
			require.Equal(t, 200, code)
		}, []int{0, 2}},
		{"the limits", func() {
			_, page := p.do("POST", "/limits/preview", url.Values{"key": {"disc-sciatica/lumbar.flexion.loaded"}, "value": {"1"}, "reason": {"as we were taught"}, "source": {"house rule"}})
			save, _ := p.previewed(page)
			code, _ := p.do("POST", save, url.Values{})
			require.Equal(t, 200, code)
		}, []int{1}},
		{"the catalogue", func() {
			ctx := context.Background()
			all, err := carried()
			require.NoError(t, err)
			v, _ := all.cat.Version("bridge")
			o, err := p.store.CreateOwn(ctx, 1, "own-bridge", "Own bridge", func(slug string) (string, error) {
				doc, err := v.Copy(slug, "Own bridge").YAML()
				return string(doc), err
			})
			require.NoError(t, err)
			require.NoError(t, p.store.UseOwn(ctx, 1, o.ID, o.Name, o.Draft, "{}", 1))
			code, _ := p.arrives(`{"format": "restbend.client/1", "name": "Quill Aster", "conditions": []}`) // the catalogue is made again
			require.Equal(t, 200, code)
		}, []int{0, 1}},
		{"the day", func() {
			day := p.server.Today().AddDays(40)
			p.server.Today = func() trade.Day { return day }
		}, []int{0}},
	} {
		c.change()
		fresh := practiceOn(t, p.store)
		fresh.server.Today = p.server.Today
		fresh.signIn()
		look(p)
		kept, anew := look(p), look(fresh)
		for i := range paths {
			assert.Equal(t, anew[i], kept[i], "%s: %s", c.name, paths[i])
		}
		for _, i := range c.seen {
			assert.NotEqual(t, before[i], kept[i], "%s changes %s", c.name, paths[i])
		}
		if c.name == "nothing" {
			assert.Equal(t, before, kept)
		}
		before = kept
	}
}

// Pages of one client asked for at the same time do not disturb each other.
func TestPagesAtTheSameTime(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("POST", "/clients/2/plans", url.Values{"minutes": {"20"}})
	plan := regexp.MustCompile(`/plans/\d+`).FindString(page)
	paths := []string{"/clients/2", plan, plan + "/start", "/clients/2/verdicts"}
	want := map[string]string{}
	for _, path := range paths {
		_, want[path] = p.do("GET", path, nil)
	}
	var all sync.WaitGroup
	for i := range 6 {
		all.Go(func() {
			for k := range 6 {
				path := paths[(i+k)%len(paths)]
				code, page := p.do("GET", path, nil)
				assert.Equal(t, 200, code)
				assert.Equal(t, want[path], page, fmt.Sprint(path, " beside others"))
			}
		})
	}
	all.Wait()
}
