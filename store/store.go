// Package store keeps everything in one SQLite file. Documents are JSON text whose shape
// other packages own; SQL is here and nowhere else. Times are UTC.
package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"strings"
	"time"

	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"restbend/core/trade"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound is returned when a row does not exist or belongs to someone else.
var ErrNotFound = errors.New("not found")

// ErrChanged is returned when a plan was changed elsewhere meanwhile.
var ErrChanged = errors.New("changed elsewhere")

// Store is an open database.
type Store struct {
	DB   *sql.DB
	path string
}

// Path is where the database is.
func (s *Store) Path() string { return s.path }

// ErrNewer is returned for a database whose tables a newer program wrote.
var ErrNewer = errors.New("a newer program wrote this database")

// Open opens or creates the database file and brings it up to date. Tables of a newer program are left alone.
func Open(ctx context.Context, path string) (*Store, error) {
	s, err := OpenAsIs(path)
	if err != nil {
		return nil, err
	}
	if has, want, err := s.Version(ctx); err == nil && has > want {
		return nil, errors.Join(
			fmt.Errorf("%w: its tables are version %d, this program works with %d", ErrNewer, has, want),
			s.Close(),
		)
	}
	p, err := s.migrations()
	if err != nil {
		return nil, err
	}
	if _, err := p.Up(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("bring the database up to date: %w", err), s.Close())
	}
	return s, nil
}

// secret is the mode of everything this program writes down.
const secret = 0o600

// private makes a file that only its owner reads, or takes the rights of others away.
func private(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, secret)
	switch {
	case errors.Is(err, fs.ErrPermission): // read-only: whoever gave it so knows
		return nil
	case err != nil:
		return err
	}
	return errors.Join(f.Chmod(secret), f.Close())
}

// OpenAsIs opens a database file without changing its tables. What is deleted in it is overwritten.
func OpenAsIs(path string) (*Store, error) {
	if err := private(path); err != nil {
		return nil, err
	}
	for _, end := range []string{"-wal", "-shm"} {
		if err := os.Chmod(path+end, secret); err != nil && !errors.Is(err, fs.ErrNotExist) &&
			!errors.Is(err, fs.ErrPermission) {
			return nil, err
		}
	}
	q := url.Values{
		"_pragma": {"foreign_keys(1)", "journal_mode(WAL)", "synchronous(FULL)", "busy_timeout(5000)", "secure_delete(1)"},
		"_txlock": {"immediate"},
	}
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?"+q.Encode())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(4)
	return &Store{db, path}, nil
}

func (s *Store) migrations() (*goose.Provider, error) {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectSQLite3, s.DB, dir)
}

