package store_test

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/trade"
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
	assert.Equal(t, 21, n)
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
	p, err := st.CreatePlan(ctx, store.Plan{ClientID: id, ClientRevision: 1, Document: []byte(`{}`)})
	require.NoError(t, err)
	tid, _, err := st.StartTeaching(ctx, store.Taught{ClientID: id, PlanID: sql.NullInt64{Int64: p, Valid: true}, Day: trade.MustDay("2026-11-20"), Plan: []byte(`{}`), Scores: []store.Score{{Rev: 1, Document: []byte(`{}`)}}})
	require.NoError(t, err)
	marked(t, st, acc, tid, "k")
	assert.ErrorIs(t, st.RemoveClient(ctx, acc+1, id), store.ErrNotFound, "someone else's client")
	require.NoError(t, st.RemoveClient(ctx, acc, id))
	_, err = st.Client(ctx, acc, id)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.Plan(ctx, acc, p)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.Taught(ctx, acc, tid)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, st.PutBack(ctx, acc+1, "client", id), store.ErrNotFound, "out of somebody else's bin")
	require.NoError(t, st.PutBack(ctx, acc, "client", id))
	_, err = st.Taught(ctx, acc, tid)
	require.NoError(t, err, "everything is back")
	require.NoError(t, st.RemoveClient(ctx, acc, id))
	bin, err := st.Bin(ctx, acc)
	require.NoError(t, err)
	require.Len(t, bin, 1)
	assert.Equal(t, "A", bin[0].Name)
	require.NoError(t, st.EmptyBin(ctx, time.Now().AddDate(0, 0, store.BinDays-1)))
	require.ErrorIs(t, st.Delete(ctx, acc+1, "client", id), store.ErrNotFound)
	require.NoError(t, st.EmptyBin(ctx, time.Now().AddDate(0, 0, store.BinDays+1)))
	for _, table := range []string{"clients", "plans", "taught", "scores", "marks"} {
		var n int
		require.NoError(t, st.DB.QueryRow(`SELECT count(*) FROM `+table).Scan(&n))
		assert.Zero(t, n, table)
	}
}

