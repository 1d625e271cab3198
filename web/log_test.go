package web

import (
	"database/sql"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/dose"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
	"restbend/store"
)

// fold makes a session's log from the entries the player sent.
func fold(t *testing.T, p plan.Plan, entries ...string) progress.Session {
	t.Helper()
	doc, err := json.Marshal(p)
	require.NoError(t, err)
	s := &store.Taught{Day: trade.MustDay("2026-11-20"), Plan: doc, RedFlags: []byte(`["fainting"]`), PainStart: sql.NullFloat64{Float64: 2, Valid: true}, SorePeak: sql.NullFloat64{Float64: 1, Valid: true}, SoreSettledH: sql.NullFloat64{Float64: 9, Valid: true}}
	for _, e := range entries {
		s.Entries = append(s.Entries, store.Entry{Document: []byte(e)})
	}
	out, err := sessionLog(s)
	require.NoError(t, err)
	return out
}

func TestEntriesBecomeALog(t *testing.T) {
	p := plan.Plan{Items: []plan.Item{
		{Version: "clam", Side: "each", Dose: dose.Dose{Sets: 1, Reps: 8}},
		{Version: "bridge", Side: "none", Dose: dose.Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10}},
		{Version: "low-breath-supine", Side: "none", Dose: dose.Dose{Sets: 1, Reps: 1, HoldBreaths: 5}},
	}}
	s := fold(t, p,
		`{"kind":"done","item":0,"side":"left","done":{"sets":1,"reps":8},"ended_by":"target"}`,
		`{"kind":"form","item":0,"side":"right","s":14,"rep":5}`,
		`{"kind":"done","item":0,"side":"right","done":{"sets":1,"reps":4},"ended_by":"choice"}`,
		`{"kind":"symptom","item":1,"side":"none","rep":7,"s":60}`,
		`{"kind":"pain","item":1,"side":"none"}`,
		`{"kind":"pain","item":1,"side":"none","pain":4,"where":"back"}`,
		`{"kind":"skip","item":2,"side":"none"}`,
		`{"kind":"ease","item":99,"side":"none"}`)
	require.Len(t, s.Items, 4, "one item per exercise and side; what cannot be read is left out")
	left, right, bridge, breath := s.Items[0], s.Items[1], s.Items[2], s.Items[3]
	assert.Equal(t, "target", left.EndedBy)
	assert.Equal(t, "form", right.EndedBy, "what was seen stands, the player's own ending does not replace it")
	assert.Equal(t, 14.0, *right.FormLostS)
	assert.Equal(t, 4, right.Done.Reps)
	assert.Equal(t, progress.Amount{Sets: 1, Reps: 12, HoldS: 10}, bridge.Target, "a pyramid is one target of all its repetitions")
	assert.Equal(t, 7, *bridge.SymptomRep)
	assert.Equal(t, 4.0, *bridge.Pain)
	assert.Equal(t, "back", bridge.Where)
	assert.Equal(t, "choice", breath.EndedBy)
	assert.Equal(t, 5, breath.Target.HoldBreaths)
	assert.Equal(t, []string{"fainting"}, s.RedFlags)
	assert.Equal(t, 9.0, s.Soreness.SettledH)
	assert.Nil(t, s.PainEnd)
}

func TestAnUnfinishedItemIsKept(t *testing.T) {
	p := plan.Plan{Items: []plan.Item{{Version: "clam", Side: "each", Dose: dose.Dose{Sets: 1, Reps: 8}}}}
	s := fold(t, p, `{"kind":"ease","item":0,"side":"left"}`)
	require.Len(t, s.Items, 1, "an entry without its ending still counts as done nothing")
	assert.Zero(t, s.Items[0].Done)
	assert.Empty(t, s.Items[0].Seen, "an ease is a note, no fault")
	assert.Equal(t, "eased: clam", s.Notes)
}