// Version is the version of the tables in the file and the one this program works with.
// A file of another program is an error.
func (s *Store) Version(ctx context.Context) (has, want int64, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT max(version_id) FROM goose_db_version WHERE is_applied`).Scan(&has)
	if err != nil {
		return 0, 0, fmt.Errorf("not a database of this program: %w", err)
	}
	p, err := s.migrations()
	if err != nil {
		return 0, 0, err
	}
	for _, m := range p.ListSources() {
		want = max(want, m.Version)
	}
	return has, want, nil
}

// Down takes the last change of the tables back, for tests of bringing them up to date.
func (s *Store) Down(ctx context.Context) error {
	p, err := s.migrations()
	if err != nil {
		return err
	}
	_, err = p.Down(ctx)
	return err
}

// Close closes the database; nothing of it stays in a log beside it.
func (s *Store) Close() error {
	_, _ = s.DB.Exec(`PRAGMA wal_checkpoint(TRUNCATE)`) // a file that cannot be written is closed all the same
	return s.DB.Close()
}

// Ready tells that the database can be read and written.
func (s *Store) Ready(ctx context.Context) error {
	if _, err := s.Accounts(ctx); err != nil {
		return err
	}
	return s.Set(ctx, "ready", now())
}

// Broken says in words when the database itself cannot be used, empty for every other error.
func Broken(err error) string {
	var e *sqlite.Error
	if !errors.As(err, &e) {
		return ""
	}
	switch e.Code() & 0xff {
	case sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB:
		return "The database is damaged"
	case sqlite3.SQLITE_FULL:
		return "The disk is full"
	case sqlite3.SQLITE_READONLY, sqlite3.SQLITE_PERM:
		return "The database can only be read"
	case sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN:
		return "The database cannot be reached"
	case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
		return "The database is busy"
	}
	return ""
}

func now() string { return time.Now().UTC().Format(time.RFC3339) }

// tx runs one user action in one transaction.
func (s *Store) tx(ctx context.Context, do func(*sql.Tx) error) error {
	tx, err := s.DB.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

func found(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

func touched(r sql.Result, err error, otherwise error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, otherwise)
	}
	return nil
}

// Client is a stored client.
type Client struct {
	ID, Owner, Revision int64
	Name, Build         string
	Document            []byte
	Intake              string // where the intake is resumed; empty when it is complete
	LogRev              int64  // counts the changes of the log
	UID                 string // the same wherever the client's document goes
	UpdatedAt           string
	Sessions            int       // taught so far, in lists
	LastDay             trade.Day // of the last session, in lists
}

func newUID() string { return strings.ToLower(rand.Text()) }

// reads is true for the rows an account may read: its own clients and those shared with
// it. The account's number is needed twice.
const reads = `(c.removed_at IS NULL AND (c.account_id = ? OR EXISTS (SELECT 1 FROM client_shares h
	WHERE h.client_id = c.id AND h.account_id = ?)))`

// Find says which clients of a list are wanted: those whose name holds a text, so many from one on. A Most of 0 is all.
type Find struct {
	Text        string
	Most, After int
}

// where narrows a list, with what it asks for.
func (f Find) where(account int64) (string, []any) {
	q, args := reads, []any{account, account}
	if text := strings.TrimSpace(f.Text); text != "" {
		q += ` AND c.name LIKE ? ESCAPE '!'`
		args = append(args, "%"+strings.NewReplacer("!", "!!", "%", "!%", "_", "!_").Replace(text)+"%")
	}
	return q, args
}

// lastDay is the day of a client's last ended session, empty when there is none.
const lastDay = `coalesce((SELECT max(t.day) FROM taught t INDEXED BY taught_days WHERE t.client_id = c.id
	AND t.ended_at IS NOT NULL), '')`

// Clients lists clients an account may read, with how often they were taught.
func (s *Store) Clients(ctx context.Context, account int64, find ...Find) ([]Client, error) {
	f := Find{}
	for _, x := range find {
		f = x
	}
	where, args := f.where(account)
	if f.Most == 0 {
		f.Most = -1
	}
	// who is on the page is found first: documents and counts are read of nobody else
	rows, err := s.DB.QueryContext(ctx, `
		WITH page AS (SELECT c.id, row_number() OVER () AS place FROM (SELECT c.id FROM clients c WHERE `+where+`
			ORDER BY c.name COLLATE NOCASE, c.id LIMIT ? OFFSET ?) c)
		SELECT c.id, c.account_id, c.name, c.document, c.revision, c.updated_at, c.build, c.intake, c.uid, c.log_rev,
			(SELECT count(*) FROM taught t WHERE t.client_id = c.id AND t.ended_at IS NOT NULL), `+lastDay+`
		FROM page JOIN clients c ON c.id = page.id ORDER BY page.place`, append(args, f.Most, f.After)...)
	return list(rows, err, func(r *sql.Rows, c *Client) error {
		return r.Scan(
			&c.ID,
			&c.Owner,
			&c.Name,
			&c.Document,
			&c.Revision,
			&c.UpdatedAt,
			&c.Build,
			&c.Intake,
			&c.UID,
			&c.LogRev,
			&c.Sessions,
			&c.LastDay,
		)
	})
}

// mostLooked is how many of the newest sessions are looked at for who was taught lately (product default).
const mostLooked = 300

// Recent lists clients an account may read, those taught lately first, then by name: by what tells whether anything
// about them changed, without documents.
func (s *Store) Recent(ctx context.Context, account int64, most int) ([]Client, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`WITH lately AS (SELECT client_id, max(id) AS newest FROM
			(SELECT id, client_id FROM taught ORDER BY id DESC LIMIT ?) GROUP BY client_id)
		SELECT c.id, c.account_id, c.name, c.intake, c.revision, c.log_rev FROM clients c
			LEFT JOIN lately ON lately.client_id = c.id WHERE `+reads+`
			ORDER BY lately.newest DESC NULLS LAST, c.name COLLATE NOCASE, c.id LIMIT ?`,
		mostLooked,
		account,
		account,
		most,
	)
	return list(rows, err, func(r *sql.Rows, c *Client) error {
		return r.Scan(&c.ID, &c.Owner, &c.Name, &c.Intake, &c.Revision, &c.LogRev)
	})
}

// ClientCount is how many clients a search finds.
func (s *Store) ClientCount(ctx context.Context, account int64, f Find) (n int, err error) {
	where, args := f.where(account)
	err = s.DB.QueryRowContext(ctx, `SELECT count(*) FROM clients c WHERE `+where, args...).Scan(&n)
	return n, err
}

// Stamps lists every client an account may read by what tells whether anything about them changed, without documents.
func (s *Store) Stamps(ctx context.Context, account int64) ([]Client, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT c.id, c.account_id, c.name, c.revision, c.log_rev FROM clients c WHERE `+reads+`
			ORDER BY c.name COLLATE NOCASE, c.id`,
		account,
		account,
	)
	return list(rows, err, func(r *sql.Rows, c *Client) error {
		return r.Scan(&c.ID, &c.Owner, &c.Name, &c.Revision, &c.LogRev)
	})
}

