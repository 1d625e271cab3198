package store

import (
	"context"
	"database/sql"

	"restbend/core/trade"
)

// Member is an account of the practice.
type Member struct {
	ID        int64
	Name      string
	Keeper    bool // adds accounts and changes the practice's limits
	CreatedAt string
	Shared    bool // of one client, in Members
}

// Member returns an account by its number.
func (s *Store) Member(ctx context.Context, id int64) (m Member, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT id, name, keeper, created_at FROM accounts WHERE id = ? AND closed_at IS NULL`, id).
			Scan(&m.ID, &m.Name, &m.Keeper, &m.CreatedAt),
	)
	return m, err
}

// Members lists the accounts by name; Shared tells with whom a client is shared (client 0:
// nobody).
func (s *Store) Members(ctx context.Context, client int64) ([]Member, error) {
	rows, err := s.DB.QueryContext(ctx, `
		SELECT a.id, a.name, a.keeper, a.created_at, EXISTS (SELECT 1 FROM client_shares h WHERE h.account_id = a.id
			AND h.client_id = ?)
		FROM accounts a WHERE a.closed_at IS NULL ORDER BY a.name COLLATE NOCASE`, client)
	return list(
		rows,
		err,
		func(r *sql.Rows, m *Member) error { return r.Scan(&m.ID, &m.Name, &m.Keeper, &m.CreatedAt, &m.Shared) },
	)
}

// list reads all rows.
func list[T any](rows *sql.Rows, err error, scan func(*sql.Rows, *T) error) ([]T, error) {
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []T
	for rows.Next() {
		var v T
		if err := scan(rows, &v); err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, rows.Err()
}

// Share lets another account of the practice see and teach a client, or no longer. Only
// the owner shares.
func (s *Store) Share(ctx context.Context, owner, client, with int64, on bool) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var n int
		if err := tx.QueryRowContext(ctx, `SELECT count(*) FROM clients WHERE id = ? AND account_id = ?`, client,
			owner).Scan(&n); err != nil ||
			n == 0 {
			return found(errOr(err, sql.ErrNoRows))
		}
		q := `DELETE FROM client_shares WHERE client_id = ? AND account_id = ?`
		args := []any{client, with}
		if on {
			q, args = `INSERT INTO client_shares (client_id, account_id, shared_at) VALUES (?, ?, ?)
				ON CONFLICT DO NOTHING`, append(
				args,
				now(),
			)
		}
		_, err := tx.ExecContext(ctx, q, args...)
		return err
	})
}

func errOr(err, otherwise error) error {
	if err != nil {
		return err
	}
	return otherwise
}

// Change is one line of a client's history.
type Change struct {
	At, Who, Field, Before, After, Why string
	Imported                           bool // it came in with a document: another practice's word
}

// mostHistory is how many changes of a client are shown; an export holds all.
const mostHistory = 300

// History lists a client's newest changes, newest first.
func (s *Store) History(ctx context.Context, client int64) ([]Change, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT at, who, field, before, after, why, imported FROM client_history WHERE client_id = ? ORDER BY id DESC
			LIMIT ?`,
		client,
		mostHistory,
	)
	return list(rows, err, func(r *sql.Rows, c *Change) error {
		return r.Scan(&c.At, &c.Who, &c.Field, &c.Before, &c.After, &c.Why, &c.Imported)
	})
}

// ChangedSince lists the fields of a client that changed after their last ended session, with
// when; nothing before the first one.
func (s *Store) ChangedSince(ctx context.Context, client int64) ([]Change, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT h.at, h.field FROM client_history h
		WHERE h.client_id = ? AND h.at >= (SELECT max(t.ended_at) FROM taught t WHERE t.client_id = h.client_id
			AND t.ended_at IS NOT NULL) ORDER BY h.id`, client)
	return list(rows, err, func(r *sql.Rows, c *Change) error { return r.Scan(&c.At, &c.Field) })
}

func addHistory(ctx context.Context, tx *sql.Tx, client int64, changes []Change) error {
	for _, c := range changes {
		if c.At == "" {
			c.At = now()
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO client_history (client_id, at, who, field, before, after, why,
			imported) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`, client, c.At, c.Who, c.Field, c.Before, c.After, c.Why, c.Imported); err != nil {
			return err
		}
	}
	return nil
}

// Results is one day of tests of a client.
type Results struct {
	ID       int64
	Day      trade.Day
	Document []byte
}

// AddResults stores a day of tests.
func (s *Store) AddResults(ctx context.Context, client int64, r Results) error {
	_, err := s.DB.ExecContext(
		ctx,
		`INSERT INTO test_results (client_id, day, document, at) VALUES (?, ?, ?, ?)`,
		client,
		r.Day.String(),
		string(r.Document),
		now(),
	)
	return err
}

// AllResults lists a client's tests, newest first.
func (s *Store) AllResults(ctx context.Context, client int64) ([]Results, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT id, day, document FROM test_results WHERE client_id = ? ORDER BY day DESC, id DESC`,
		client,
	)
	return list(rows, err, func(r *sql.Rows, t *Results) error { return r.Scan(&t.ID, &t.Day, &t.Document) })
}

// LimitChange is one change of a limit by the practice; Value is not valid where the
// limit went back to its default.
type LimitChange struct {
	Key                     string
	Value                   sql.NullFloat64
	Reason, Source, Who, At string
}

// LimitChanges lists every change of limits, oldest first.
func (s *Store) LimitChanges(ctx context.Context) ([]LimitChange, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT key, value, reason, source, who, at FROM limit_changes ORDER BY id`)
	return list(rows, err, func(r *sql.Rows, c *LimitChange) error {
		return r.Scan(&c.Key, &c.Value, &c.Reason, &c.Source, &c.Who, &c.At)
	})
}

// ChangeLimit records a change; every plan of the practice becomes stale.
func (s *Store) ChangeLimit(ctx context.Context, c LimitChange) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if c.At == "" {
			c.At = now()
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO limit_changes (key, value, reason, source, who, at)
			VALUES (?, ?, ?, ?, ?, ?)`, c.Key, c.Value, c.Reason, c.Source, c.Who, c.At); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE clients SET revision = revision + 1`)
		return err
	})
}

// EveryClient lists all clients of the practice: only numbers and documents, for
// screening them again when a limit changes.
func (s *Store) EveryClient(ctx context.Context) ([]Client, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT id, account_id, name, document, revision, updated_at, build, intake, uid FROM clients
			WHERE removed_at IS NULL ORDER BY name COLLATE NOCASE, id`,
	)
	return list(rows, err, func(r *sql.Rows, c *Client) error {
		return r.Scan(&c.ID, &c.Owner, &c.Name, &c.Document, &c.Revision, &c.UpdatedAt, &c.Build, &c.Intake, &c.UID)
	})
}
