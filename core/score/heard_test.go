package score_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/propose"
	"restbend/core/score"
	"restbend/plantest"
)

// A session of twenty minutes with its words, as the browser's module is tested with: kept beside its tests.
func TestTheSessionTheModuleIsTestedWith(t *testing.T) {
	const file = "../../web/static_test/testdata/session.json"
	tr, err := plantest.Load()
	require.NoError(t, err)
	r, err := tr.Request(31007)
	require.NoError(t, err)
	p, err := propose.Quick(r.Lasting(20))
	require.NoError(t, err)
	s, err := score.Build(p, score.Facts{Catalogue: tr.Cat, Client: r.Client, Ways: ways(t), Mover: r.Mover()})
	require.NoError(t, err)
	type words struct {
		Say   string   `json:"say,omitempty"`
		Count []string `json:"count,omitempty"`
	}
	doc := struct {
		Score *score.Score `json:"score"`
		Words []words      `json:"words"`
	}{Score: s}
	for i := range s.Segments {
		w := s.Words(i, score.Full, true)
		doc.Words = append(doc.Words, words{w.Say, w.Count})
	}
	got, err := json.Marshal(doc)
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile(file, append(got, '\n'), 0o644))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got))
}