func TestTwoTabsDoNotOverwriteEachOther(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	id, _ := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"})
	pid, _ := st.CreatePlan(ctx, store.Plan{ClientID: id, ClientRevision: 1, Document: []byte(`{}`)})
	a, err := st.Plan(ctx, acc, pid)
	require.NoError(t, err)
	b := a
	require.NoError(t, st.UpdatePlan(ctx, a, "moved"))
	assert.ErrorIs(t, st.UpdatePlan(ctx, b, "moved"), store.ErrChanged)
	_, err = st.Plan(ctx, acc+1, pid)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// marked stores a mark of a running session.
func marked(t *testing.T, st *store.Store, account, id int64, keys ...string) {
	t.Helper()
	var add store.Marking
	for _, k := range keys {
		add.Marks = append(add.Marks, store.Mark{Key: k, Kind: "go", Who: "one", Document: []byte(`{}`)})
	}
	refused, err := st.AddMarks(context.Background(), account, id, add)
	require.NoError(t, err)
	assert.Empty(t, refused)
}

// The same key twice is one mark; a client has one running session; after the end only what may come late is
// taken in, and what was made before it; the log session is worked out in the same transaction.
func TestMarks(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	id, _ := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"})
	begin := store.Taught{ClientID: id, Day: trade.MustDay("2026-11-20"), Plan: []byte(`{}`), Scores: []store.Score{{Rev: 1, Document: []byte(`{"rev": 1}`)}}}
	tid, resumed, err := st.StartTeaching(ctx, begin)
	require.NoError(t, err)
	assert.False(t, resumed)
	marked(t, st, acc, tid, "same", "other")
	marked(t, st, acc, tid, "same")
	again, resumed, err := st.StartTeaching(ctx, begin)
	require.NoError(t, err)
	assert.True(t, resumed)
	assert.Equal(t, tid, again)
	got, err := st.Teaching(ctx, acc, tid)
	require.NoError(t, err)
	require.Len(t, got.Marks, 2)
	news, err := st.MarksAfter(ctx, tid, got.Marks[0].Seq)
	require.NoError(t, err)
	require.Len(t, news, 1)
	assert.Equal(t, "other", news[0].Key)
	_, err = st.AddMarks(ctx, acc+1, tid, store.Marking{})
	assert.ErrorIs(t, err, store.ErrNotFound, "somebody else's session")

	folded := 0
	late := store.Marking{Late: []string{"note"}, Made: func(m *store.Mark) string { return string(m.Document[1:21]) },
		Fold: func(t *store.Taught) error { folded++; t.Log = fmt.Appendf(nil, `{"n": %d}`, len(t.Marks)); return nil }}
	late.Close, late.Score = true, &store.Score{Rev: 2, Document: []byte(`{"rev": 2}`)}
	_, err = st.AddMarks(ctx, acc, tid, late)
	require.NoError(t, err)
	late.Close, late.Score = false, nil
	late.Marks = []store.Mark{{Key: "early", Kind: "go", Document: []byte(`"2000-01-01T00:00:00Z"`)}, {Key: "late", Kind: "go", Document: []byte(`"9000-01-01T00:00:00Z"`)}, {Key: "said", Kind: "note", Document: []byte(`"9000-01-01T00:00:00Z"`)}}
	refused, err := st.AddMarks(ctx, acc, tid, late)
	require.NoError(t, err)
	assert.Equal(t, []string{"late"}, refused)
	assert.Equal(t, 2, folded)
	got, err = st.Teaching(ctx, acc, tid)
	require.NoError(t, err)
	assert.JSONEq(t, `{"n": 4}`, string(got.Log))
	assert.JSONEq(t, `{"rev": 2}`, string(got.Score()))
	assert.True(t, got.EndedAt.Valid)
	late.Fold = func(*store.Taught) error { return assert.AnError }
	late.Marks = []store.Mark{{Key: "never", Kind: "note", Document: []byte(`{}`)}}
	_, err = st.AddMarks(ctx, acc, tid, late)
	assert.ErrorIs(t, err, assert.AnError)
	got, err = st.Teaching(ctx, acc, tid)
	require.NoError(t, err)
	assert.Len(t, got.Marks, 4, "all or none")
	_, err = st.Running(ctx, id)
	assert.ErrorIs(t, err, store.ErrNotFound)
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
	st, acc := open(t)
	other, err := st.CreateAccount(ctx, "two", "h")
	require.NoError(t, err)
	for _, in := range []store.SignIn{{Account: acc, Key: "a"}, {Account: acc, Key: "b"}, {Account: other, Key: "c"}} {
		require.NoError(t, st.AddSignIn(ctx, in))
	}
	assert.ErrorIs(t, st.SetPassword(ctx, "nobody", "h"), store.ErrNotFound)
	all, here := store.NameTries("One"), store.PairTries("One", "10.0.0.1")
	guessed := func(key string) bool {
		ok, err := st.Try(ctx, time.Now(), store.Measure{Key: key, Most: 1, Every: time.Hour})
		require.NoError(t, err)
		return !ok
	}
	others := store.PairTries("one two", "10.0.0.1")
	for _, key := range []string{all, here, others} {
		assert.False(t, guessed(key))
		assert.True(t, guessed(key), "one try is the most")
	}
	require.NoError(t, st.SetPassword(ctx, "one", "h2"))
	assert.False(t, guessed(all), "whoever guessed at the name keeps nobody out any longer")
	assert.False(t, guessed(here))
	assert.True(t, guessed(others), "another name")
	for key, account := range map[string]int64{"a": acc, "b": acc, "c": other} {
		_, err := st.Seen(ctx, account, key)
		if account == other {
			assert.NoError(t, err, "not everybody's")
		} else {
			assert.ErrorIs(t, err, store.ErrNotFound)
		}
	}
}

// Who leaves signs in no more, and what was theirs is another's; the keeper stays.
func TestClosingAnAccount(t *testing.T) {
	ctx := context.Background()
	st, keeper := open(t)
	leaver, err := st.CreateAccount(ctx, "two", "h")
	require.NoError(t, err)
	id, err := st.CreateClient(ctx, leaver, store.Client{Name: "A", Document: []byte(`{}`)})
	require.NoError(t, err)
	require.NoError(t, st.Share(ctx, leaver, id, keeper, true))
	require.NoError(t, st.AddSignIn(ctx, store.SignIn{Account: leaver, Key: "k"}))
	assert.ErrorIs(t, st.CloseAccount(ctx, keeper, leaver), store.ErrNotFound)
	assert.ErrorIs(t, st.CloseAccount(ctx, leaver, 99), store.ErrNotFound)
	require.NoError(t, st.CloseAccount(ctx, leaver, keeper))
	_, _, err = st.Account(ctx, "two")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.Seen(ctx, leaver, "k")
	assert.ErrorIs(t, err, store.ErrNotFound)
	row, err := st.Client(ctx, keeper, id)
	require.NoError(t, err)
	assert.Equal(t, keeper, row.Owner)
	taken, err := st.NameTaken(ctx, "TWO")
	require.NoError(t, err)
	assert.True(t, taken, "a name in the history is not given again")
}

// The measure of tries fills, empties with time, and neither a restart nor a clock set back empties it.
func TestTriesSurviveARestart(t *testing.T) {
	ctx := context.Background()
	path := filepath.Join(t.TempDir(), "x.db")
	at := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	m := store.Measure{Key: "name one", Most: 3, Every: 10 * time.Second}
	for i, want := range []bool{true, true, true, false} {
		st, err := store.Open(ctx, path)
		require.NoError(t, err)
		ok, err := st.Try(ctx, at, m)
		require.NoError(t, err)
		assert.Equal(t, want, ok, "try %d", i)
		require.NoError(t, st.Close())
	}
	st, err := store.Open(ctx, path)
	require.NoError(t, err)
	defer st.Close()
	ok, err := st.Try(ctx, at.Add(-time.Hour), m)
	require.NoError(t, err)
	assert.False(t, ok, "a clock set back")
	ok, err = st.Try(ctx, at.Add(11*time.Second), m, store.Measure{Key: "all", Most: 0, Every: time.Second})
	require.NoError(t, err)
	assert.False(t, ok, "any of them")
	ok, err = st.Try(ctx, at.Add(31*time.Second), m)
	require.NoError(t, err)
	assert.True(t, ok)
	require.NoError(t, st.Forgive(ctx, m.Key))
}

// What is deleted for good stands neither in the file nor in its log, while the program runs.
func TestDeletedForGoodLeavesTheLogToo(t *testing.T) {
	ctx := context.Background()
	path := filepath.Join(t.TempDir(), "x.db")
	st, err := store.Open(ctx, path)
	require.NoError(t, err)
	defer st.Close()
	acc, err := st.CreateAccount(ctx, "one", "h")
	require.NoError(t, err)
	const secret = "pain since the fall from the apple tree"
	holds := func() (n int) {
		for _, f := range []string{path, path + "-wal"} {
			if data, err := os.ReadFile(f); err == nil {
				n += bytes.Count(data, []byte(secret))
			}
		}
		return n
	}
	for _, forGood := range []func(id int64) error{
		func(id int64) error { return st.Delete(ctx, acc, "client", id) },
		func(int64) error { return st.EmptyBin(ctx, time.Now().AddDate(0, 0, 40)) },
	} {
		id, err := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{"complaint": "` + secret + `"}`)})
		require.NoError(t, err)
		assert.Positive(t, holds())
		require.NoError(t, st.RemoveClient(ctx, acc, id))
		require.NoError(t, forGood(id))
		assert.Zero(t, holds())
	}
}

// A try that is held back writes nothing, however often; no name can be made equal to a place or to a name from one;
// what is over is forgotten beside everything else.
func TestATryThatIsHeldBackWritesNothing(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	at := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	rows := func() (n int) {
		require.NoError(t, st.DB.QueryRow(`SELECT count(*) FROM sign_in_tries`).Scan(&n))
		return n
	}
	changes := func() (n int) {
		require.NoError(t, st.DB.QueryRow(`SELECT total_changes()`).Scan(&n))
		return n
	}
	st.DB.SetMaxOpenConns(1) // one connection counts all changes
	all := store.Measure{Key: "all", Most: 3, Every: time.Hour}
	for i := range 3 {
		ok, err := st.Try(ctx, at, all, store.Measure{Key: store.NameTries(fmt.Sprint("n", i)), Most: 5, Every: time.Minute})
		require.NoError(t, err)
		require.True(t, ok)
	}
	before, kept := changes(), rows()
	for i := range 2000 {
		ok, err := st.Try(ctx, at, all, store.Measure{Key: store.NameTries(fmt.Sprint("m", i)), Most: 5, Every: time.Minute})
		require.NoError(t, err)
		require.False(t, ok)
		ok, err = st.Try(ctx, at, store.Measure{Key: store.NameTries(fmt.Sprint("k", i)), Most: 5, Every: time.Minute}, all)
		require.NoError(t, err)
		require.False(t, ok, "in whatever order")
	}
	assert.Equal(t, before, changes(), "nothing was written")
	assert.Equal(t, kept, rows())
	keys := map[string]bool{}
	for _, key := range []string{store.NameTries("a"), store.NameTries("a at p"), store.PairTries("a", "p"), store.PairTries("a at p", ""), store.PlaceTries("a"), store.PlaceTries("p"), store.DeviceTries("a")} {
		assert.False(t, keys[key], key)
		keys[key] = true
		assert.Less(t, len(key), 90)
	}
	assert.Len(t, store.NameTries(strings.Repeat("x", 400)), len(store.NameTries("x")))
	require.NoError(t, st.ForgetTries(ctx, at.Add(14*time.Minute)))
	assert.Equal(t, kept, rows())
	require.NoError(t, st.ForgetTries(ctx, at.Add(16*time.Minute)))
	assert.Zero(t, rows())

	// Devices: by hash, of a name, so many at most, and gone with the account's copy.
	for i := range 30 {
		require.NoError(t, st.KnowDevice(ctx, acc, fmt.Sprint("token ", i)))
	}
	var devices, plain int
	require.NoError(t, st.DB.QueryRow(`SELECT count(*), count(*) FILTER (WHERE hash LIKE '%token%') FROM known_devices`).Scan(&devices, &plain))
	assert.Equal(t, 20, devices)
	assert.Zero(t, plain, "only hashes")
	for token, want := range map[string]bool{"token 29": true, "token 0": false, "": false, "other": false} {
		known, err := st.KnownDevice(ctx, "one", token)
		require.NoError(t, err)
		assert.Equal(t, want, known, token)
	}
	known, err := st.KnownDevice(ctx, "two", "token 29")
	require.NoError(t, err)
	assert.False(t, known, "another's device")
	_, err = st.CreateAccount(ctx, "ONE", "h")
	assert.ErrorIs(t, err, store.ErrChanged, "the name is taken")
}

// What is written down is for its owner's eyes; nobody is signed in in a copy; what is deleted is gone from the file.
func TestAtRest(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	path, copied := filepath.Join(dir, "x.db"), filepath.Join(dir, "copy.db")
	require.NoError(t, os.WriteFile(path, nil, 0o644))
	st, err := store.Open(ctx, path)
	require.NoError(t, err)
	acc, err := st.CreateAccount(ctx, "one", "h")
	require.NoError(t, err)
	const secret = "a very particular note about a hip"
	id, err := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{"notes": "` + strings.Repeat(secret+" ", 400) + `"}`)}, store.Change{Who: "one", Field: "notes", After: secret})
	require.NoError(t, err)
	_, err = st.DB.Exec(`INSERT INTO sessions (token, data, expiry) VALUES ('a-token-of-a-session', x'00', 1)`)
	require.NoError(t, err)
	require.NoError(t, st.Backup(ctx, copied))
	for _, name := range []string{path, path + "-wal", path + "-shm", copied} {
		info, err := os.Stat(name)
		require.NoError(t, err, name)
		assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), name)
	}
	holds := func(name, text string) bool {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		return strings.Contains(string(data), text)
	}
	assert.True(t, holds(copied, secret), "a copy is a copy")
	assert.False(t, holds(copied, "a-token-of-a-session"))
	require.NoError(t, st.RemoveClient(ctx, acc, id))
	require.NoError(t, st.Delete(ctx, acc, "client", id))
	later := filepath.Join(dir, "later.db")
	require.NoError(t, st.Backup(ctx, later))
	require.NoError(t, st.Close())
	assert.False(t, holds(later, secret))
	assert.False(t, holds(path, secret), "not in the file either")
	_, err = os.Stat(path + "-wal")
	assert.ErrorIs(t, err, os.ErrNotExist)
}

