package web_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mutate changes one place of a document, drawn: a number beyond sense, a text too long, a list too often, a field
// gone or of another kind.
func mutate(rng *rand.Rand, doc any) any {
	type slot struct {
		set func(any)
		was any
	}
	var slots []slot
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case map[string]any:
			for k, x := range v {
				slots = append(slots, slot{func(n any) {
					if n == nil {
						delete(v, k)
						return
					}
					v[k] = n
				}, x})
				walk(x)
			}
		case []any:
			for i, x := range v {
				slots = append(slots, slot{func(n any) { v[i] = n }, x})
				walk(x)
			}
		}
	}
	walk(doc)
	s := slots[rng.IntN(len(slots))]
	switch was := s.was.(type) {
	case float64:
		s.set([]any{-1.0, 0.0, was + 1, 1e6, 1e9, -99.0, "x", 0.5, was * 20, 13.0}[rng.IntN(10)])
	case string:
		s.set([]any{"", "x", strings.Repeat("long ", 900), "2999-01-01", "bridge", "left", 7.0, "own-gone-9", was + " ", "osteoporosis"}[rng.IntN(10)])
	case []any:
		if len(was) > 0 && rng.IntN(2) == 0 {
			for len(was) < 90 {
				was = append(was, was[0])
			}
			s.set(was)
		} else {
			s.set([]any{})
		}
	case bool:
		s.set(!was)
	default:
		s.set([]any{nil, "x", 3.0, []any{}}[rng.IntN(4)])
	}
	return doc
}

// A document that was changed anywhere is refused, or comes in and every page about it answers in a moment.
func TestMutatedDocuments(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	n := 60
	if attack() {
		n = 300
	}
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", map[string][]string{"minutes": {"30"}})
	_, doc := p.do("GET", "/clients/2/export", nil)
	rng := rand.New(rand.NewPCG(5, 23))
	in, out := 0, 0
	link := regexp.MustCompile(`/(plans|teach)/\d+(/after)?`)
	for i := range n {
		var v any
		require.NoError(t, json.Unmarshal([]byte(doc), &v))
		for range 1 + rng.IntN(3) {
			v = mutate(rng, v)
		}
		if m, ok := v.(map[string]any); ok {
			if cs, ok := m["clients"].([]any); ok && len(cs) > 0 {
				if c, ok := cs[0].(map[string]any); ok {
					delete(c, "uid")
					if cl, ok := c["client"].(map[string]any); ok && cl["name"] == "Teo Marlack" {
						cl["name"] = fmt.Sprintf("Mutant %d", i)
					}
				}
			}
		}
		text, err := json.Marshal(v)
		require.NoError(t, err)
		at := time.Now()
		code, page := p.arrives(string(text))
		assert.Less(t, time.Since(at), 4*time.Second)
		if !assert.Less(t, code, 500, "%d: %.400s", i, page) {
			return
		}
		if code == 422 {
			out++
			continue
		}
		var id int64
		if p.store.DB.QueryRow(`SELECT max(id) FROM clients`).Scan(&id) != nil || id <= 4 {
			continue
		}
		in++
		paths := []string{"", "/verdicts", "/course", "/history", "/tests", "/intake/person", "/intake/conditions", "/export"}
		_, course := p.do("GET", fmt.Sprintf("/clients/%d/course", id), nil)
		for k, path := range paths {
			paths[k] = fmt.Sprintf("/clients/%d%s", id, path)
		}
		for _, path := range append(append(paths, link.FindAllString(course, 12)...), "/today", "/clients") {
			at := time.Now()
			code, page := p.do("GET", path, nil)
			assert.Less(t, code, 500, "%d: %s: %.300s", i, path, page)
			assert.Less(t, time.Since(at), 4*time.Second, "%d: %s", i, path)
		}
		_, again := p.do("GET", fmt.Sprintf("/clients/%d/export", id), nil)
		code, page = p.arrives(again)
		assert.Less(t, code, 400, "%d: what came in does not come back: %.400s", i, page)
		_, err = p.store.DB.Exec(`DELETE FROM clients WHERE id > 4`)
		require.NoError(t, err)
		if t.Failed() {
			return
		}
	}
	t.Logf("%d came in, %d were refused", in, out)
	assert.Positive(t, in)
	assert.Positive(t, out)
}
