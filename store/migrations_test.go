package store

import (
	"context"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/trade"
)

// latest is the newest version of the tables.
const latest = 12

func atVersion(t *testing.T, version int64) *Store {
	t.Helper()
	s, err := OpenAsIs(filepath.Join(t.TempDir(), "old.db"))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	p, err := s.migrations()
	require.NoError(t, err)
	_, err = p.UpTo(context.Background(), version)
	require.NoError(t, err)
	return s
}

func (s *Store) must(t *testing.T, query string, args ...any) {
	t.Helper()
	_, err := s.DB.Exec(query, args...)
	require.NoError(t, err)
}

// Every change of the tables can be taken back and made again, with data in them.
func TestMigrationsGoDownAndUp(t *testing.T) {
	ctx := context.Background()
	s := atVersion(t, 1)
	p, err := s.migrations()
	require.NoError(t, err)
	_, err = p.Up(ctx)
	require.NoError(t, err)
	account, err := s.CreateAccount(ctx, "one", "hash")
	require.NoError(t, err)
	client, err := s.CreateClient(ctx, account, Client{Name: "A", Document: []byte(`{}`)})
	require.NoError(t, err)
	id, err := s.CreatePlan(ctx, Plan{ClientID: client, Document: []byte(`{"n": 1}`), ClientRevision: 3, Basis: "b"})
	require.NoError(t, err)
	for want := int64(latest); want > 1; want-- {
		has, newest, err := s.Version(ctx)
		require.NoError(t, err)
		assert.Equal(t, want, has)
		assert.EqualValues(t, latest, newest)
		_, err = p.Down(ctx)
		require.NoError(t, err, "down from %d", want)
	}
	_, err = p.Up(ctx)
	require.NoError(t, err)
	row, err := s.Plan(ctx, account, id)
	require.NoError(t, err)
	assert.JSONEq(t, `{"n": 1}`, string(row.Document), "what older tables know is still there")
	problems, err := s.Integrity(ctx)
	require.NoError(t, err)
	assert.Empty(t, problems)
}

// In a file of before, the step a plan stands at knows what it was made with; the others
// count as older, so that going back to one asks for a mend.
func TestStepsOfAnOlderFileCountAsOlder(t *testing.T) {
	ctx := context.Background()
	s := atVersion(t, 4)
	s.must(t, `INSERT INTO accounts (id, name, password_hash, created_at) VALUES (1, 'one', 'hash', '')`)
	s.must(t, `INSERT INTO clients (id, account_id, name, document, updated_at) VALUES (1, 1, 'A', '{}', '')`)
	s.must(t, `INSERT INTO plans (id, client_id, document, client_revision, created_at, basis, step) VALUES (1, 1, '{"n": 1}', 7, '', 'basis', 1)`)
	s.must(t, `INSERT INTO plan_steps (plan_id, n, what, document, at) VALUES (1, 0, 'planned', '{"n": 0}', ''), (1, 1, 'moved', '{"n": 1}', '')`)
	p, err := s.migrations()
	require.NoError(t, err)
	_, err = p.Up(ctx)
	require.NoError(t, err)
	at := func() Plan {
		row, err := s.Plan(ctx, 1, 1)
		require.NoError(t, err)
		return row
	}
	assert.EqualValues(t, 7, at().ClientRevision)
	_, err = s.StepPlan(ctx, at(), -1)
	require.NoError(t, err)
	assert.JSONEq(t, `{"n": 0}`, string(at().Document))
	assert.NotEqualValues(t, 7, at().ClientRevision, "older")
	assert.NotEqual(t, "basis", at().Basis)
	_, err = s.StepPlan(ctx, at(), 1)
	require.NoError(t, err)
	assert.EqualValues(t, 7, at().ClientRevision)
	assert.Equal(t, "basis", at().Basis)
}

