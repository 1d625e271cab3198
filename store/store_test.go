package store_test

import (
	"context"
	"database/sql"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/store"
)

func open(t *testing.T) (*store.Store, int64) {
	t.Helper()
	st, err := store.Open(context.Background(), filepath.Join(t.TempDir(), "a b.db"))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, st.Close()) })
	id, err := st.CreateAccount(context.Background(), "one", "hash")
	require.NoError(t, err)
	return st, id
}

func TestTablesAreStrictAndForeignKeysOn(t *testing.T) {
	st, _ := open(t)
	rows, err := st.DB.Query(`SELECT name, strict FROM pragma_table_list WHERE schema = 'main' AND type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE 'goose_%'`)
	require.NoError(t, err)
	defer rows.Close()
	n := 0
	for rows.Next() {
		var name string
		var strict bool
		require.NoError(t, rows.Scan(&name, &strict))
		assert.True(t, strict, name)
		n++
	}
	assert.Equal(t, 8, n)
	var on, mode string
	require.NoError(t, st.DB.QueryRow(`PRAGMA foreign_keys`).Scan(&on))
	require.NoError(t, st.DB.QueryRow(`PRAGMA journal_mode`).Scan(&mode))
	assert.Equal(t, "1 wal", on+" "+mode)
	_, err = st.DB.Exec(`INSERT INTO plans (client_id, document, client_revision, created_at) VALUES (99, '{}', 1, '')`)
	assert.ErrorContains(t, err, "FOREIGN KEY")
	_, err = st.DB.Exec(`INSERT INTO clients (account_id, name, document, updated_at) VALUES (1, 'x', 'not json', '')`)
	assert.ErrorContains(t, err, "CHECK")
}

func TestDeletingAClientTakesEverything(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	id, err := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"})
	require.NoError(t, err)
	p, err := st.CreatePlan(ctx, id, 1, []byte(`{}`))
	require.NoError(t, err)
	tid, err := st.StartTeaching(ctx, store.Taught{ClientID: id, PlanID: sql.NullInt64{Int64: p, Valid: true}, Day: "2026-11-20", Plan: []byte(`{}`)})
	require.NoError(t, err)
	require.NoError(t, st.AddEntry(ctx, tid, store.Entry{Key: "k", Kind: "done", Document: []byte(`{}`)}))
	assert.ErrorIs(t, st.DeleteClient(ctx, acc+1, id), store.ErrNotFound, "someone else's client")
	require.NoError(t, st.DeleteClient(ctx, acc, id))
	for _, table := range []string{"clients", "plans", "taught", "entries"} {
		var n int
		require.NoError(t, st.DB.QueryRow(`SELECT count(*) FROM `+table).Scan(&n))
		assert.Zero(t, n, table)
	}
}

func TestTwoTabsDoNotOverwriteEachOther(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	id, _ := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"})
	pid, _ := st.CreatePlan(ctx, id, 1, []byte(`{}`))
	a, err := st.Plan(ctx, acc, pid)
	require.NoError(t, err)
	b := a
	require.NoError(t, st.UpdatePlan(ctx, a))
	assert.ErrorIs(t, st.UpdatePlan(ctx, b), store.ErrChanged)
	_, err = st.Plan(ctx, acc+1, pid)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestAnEntrySentTwiceIsOneEntry(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	id, _ := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"})
	tid, err := st.StartTeaching(ctx, store.Taught{ClientID: id, Day: "2026-11-20", Plan: []byte(`{}`)})
	require.NoError(t, err)
	for range 2 {
		require.NoError(t, st.AddEntry(ctx, tid, store.Entry{Key: "same", Kind: "done", Document: []byte(`{}`)}))
	}
	got, err := st.Teaching(ctx, acc, tid)
	require.NoError(t, err)
	assert.Len(t, got.Entries, 1)
	running, err := st.Running(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, tid, running)
}

func TestMigrationsRunOnceAndReopen(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.db")
	for range 2 {
		st, err := store.Open(context.Background(), path)
		require.NoError(t, err)
		require.NoError(t, st.Close())
	}
}

func TestANewPasswordEndsEverySession(t *testing.T) {
	ctx := context.Background()
	st, _ := open(t)
	_, err := st.DB.Exec(`INSERT INTO sessions (token, data, expiry) VALUES ('t', x'00', 1)`)
	require.NoError(t, err)
	assert.ErrorIs(t, st.SetPassword(ctx, "nobody", "h"), store.ErrNotFound)
	require.NoError(t, st.SetPassword(ctx, "one", "h2"))
	var n int
	require.NoError(t, st.DB.QueryRow(`SELECT count(*) FROM sessions`).Scan(&n))
	assert.Zero(t, n)
}
