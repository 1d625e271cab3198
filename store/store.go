// Package store keeps everything in one SQLite file. Documents are JSON text whose shape
// other packages own; SQL is here and nowhere else. Times are UTC.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"time"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the database driver

	"restbend/core/trade"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound is returned when a row does not exist or belongs to someone else.
var ErrNotFound = errors.New("not found")

// ErrChanged is returned when a plan was changed elsewhere meanwhile.
var ErrChanged = errors.New("changed elsewhere")

// Store is an open database.
type Store struct{ DB *sql.DB }

// Open opens or creates the database file and brings it up to date.
func Open(ctx context.Context, path string) (*Store, error) {
	s, err := OpenAsIs(path)
	if err != nil {
		return nil, err
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

// OpenAsIs opens a database file without changing its tables.
func OpenAsIs(path string) (*Store, error) {
	q := url.Values{"_pragma": {"foreign_keys(1)", "journal_mode(WAL)", "synchronous(FULL)", "busy_timeout(5000)"}, "_txlock": {"immediate"}}
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?"+q.Encode())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(4)
	return &Store{db}, nil
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

// Close closes the database.
func (s *Store) Close() error { return s.DB.Close() }

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

// Accounts counts the accounts; none means the first run.
func (s *Store) Accounts(ctx context.Context) (n int, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT count(*) FROM accounts`).Scan(&n)
	return n, err
}

// CreateAccount adds an account; the first one keeps the practice.
func (s *Store) CreateAccount(ctx context.Context, name, hash string) (id int64, err error) {
	err = s.DB.QueryRowContext(ctx, `INSERT INTO accounts (name, password_hash, created_at, keeper) VALUES (?, ?, ?, NOT EXISTS (SELECT 1 FROM accounts)) RETURNING id`, name, hash, now()).Scan(&id)
	return id, err
}

// Account finds an account by name.
func (s *Store) Account(ctx context.Context, name string) (id int64, hash string, err error) {
	err = found(s.DB.QueryRowContext(ctx, `SELECT id, password_hash FROM accounts WHERE name = ?`, name).Scan(&id, &hash))
	return id, hash, err
}

// SetPassword replaces a password and ends every session.
func (s *Store) SetPassword(ctx context.Context, name, hash string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE accounts SET password_hash = ? WHERE name = ?`, hash, name)
		if err := touched(r, err, ErrNotFound); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `DELETE FROM sessions`)
		return err
	})
}

// Client is a stored client.
type Client struct {
	ID, Owner, Revision int64
	Name, Build         string
	Document            []byte
	Intake              string // where the intake is resumed; empty when it is complete
	UpdatedAt           string
	Sessions            int       // taught so far, in lists
	LastDay             trade.Day // of the last session, in lists
}

// reads is true for the rows an account may read: its own clients and those shared with
// it. The account's number is needed twice.
const reads = `(c.account_id = ? OR EXISTS (SELECT 1 FROM client_shares h WHERE h.client_id = c.id AND h.account_id = ?))`

// Clients lists the clients an account may read, by name.
func (s *Store) Clients(ctx context.Context, account int64) ([]Client, error) {
	rows, err := s.DB.QueryContext(ctx, `
		SELECT c.id, c.account_id, c.name, c.document, c.revision, c.updated_at, c.build, c.intake, count(t.id), coalesce(max(t.day), '')
		FROM clients c LEFT JOIN taught t ON t.client_id = c.id AND t.ended_at IS NOT NULL
		WHERE `+reads+` GROUP BY c.id ORDER BY c.name COLLATE NOCASE`, account, account)
	return list(rows, err, func(r *sql.Rows, c *Client) error {
		return r.Scan(&c.ID, &c.Owner, &c.Name, &c.Document, &c.Revision, &c.UpdatedAt, &c.Build, &c.Intake, &c.Sessions, &c.LastDay)
	})
}

// Client returns one of the clients an account may read.
func (s *Store) Client(ctx context.Context, account, id int64) (c Client, err error) {
	err = found(s.DB.QueryRowContext(ctx, `SELECT c.id, c.account_id, c.name, c.document, c.revision, c.updated_at, c.build, c.intake FROM clients c WHERE c.id = ? AND `+reads, id, account, account).
		Scan(&c.ID, &c.Owner, &c.Name, &c.Document, &c.Revision, &c.UpdatedAt, &c.Build, &c.Intake))
	return c, err
}

// CreateClient adds a client with the first lines of the history.
func (s *Store) CreateClient(ctx context.Context, account int64, c Client, changes ...Change) (id int64, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		row := tx.QueryRowContext(ctx, `INSERT INTO clients (account_id, name, document, build, intake, updated_at) VALUES (?, ?, ?, ?, ?, ?) RETURNING id`,
			account, c.Name, string(c.Document), c.Build, c.Intake, now())
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
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE clients AS c SET name = ?, document = ?, build = ?, intake = ?, revision = revision + 1, updated_at = ? WHERE c.id = ? AND c.revision = ? AND `+reads,
			c.Name, string(c.Document), c.Build, c.Intake, now(), c.ID, c.Revision, account, account)
		if err := touched(r, err, ErrChanged); err != nil {
			return err
		}
		return addHistory(ctx, tx, c.ID, changes)
	})
}

// DeleteClient removes a client with every plan, session and entry.
func (s *Store) DeleteClient(ctx context.Context, account, id int64) error {
	r, err := s.DB.ExecContext(ctx, `DELETE FROM clients WHERE id = ? AND account_id = ?`, id, account)
	return touched(r, err, ErrNotFound)
}