// OpenSessions lists the sessions an account's clients have open, the one begun last first.
func (s *Store) OpenSessions(ctx context.Context, account int64) ([]Taught, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT t.id, t.client_id, c.name FROM taught t JOIN clients c ON c.id = t.client_id WHERE t.ended_at IS NULL
			AND `+reads+` ORDER BY t.id DESC`,
		account,
		account,
	)
	return list(rows, err, func(r *sql.Rows, t *Taught) error { return r.Scan(&t.ID, &t.ClientID, &t.Notes) })
}

// PlansOf lists the plans of a day of an account's clients, and the names of these.
func (s *Store) PlansOf(ctx context.Context, account int64, day trade.Day) (plans []Plan, names []string, err error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+planColumns+`, c.name, EXISTS (SELECT 1 FROM taught t WHERE t.plan_id = p.id AND t.ended_at IS NOT NULL)
			FROM plans p JOIN clients c ON c.id = p.client_id WHERE p.day = ? AND p.removed_at IS NULL AND `+reads+`
				ORDER BY c.name COLLATE NOCASE`,
		day.String(),
		account,
		account,
	)
	type named struct {
		p    Plan
		name string
	}
	all, err := list(rows, err, func(r *sql.Rows, n *named) error {
		return r.Scan(append(n.p.fields(), &n.name, &n.p.Taught)...)
	})
	for i := range all {
		plans, names = append(plans, all[i].p), append(names, all[i].name)
	}
	return plans, names, err
}

// Client returns one of the clients an account may read.
func (s *Store) Client(ctx context.Context, account, id int64) (c Client, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT c.id, c.account_id, c.name, c.document, c.revision, c.updated_at, c.build,
			c.intake, c.uid, c.log_rev FROM clients c WHERE c.id = ? AND `+reads, id, account, account).
			Scan(&c.ID, &c.Owner, &c.Name, &c.Document, &c.Revision, &c.UpdatedAt, &c.Build, &c.Intake, &c.UID, &c.LogRev),
	)
	return c, err
}

// ClientOf returns the client with a lasting id, of those an account may read.
func (s *Store) ClientOf(ctx context.Context, account int64, uid string) (c Client, err error) {
	var id int64
	if err := found(s.DB.QueryRowContext(ctx, `SELECT c.id FROM clients c WHERE c.uid = ? AND c.uid <> '' AND `+reads,
		uid, account, account).Scan(&id)); err != nil {
		return c, err
	}
	return s.Client(ctx, account, id)
}

// CreateClient adds a client with the first lines of the history.
func (s *Store) CreateClient(ctx context.Context, account int64, c Client, changes ...Change) (id int64, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		row := tx.QueryRowContext(
			ctx,
			`INSERT INTO clients (account_id, name, document, build, intake, uid, updated_at)
				VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING id`,
			account,
			c.Name,
			string(c.Document),
			c.Build,
			c.Intake,
			newUID(),
			now(),
		)
		if err := row.Scan(&id); err != nil {
			return err
		}
		return addHistory(ctx, tx, id, changes)
	})
	return id, err
}

// UpdateClient replaces a client's document and adds to the history; older plans become
// stale. A document read at another revision is not overwritten.
func (s *Store) UpdateClient(ctx context.Context, account int64, c Client, changes ...Change) error {
	return s.UpdateTested(ctx, account, c, nil, changes...)
}

// UpdateTested is UpdateClient with days of tests that the change follows from, all or none.
func (s *Store) UpdateTested(ctx context.Context, account int64, c Client, tests []Results, changes ...Change) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(
			ctx,
			`UPDATE clients AS c SET name = ?, document = ?, build = ?, intake = ?, revision = revision + 1, updated_at = ?
				WHERE c.id = ? AND c.revision = ? AND `+reads,
			c.Name,
			string(c.Document),
			c.Build,
			c.Intake,
			now(),
			c.ID,
			c.Revision,
			account,
			account,
		)
		if err := touched(r, err, ErrChanged); err != nil {
			return err
		}
		for _, t := range tests {
			if _, err := tx.ExecContext(ctx, `INSERT INTO test_results (client_id, day, document, at) VALUES (?, ?, ?, ?)`,
				c.ID, t.Day.String(), string(t.Document), now()); err != nil {
				return err
			}
		}
		return addHistory(ctx, tx, c.ID, changes)
	})
}
