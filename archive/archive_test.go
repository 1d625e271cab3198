package archive_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend"
	"restbend/archive"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/exchange"
	"restbend/store"
)

func filled(t testing.TB) (*store.Store, *catalogue.Catalogue, *safety.Rules) { return fresh(t) }

// harness is a test, or one run of a property.
type harness interface {
	Helper()
	Errorf(format string, a ...any)
	FailNow()
	Cleanup(func())
}

func empty(t harness) *store.Store {
	t.Helper()
	dir, err := os.MkdirTemp("", "restbend-archive-")
	require.NoError(t, err)
	st, err := store.Open(context.Background(), filepath.Join(dir, "x.db"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close(); os.RemoveAll(dir) })
	return st
}

// content is what the program carries.
var content = sync.OnceValues(func() (*catalogue.Catalogue, *safety.Rules) {
	cat, err := restbend.Catalogue()
	if err != nil {
		panic(err)
	}
	rules, err := restbend.Rules()
	if err != nil {
		panic(err)
	}
	return cat, rules
})

// fresh is the demo's practice.
func fresh(t harness) (*store.Store, *catalogue.Catalogue, *safety.Rules) {
	st := empty(t)
	cat, rules := content()
	path := st.Path()
	require.NoError(t, st.Close())
	require.NoError(t, os.WriteFile(path, practice(), 0o600))
	st, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	return st, cat, rules
}