// Everything about a client goes out and into another practice, where plans count as old;
// a record that cannot be stored stores nothing.
func TestARecordGoesOutAndIn(t *testing.T) {
	ctx := context.Background()
	s := atVersion(t, latest)
	account, err := s.CreateAccount(ctx, "one", "hash")
	require.NoError(t, err)
	client, err := s.CreateClient(ctx, account, Client{Name: "A", Document: []byte(`{"name": "A"}`), Build: "ash"})
	require.NoError(t, err)
	plan, err := s.CreatePlan(ctx, Plan{ClientID: client, Document: []byte(`{"n": 1}`), ClientRevision: 1})
	require.NoError(t, err)
	taught, _, err := s.StartTeaching(ctx, Taught{ClientID: client, Day: trade.MustDay("2026-11-20"), Plan: []byte(`{"n": 1}`), Scores: []Score{{Rev: 1, Document: []byte(`{"rev": 1}`)}}})
	require.NoError(t, err)
	for _, doc := range []string{`{}`, `{"twice": true}`} { // the same key again changes nothing
		_, err := s.AddMarks(ctx, account, taught, Marking{Marks: []Mark{{Key: "k", Kind: "go", Who: "one", Document: []byte(doc)}}})
		require.NoError(t, err)
	}
	s.must(t, `INSERT INTO entries (taught_id, key, kind, document, at) VALUES (1, 'e', 'done', '{}', '')`)
	_, err = s.AddMarks(ctx, account, taught, Marking{Close: true, Fold: func(t *Taught) error { t.Notes, t.Log = "calm", []byte(`{"items": []}`); return nil }})
	require.NoError(t, err)
	require.NoError(t, s.AddResults(ctx, client, Results{Day: trade.MustDay("2026-11-19"), Document: []byte(`{"up_and_go_s": 11}`)}))
	row, err := s.Client(ctx, account, client)
	require.NoError(t, err)
	row.Document = []byte(`{"name": "A", "aims": {}}`)
	require.NoError(t, s.UpdateClient(ctx, account, row, Change{Who: "one", Field: "aims", After: "none", Why: "told"}))
	row, err = s.Client(ctx, account, client)
	require.NoError(t, err)
	record, err := s.Record(ctx, row)
	require.NoError(t, err)

	other := atVersion(t, latest)
	theirs, err := other.CreateAccount(ctx, "two", "hash")
	require.NoError(t, err)
	broken := record
	broken.Results = []Results{{Day: trade.MustDay("2026-11-19"), Document: []byte(`not json`)}}
	assert.Error(t, other.AddRecords(ctx, theirs, []Record{record, broken}))
	counts, err := other.Counts(ctx)
	require.NoError(t, err)
	assert.Zero(t, counts["clients"], "all or none")
	require.NoError(t, other.AddRecords(ctx, theirs, []Record{record}))
	mine, err := s.Counts(ctx)
	require.NoError(t, err)
	counts, err = other.Counts(ctx)
	require.NoError(t, err)
	assert.Equal(t, mine, counts)
	clients, err := other.Clients(ctx, theirs)
	require.NoError(t, err)
	require.Len(t, clients, 1)
	sessions, err := other.TaughtSessions(ctx, clients[0].ID, 99)
	require.NoError(t, err)
	require.Len(t, sessions, 1)
	assert.Equal(t, "calm", sessions[0].Notes)
	whole, err := other.Teaching(ctx, theirs, sessions[0].ID)
	require.NoError(t, err)
	require.Len(t, whole.Entries, 1)
	require.Len(t, whole.Marks, 1)
	assert.JSONEq(t, `{}`, string(whole.Marks[0].Document))
	assert.JSONEq(t, `{"rev": 1}`, string(whole.Score()))
	results, err := other.AllResults(ctx, clients[0].ID)
	require.NoError(t, err)
	assert.Len(t, results, 1)
	plans, err := other.Plans(ctx, clients[0].ID)
	require.NoError(t, err)
	require.Len(t, plans, 1)
	assert.NotEqual(t, clients[0].Revision, plans[0].ClientRevision, "old until it is mended")
	latest, err := s.LatestPlan(ctx, client)
	require.NoError(t, err)
	assert.Equal(t, plan, latest)
}

// A red flag of before has the last day its list changed, or the day of the migration; going
// back leaves its code.
func TestRedFlagsOfBeforeGetADay(t *testing.T) {
	ctx := context.Background()
	s := atVersion(t, 6)
	s.must(t, `INSERT INTO accounts (id, name, password_hash, created_at) VALUES (1, 'one', 'hash', '')`)
	s.must(t, `INSERT INTO clients (id, account_id, name, document, updated_at) VALUES
		(1, 1, 'A', '{"red_flags": ["fainting", "chest-pain"], "born": 1960}', ''), (2, 1, 'B', '{"red_flags": ["fainting"]}', ''), (3, 1, 'C', '{"red_flags": []}', ''), (4, 1, 'D', '{"born": 1950}', '')`)
	s.must(t, `INSERT INTO client_history (client_id, at, who, field) VALUES (1, '2026-03-01T10:00:00Z', 'x', 'red_flags'), (1, '2026-05-02T10:00:00Z', 'x', 'red_flags'), (1, '2026-06-01T10:00:00Z', 'x', 'kit')`)
	p, err := s.migrations()
	require.NoError(t, err)
	_, err = p.UpTo(ctx, 7)
	require.NoError(t, err)
	document := func(id int) (text string) {
		require.NoError(t, s.DB.QueryRow(`SELECT document FROM clients WHERE id = ?`, id).Scan(&text))
		return text
	}
	var day string
	require.NoError(t, s.DB.QueryRow(`SELECT date('now')`).Scan(&day))
	assert.JSONEq(t, `{"red_flags": [{"code": "fainting", "since": "2026-05-02"}, {"code": "chest-pain", "since": "2026-05-02"}], "born": 1960}`, document(1))
	assert.JSONEq(t, `{"red_flags": [{"code": "fainting", "since": "`+day+`"}]}`, document(2))
	assert.JSONEq(t, `{"red_flags": []}`, document(3))
	assert.JSONEq(t, `{"born": 1950}`, document(4))
	_, err = p.Down(ctx)
	require.NoError(t, err)
	assert.JSONEq(t, `{"red_flags": ["fainting", "chest-pain"], "born": 1960}`, document(1))
}