// Tables of a newer program are left as they are.
func TestNewerTablesAreRefused(t *testing.T) {
	ctx := context.Background()
	path := filepath.Join(t.TempDir(), "x.db")
	st, err := store.Open(ctx, path)
	require.NoError(t, err)
	_, err = st.DB.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)`)
	require.NoError(t, err)
	require.NoError(t, st.Close())
	_, err = store.Open(ctx, path)
	assert.ErrorIs(t, err, store.ErrNewer)
}

// The second account of a practice reads what is shared and nothing else; only the owner
// shares, and a changed client is never overwritten unseen.
func TestSharingAndHistory(t *testing.T) {
	st, a := open(t)
	ctx := context.Background()
	b, err := st.CreateAccount(ctx, "b", "x")
	require.NoError(t, err)
	first, err := st.Member(ctx, a)
	require.NoError(t, err)
	second, err := st.Member(ctx, b)
	require.NoError(t, err)
	assert.True(t, first.Keeper && !second.Keeper, "the first account keeps the practice")
	id, err := st.CreateClient(ctx, a, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"}, store.Change{Who: "a", Field: "conditions", After: "stenosis"})
	require.NoError(t, err)
	_, err = st.Client(ctx, b, id)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, st.Share(ctx, b, id, b, true), store.ErrNotFound, "nobody shares what is not theirs")
	require.NoError(t, st.Share(ctx, a, id, b, true))
	row, err := st.Client(ctx, b, id)
	require.NoError(t, err)
	require.NoError(t, st.UpdateClient(ctx, b, row, store.Change{Who: "b", Field: "kit", After: "towel", Why: "brought one"}))
	assert.ErrorIs(t, st.UpdateClient(ctx, a, row), store.ErrChanged, "read before the other's change")
	assert.ErrorIs(t, st.RemoveClient(ctx, b, id), store.ErrNotFound)
	h, err := st.History(ctx, id)
	require.NoError(t, err)
	require.Len(t, h, 2)
	assert.Equal(t, "brought one", h[0].Why, "newest first")
	require.NoError(t, st.Share(ctx, a, id, b, false))
	rows, err := st.Clients(ctx, b)
	require.NoError(t, err)
	assert.Empty(t, rows)
}

func TestAChangedLimitMakesPlansStale(t *testing.T) {
	st, a := open(t)
	ctx := context.Background()
	id, err := st.CreateClient(ctx, a, store.Client{Name: "A", Document: []byte(`{}`), Build: "ash"})
	require.NoError(t, err)
	before, err := st.Client(ctx, a, id)
	require.NoError(t, err)
	require.NoError(t, st.ChangeLimit(ctx, store.LimitChange{Key: "x/y", Reason: "r", Who: "a"}))
	after, err := st.Client(ctx, a, id)
	require.NoError(t, err)
	assert.Greater(t, after.Revision, before.Revision)
	changes, err := st.LimitChanges(ctx)
	require.NoError(t, err)
	require.Len(t, changes, 1)
	assert.False(t, changes[0].Value.Valid, "back to the default")
}

func TestPlansGoBackAndForward(t *testing.T) {
	st, acc := open(t)
	ctx := context.Background()
	client, err := st.CreateClient(ctx, acc, store.Client{Name: "A", Document: []byte(`{}`)})
	require.NoError(t, err)
	id, err := st.CreatePlan(ctx, store.Plan{ClientID: client, Document: []byte(`{"n": 0}`), Basis: "b", Quick: true})
	require.NoError(t, err)
	at := func() store.Plan {
		p, err := st.Plan(ctx, acc, id)
		require.NoError(t, err)
		return p
	}
	for i := 1; i <= 3; i++ {
		p := at()
		p.Document, p.Quick = []byte(fmt.Sprintf(`{"n": %d}`, i)), false
		require.NoError(t, st.UpdatePlan(ctx, p, fmt.Sprintf("change %d", i)))
	}
	what, err := st.StepPlan(ctx, at(), -1)
	require.NoError(t, err)
	assert.Equal(t, "change 3", what, "what was undone")
	_, err = st.StepPlan(ctx, at(), -1)
	require.NoError(t, err)
	assert.JSONEq(t, `{"n": 1}`, string(at().Document))
	what, err = st.StepPlan(ctx, at(), 1)
	require.NoError(t, err)
	assert.Equal(t, "change 2", what)
	p := at()
	p.Document = []byte(`{"n": 9}`)
	require.NoError(t, st.UpdatePlan(ctx, p, "another way"))
	_, err = st.StepPlan(ctx, at(), 1)
	assert.ErrorIs(t, err, store.ErrNotFound, "what was undone is gone after a new change")
	assert.ErrorIs(t, st.UpdatePlan(ctx, p, "late"), store.ErrChanged)
	assert.Equal(t, 3, at().Step)
	require.NoError(t, st.SetPlanDay(ctx, at(), trade.MustDay("2026-12-01")))
	assert.Equal(t, "2026-12-01", at().Day.String())
	require.NoError(t, st.RemovePlan(ctx, at()))
	_, err = st.Plan(ctx, acc, id)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestKindsOfSessionAreKeptAndDropped(t *testing.T) {
	st, _ := open(t)
	ctx := context.Background()
	require.NoError(t, st.SaveTemplate(ctx, store.Template{Slug: "a", Who: "x", Document: []byte(`{"v": 1}`)}))
	require.NoError(t, st.SaveTemplate(ctx, store.Template{Slug: "a", Who: "y", Document: []byte(`{"v": 2}`)}))
	all, err := st.Templates(ctx)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, "y", all[0].Who)
	require.NoError(t, st.DropTemplate(ctx, "a"))
	all, err = st.Templates(ctx)
	require.NoError(t, err)
	assert.Empty(t, all)
}