// practice is a database with the demo's practice, made once.
var practice = sync.OnceValue(func() []byte {
	dir, err := os.MkdirTemp("", "restbend-archive-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "x.db")
	st, err := store.Open(context.Background(), path)
	if err != nil {
		panic(err)
	}
	cat, rules := content()
	if err := errors.Join(demo.Fill(context.Background(), st, cat, rules, trade.DayOf(time.Now(), time.Local)), st.Close()); err != nil {
		panic(err)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		panic(err)
	}
	return data
})

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
	out, err := archive.Everything(ctx, st, rules)
	require.NoError(t, err)
	assert.Len(t, out.Clients, 4)
	doc, err := json.Marshal(out)
	require.NoError(t, err)
	assert.NotContains(t, string(doc), "argon2", "no password leaves")

	back, _, err := archive.Read(bytes.NewReader(doc), cat, rules, trade.DayOf(time.Now(), time.Local))
	require.NoError(t, err)
	other := empty(t)
	account, err := other.CreateAccount(ctx, "lowen", "x")
	require.NoError(t, err)
	require.NoError(t, archive.Add(ctx, other, account, back))
	again, err := archive.Everything(ctx, other, rules)
	require.NoError(t, err)
	for i := range again.Clients {
		for k := range again.Clients[i].Plans {
			again.Clients[i].Plans[k].ID = out.Clients[i].Plans[k].ID // numbers are the database's own
		}
	}
	for i := range out.Clients {
		for k := range out.Clients[i].History {
			out.Clients[i].History[k].Imported = true // another practice's word
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
		_, _, err := archive.Read(strings.NewReader(doc), cat, rules, trade.DayOf(time.Now(), time.Local))
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
	for _, want := range []string{"client 1: kitt: unknown field", `client 2: taught[2].day: found ""`} {
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
		b, _, err := archive.Read(strings.NewReader(doc), cat, rules, trade.DayOf(time.Now(), time.Local))
		if err == nil && b == nil {
			t.Fatal("neither a bundle nor a problem")
		}
	})
}

// A document that was tampered with is refused where it was, in a moment and with little memory, whatever it holds;
// what is said of it is short.
func TestHostileBundles(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	ctx := context.Background()
	st, cat, rules := filled(t)
	today := trade.DayOf(time.Now(), time.Local)
	b, err := archive.Everything(ctx, st, rules)
	require.NoError(t, err)
	rows, err := st.EveryClient(ctx)
	require.NoError(t, err)
	one, err := archive.Clients(ctx, st, rules, rows[:1])
	require.NoError(t, err)
	require.NotEmpty(t, one.Clients[0].Taught)
	text, err := json.Marshal(one)
	require.NoError(t, err)
	sound := string(text)
	plan := `{"format": "restbend.plan/1", "minutes": 30, "items": [{"version": "bridge", "dose": {"sets": 2, "reps": 8}}]}`
	with := func(plan, taught string) string {
		return `{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": []}, "plans": [{"plan": ` + plan + `}], "taught": [` + taught + `]}]}`
	}
	in := func(from, to string) string {
		require.Contains(t, plan, from)
		return strings.Replace(plan, from, to, 1)
	}
	session := func(more string) string { return `{"day": "2026-01-05", "plan": {"items": []}` + more + `}` }
	_, _, err = archive.Read(strings.NewReader(with(plan, session(""))), cat, rules, today)
	require.NoError(t, err)
	for name, c := range map[string]struct{ doc, want string }{
		"minutes":               {with(in(`"minutes": 30`, `"minutes": 1000000000`), ""), "minutes: found 1000000000"},
		"sets":                  {with(in(`"sets": 2`, `"sets": 1000000000`), ""), "sets: found 1000000000, allowed: 0 to 20"},
		"reps":                  {with(in(`"reps": 8`, `"reps": 1000000000`), ""), "reps: found 1000000000"},
		"negative":              {with(in(`"reps": 8`, `"reps": -5`), ""), "reps: found -5"},
		"pattern":               {with(in(`"reps": 8`, `"pattern": [`+strings.TrimSuffix(strings.Repeat("1,", 100000), ",")+`]`), ""), "sets: found 100000"},
		"items":                 {with(`{"items": "x"}`, ""), "cannot unmarshal"},
		"many items":            {with(`{"items": [`+strings.TrimSuffix(strings.Repeat(`{"version": "bridge", "dose": {"sets": 1, "reps": 1}},`, 5000), ",")+`]}`, ""), "items: found 5000"},
		"taught plan":           {with(plan, `{"day": "2026-01-05", "plan": `+in(`"sets": 2`, `"sets": 1000000000`)+`}`), "taught[0].plan"},
		"pain":                  {with(plan, session(`, "pain_start": -99`)), "pain_start"},
		"more pain":             {with(plan, session(`, "pain_end": 1000000`)), "pain_end"},
		"a day to come":         {with(plan, `{"day": "2999-01-01", "plan": {}}`), "no days to come"},
		"a day long ago":        {with(plan, `{"day": "0001-01-01", "plan": {}}`), "day"},
		"no time":               {with(plan, session(`, "ended_at": "banana"`)), "ended_at: found \"banana\""},
		"a kind of entry":       {with(plan, session(`, "entries": [{"key": "a", "kind": "banana", "entry": {}}]`)), "banana"},
		"an item":               {with(plan, session(`, "entries": [{"key": "a", "kind": "done", "entry": {"item": -1}}]`)), "item: found -1"},
		"twice":                 {with(plan, session(`, "entries": [{"key": "a", "kind": "done", "entry": {}}, {"key": "a", "kind": "done", "entry": {}}]`)), "is there twice"},
		"marks twice":           {with(plan, session(`, "marks": [{"mark": {"key": "a", "kind": "note"}}, {"mark": {"key": "a", "kind": "note"}}]`)), "is there twice"},
		"a field twice":         {`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": [], "conditions": []}}]}`, "conditions: is there twice"},
		"a blank name":          {`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "  ", "conditions": []}}]}`, "name: is missing"},
		"an exponent":           {with(plan, session(`, "pain_end": 1e308`)), "exponent"},
		"deep":                  {`{"format": "restbend.bundle/1", "clients": [{"client": ` + strings.Repeat(`{"a":`, 500) + "1" + strings.Repeat("}", 500) + `}]}`, "deeper than"},
		"many numbers":          {`{"format": "restbend.bundle/1", "clients": [{"client": {"a": [` + strings.TrimSuffix(strings.Repeat("1e5,", 1<<20), ",") + `]}}]}`, "exponent"},
		"many values":           {`{"format": "restbend.bundle/1", "clients": [{"client": {"a": [` + strings.TrimSuffix(strings.Repeat("1,", 2<<20), ",") + `]}}]}`, "has more than"},
		"a long code":           {`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": [{"code": "` + strings.Repeat("x", 3<<20) + `"}]}}]}`, "conditions[0].code"},
		"many unknown families": {`{"format": "restbend.bundle/1", "clients": [{"client": {"format": "restbend.client/1", "name": "A", "conditions": [], "levels": {` + manyFields(30000) + `}}}]}`, ""},
	} {
		at := time.Now()
		before := allocated()
		_, notes, err := archive.Read(strings.NewReader(c.doc), cat, rules, today)
		took, grew := time.Since(at), allocated()-before
		said := notes.Error()
		if c.want != "" {
			if !assert.Error(t, err, name) {
				continue
			}
			said = err.Error()
			assert.Contains(t, said, c.want, name)
		}
		assert.Less(t, len(said), 20000, name)
		assert.Less(t, took, 4*time.Second, name) // a second alone on the machine
		assert.Less(t, grew>>20, uint64(1024), "%s: MB allocated in all", name)
	}
	_, _, err = archive.Read(strings.NewReader(sound), cat, rules, today)
	assert.NoError(t, err)
	assert.NotEmpty(t, b.Clients)
}

func manyFields(n int) string {
	var out []string
	for i := range n {
		out = append(out, fmt.Sprintf(`"family-%d-%s": "x"`, i, strings.Repeat("y", 80)))
	}
	return strings.Join(out, ", ")
}

func allocated() uint64 {
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.TotalAlloc
}

// Whatever own versions, overrides, withdrawals and shares there are: the own export comes in again, the own backup
// is found whole, and what no longer fits is said and blocks nothing.
func TestTheOwnAlwaysComesBack(t *testing.T) {
	ctx := context.Background()
	today := trade.DayOf(time.Now(), time.Local)
	if testing.Short() {
		t.Skip("long")
	}
	require.NoError(t, flag.Set("rapid.checks", "15")) // each writes and reads a whole practice
	rapid.Check(t, func(t *rapid.T) {
		st, cat, rules := fresh(t)
		other, err := st.CreateAccount(ctx, "lowen", "x")
		require.NoError(t, err)
		rows, err := st.EveryClient(ctx)
		require.NoError(t, err)
		var slugs []string
		for i := range rapid.IntRange(0, 3).Draw(t, "own") {
			base := cat.Versions[rapid.IntRange(0, len(cat.Versions)-1).Draw(t, "base")]
			account := rapid.SampledFrom([]int64{1, other}).Draw(t, "whose")
			o, err := st.CreateOwn(ctx, account, "own-"+base.Slug, fmt.Sprint("Own ", i), func(slug string) (string, error) {
				doc, err := base.Copy(slug, fmt.Sprint("Own ", i)).YAML()
				return string(doc), err
			})
			require.NoError(t, err)
			if rapid.Bool().Draw(t, "in use") {
				require.NoError(t, st.UseOwn(ctx, account, o.ID, o.Name, o.Draft, "{}", 1))
				if rapid.Bool().Draw(t, "withdrawn") {
					require.NoError(t, st.WithdrawOwn(ctx, account, o.ID))
				}
			}
			slugs = append(slugs, o.Slug)
		}
		for _, row := range rows {
			var cl intake.Client
			require.NoError(t, json.Unmarshal(row.Document, &cl))
			for _, slug := range append(slugs, "own-long-gone", "renamed-since") {
				if rapid.Bool().Draw(t, "override") {
					cl.Overrides = append(cl.Overrides, intake.Override{Version: slug, Reason: "as we agreed", Until: today.AddDays(20)})
				}
				if rapid.IntRange(0, 3).Draw(t, "forbidden") == 0 {
					cl.Clearances = append(cl.Clearances, intake.Clearance{Date: today.AddDays(-9), By: "physiotherapist", Covers: []string{}, Forbids: []string{slug}})
				}
			}
			if row.Document, err = json.Marshal(cl); err == nil {
				err = st.UpdateClient(ctx, row.Owner, row)
			}
			require.NoError(t, err)
			if rapid.Bool().Draw(t, "shared") {
				require.NoError(t, st.Share(ctx, row.Owner, row.ID, other, true))
			}
		}
		copied := filepath.Join(filepath.Dir(st.Path()), "copy.db")
		_ = os.Remove(copied)
		require.NoError(t, st.Backup(ctx, copied))
		again, err := store.OpenAsIs(copied)
		require.NoError(t, err)
		problems, _, err := archive.Examine(ctx, again, cat, rules, today)
		require.NoError(t, again.Close())
		require.NoError(t, err)
		assert.Empty(t, problems, "the own backup")
		out, err := archive.Everything(ctx, st, rules)
		require.NoError(t, err)
		doc, err := json.Marshal(out)
		require.NoError(t, err)
		back, _, err := archive.Read(bytes.NewReader(doc), cat, rules, today)
		require.NoError(t, err, "the own export")
		assert.Len(t, back.Clients, len(rows))
		target := empty(t)
		account, err := target.CreateAccount(ctx, "lowen", "x")
		require.NoError(t, err)
		require.NoError(t, archive.Add(ctx, target, account, back))
		there, err := target.Clients(ctx, account)
		require.NoError(t, err)
		assert.Len(t, there, len(rows))
	})
}
