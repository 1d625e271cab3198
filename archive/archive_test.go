package archive_test

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/archive"
	"restbend/core/catalogue"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/exchange"
	"restbend/store"
)

func filled(t testing.TB) (*store.Store, *catalogue.Catalogue, *safety.Rules) {
	t.Helper()
	ctx := context.Background()
	st := empty(t)
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	require.NoError(t, demo.Fill(ctx, st, cat, rules, trade.DayOf(time.Now(), time.Local)))
	return st, cat, rules
}

func empty(t testing.TB) *store.Store {
	t.Helper()
	st, err := store.Open(context.Background(), filepath.Join(t.TempDir(), "x.db"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	return st
}

// Everything goes out, comes into an empty practice, and goes out the same.
func TestEverythingSurvivesTheWayOutAndIn(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	ctx := context.Background()
	st, cat, rules := filled(t)
	require.NoError(t, st.AddResults(ctx, 2, store.Results{Day: trade.MustDay("2026-11-18"), Document: []byte(`{"format": "restbend.results/1", "date": "2026-11-18", "results": {"tandem_s": 8}}`)}))
	id, err := st.CreatePlan(ctx, store.Plan{ClientID: 2, ClientRevision: 1, Document: []byte(`{"items": []}`)})
	require.NoError(t, err)
	sc, err := os.ReadFile("../docs/formats/examples/score.json")
	require.NoError(t, err)
	_, _, err = st.StartTeaching(ctx, store.Taught{ClientID: 2, Day: trade.MustDay("2026-11-20"), Plan: []byte(`{"items": []}`), Scores: []store.Score{{Rev: 1, Document: sc}}})
	require.NoError(t, err)
	assert.Positive(t, id)
	out, err := archive.Everything(ctx, st)
	require.NoError(t, err)
	assert.Len(t, out.Clients, 4)
	doc, err := json.Marshal(out)
	require.NoError(t, err)
	assert.NotContains(t, string(doc), "argon2", "no password leaves")

	back, err := archive.Read(bytes.NewReader(doc), cat, rules, trade.DayOf(time.Now(), time.Local))
	require.NoError(t, err)
	other := empty(t)
	account, err := other.CreateAccount(ctx, "lowen", "x")
	require.NoError(t, err)
	require.NoError(t, archive.Add(ctx, other, account, back))
	again, err := archive.Everything(ctx, other)
	require.NoError(t, err)
	for i := range again.Clients {
		for k := range again.Clients[i].Plans {
			again.Clients[i].Plans[k].ID = out.Clients[i].Plans[k].ID // numbers are the database's own
		}
	}
	want, err := json.Marshal(out)
	require.NoError(t, err)
	got, err := json.Marshal(again)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got))
	problems, _, err := archive.Examine(ctx, other, cat, rules, trade.DayOf(time.Now(), time.Local))
	require.NoError(t, err)
	assert.Empty(t, problems)
}

func TestMistakesInABundleNameTheField(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	_, cat, rules := filled(t)
	for doc, want := range map[string]string{
		`nonsense`: "is not JSON",
		`{"format": "restbend.bundle/1", "clients": [], "extra": 1}`:                                                                                                  "extra: unknown field",
		`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": [{"code": "sciatica"}]}}]}`:                `clients[0].client.conditions[0].code: found "sciatica"`,
		`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "conditions": []}}]}`:                                                 "clients[0].client.name: is missing",
		`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": []}, "results": [{"a": 1}]}]}`:             "clients[0].results[0].a: unknown field",
		`{"format": "restbend.bundle/1", "clients": [], "limits": [{"key": "stenosis/lumbar.extension.loaded", "value": 999, "reason": "r", "who": "w", "at": "t"}]}`: "limits.stenosis/lumbar.extension.loaded: found 999, allowed: 0 to 180",
		`{"format": "restbend.bundle/1", "clients": [], "own": ["- version: x"]}`:                                                                                     "own[0]",
		`{"format": "restbend.client/1", "conditions": []}`:                                                                                                           "name: is missing",
		`{"format": "restbend.bundle/1", "clients": [{"client": {}, "taught": [{"day": "2026-02-30", "plan": {}}]}]}`:                                                 "clients[0].taught[0].day",
	} {
		_, err := archive.Read(strings.NewReader(doc), cat, rules, trade.DayOf(time.Now(), time.Local))
		var p exchange.Problems
		require.ErrorAs(t, err, &p, doc)
		assert.Contains(t, err.Error(), want)
	}
}

// A bundle with one bad entry adds nobody.
func TestAllOrNone(t *testing.T) {
	ctx := context.Background()
	st := empty(t)
	account, err := st.CreateAccount(ctx, "lowen", "x")
	require.NoError(t, err)
	good := archive.Client{Client: json.RawMessage(`{"name": "A"}`)}
	bad := archive.Client{Client: json.RawMessage(`{"name": "B"}`), Taught: []archive.Taught{{Day: trade.MustDay("2026-01-01"), Plan: json.RawMessage(`{}`), Entries: []archive.Entry{{Key: "k", Kind: "done", Entry: json.RawMessage(`{}`)}, {Key: "k", Kind: "done", Entry: json.RawMessage(`{}`)}}}}}
	assert.Error(t, archive.Add(ctx, st, account, &archive.Bundle{Clients: []archive.Client{good, bad}}), "the same key twice")
	rows, err := st.Clients(ctx, account)
	require.NoError(t, err)
	assert.Empty(t, rows)
}

func TestExamineFindsWhatIsBroken(t *testing.T) {
	ctx := context.Background()
	st, cat, rules := filled(t)
	for _, sql := range []string{
		`UPDATE clients SET document = json_set(document, '$.kitt', 1) WHERE id = 1`,
		`UPDATE taught SET day = '2026-99-99' WHERE client_id = 2 AND id = (SELECT min(id) FROM taught WHERE client_id = 2)`,
		`INSERT INTO limit_changes (key, value, reason, who, at) VALUES ('stenosis/gone', 3, 'r', 'w', 't')`,
		`UPDATE clients SET document = json_set(document, '$.clearances', json('[{"date": "2026-01-01", "by": "doctor", "covers": ["stenosis"], "until": "2026-02-01"}]')) WHERE id = 3`,
	} {
		_, err := st.DB.ExecContext(ctx, sql)
		require.NoError(t, err)
	}
	problems, notes, err := archive.Examine(ctx, st, cat, rules, trade.DayOf(time.Now(), time.Local))
	require.NoError(t, err)
	all := strings.Join(problems, "\n")
	for _, want := range []string{"client 1: kitt: unknown field", `a session has the day ""`} {
		assert.Contains(t, all, want)
	}
	assert.Len(t, problems, 2)
	assert.Contains(t, strings.Join(notes, "\n"), "changed limit stenosis/gone is set aside, the delivered one holds: no such limit")
	assert.Contains(t, strings.Join(notes, "\n"), "client 3: a clearance ended on 2026-02-01")
}

func FuzzRead(f *testing.F) {
	cat, err := restbend.Catalogue()
	require.NoError(f, err)
	rules, err := restbend.Rules()
	require.NoError(f, err)
	f.Add(`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": []}, "results": [{}], "history": [{"at": "t", "who": "w", "field": "f"}]}]}`)
	f.Add(`{"format": "restbend.client/1", "name": "A", "conditions": []}`)
	f.Fuzz(func(t *testing.T, doc string) {
		b, err := archive.Read(strings.NewReader(doc), cat, rules, trade.DayOf(time.Now(), time.Local))
		if err == nil && b == nil {
			t.Fatal("neither a bundle nor a problem")
		}
	})
}