// Damage is found: rows that point nowhere.
func TestIntegrityFindsWhatPointsNowhere(t *testing.T) {
	ctx := context.Background()
	s := atVersion(t, latest)
	problems, err := s.Integrity(ctx)
	require.NoError(t, err)
	assert.Empty(t, problems)
	conn, err := s.DB.Conn(ctx)
	require.NoError(t, err)
	for _, q := range []string{`PRAGMA foreign_keys = off`, `INSERT INTO plans (client_id, document, client_revision, created_at) VALUES (99, '{}', 1, '')`, `PRAGMA foreign_keys = on`} {
		_, err = conn.ExecContext(ctx, q)
		require.NoError(t, err)
	}
	require.NoError(t, conn.Close())
	problems, err = s.Integrity(ctx)
	require.NoError(t, err)
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0], "plans row 1 points to a missing row of clients")
}

// A pain of before has the last day it was changed, or the day of the migration; a session of
// before waits to be folded; going back leaves both as they were.
func TestPainAndSessionsOfBefore(t *testing.T) {
	ctx := context.Background()
	s := atVersion(t, 7)
	s.must(t, `INSERT INTO accounts (id, name, password_hash, created_at) VALUES (1, 'one', 'hash', '')`)
	s.must(t, `INSERT INTO clients (id, account_id, name, document, updated_at) VALUES
		(1, 1, 'A', '{"pain": {"now": 3}}', ''), (2, 1, 'B', '{"pain": {"now": 8}}', ''), (3, 1, 'C', '{"born": 1950}', ''), (4, 1, 'D', '{"pain": null}', '')`)
	s.must(t, `INSERT INTO client_history (client_id, at, who, field) VALUES (1, '2026-03-01T10:00:00Z', 'x', 'pain'), (1, '2026-06-01T10:00:00Z', 'x', 'kit')`)
	s.must(t, `INSERT INTO taught (id, client_id, day, plan, ended_at) VALUES (1, 1, '2026-11-01', '{}', '2026-11-01T10:00:00Z'), (2, 1, '2026-11-02', '{}', NULL)`)
	p, err := s.migrations()
	require.NoError(t, err)
	_, err = p.UpTo(ctx, 9)
	require.NoError(t, err)
	document := func(id int) (text string) {
		require.NoError(t, s.DB.QueryRow(`SELECT document FROM clients WHERE id = ?`, id).Scan(&text))
		return text
	}
	var day string
	require.NoError(t, s.DB.QueryRow(`SELECT date('now')`).Scan(&day))
	assert.JSONEq(t, `{"pain": {"now": 3, "on": "2026-03-01"}}`, document(1))
	assert.JSONEq(t, `{"pain": {"now": 8, "on": "`+day+`"}}`, document(2))
	assert.JSONEq(t, `{"born": 1950}`, document(3))
	assert.JSONEq(t, `{"pain": null}`, document(4))
	waiting, err := s.Earlier(ctx)
	require.NoError(t, err)
	require.Len(t, waiting, 2, "the running one too")
	for _, t0 := range waiting {
		t0.Log = []byte(`{"date": "2026-11-01", "items": []}`)
		require.NoError(t, s.Settle(ctx, t0))
	}
	waiting, err = s.Earlier(ctx)
	require.NoError(t, err)
	assert.Empty(t, waiting)
	logs, err := s.Logs(ctx, 1)
	require.NoError(t, err)
	require.Len(t, logs, 2)
	last, err := s.LastTaught(ctx, 1)
	require.NoError(t, err)
	assert.EqualValues(t, 2, last.ID)
	last, err = s.LastTaught(ctx, 2)
	require.NoError(t, err)
	assert.Nil(t, last)
	assert.ErrorIs(t, s.Settle(ctx, Taught{ID: 99}), ErrNotFound)
	require.NoError(t, s.Set(ctx, "time_zone", "Europe/Vienna"))
	require.NoError(t, s.Set(ctx, "time_zone", "Europe/Oslo"))
	zone, err := s.Setting(ctx, "time_zone")
	require.NoError(t, err)
	assert.Equal(t, "Europe/Oslo", zone)
	zone, err = s.Setting(ctx, "nothing")
	require.NoError(t, err)
	assert.Empty(t, zone)
	_, err = p.DownTo(ctx, 7)
	require.NoError(t, err)
	assert.JSONEq(t, `{"pain": {"now": 3}}`, document(1))
}
