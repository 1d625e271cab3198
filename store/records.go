package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
)

// Record is everything kept about one client.
type Record struct {
	Client  Client
	Plans   []Plan
	Taught  []Taught
	Results []Results
	History []Change
}

// Record reads everything about one client, oldest first.
func (s *Store) Record(ctx context.Context, c Client) (r Record, err error) {
	r.Client = c
	if r.Plans, err = s.Plans(ctx, c.ID); err != nil {
		return r, err
	}
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+taughtColumns+` FROM taught t WHERE t.client_id = ? ORDER BY t.day, t.id`,
		c.ID,
	)
	if r.Taught, err = s.full(ctx, rows, err); err != nil {
		return r, err
	}
	rows, err = s.DB.QueryContext(ctx, `SELECT id, day, document FROM test_results WHERE client_id = ? ORDER BY id`, c.ID)
	if r.Results, err = list(rows, err, func(r *sql.Rows,
		t *Results) error {
		return r.Scan(&t.ID, &t.Day, &t.Document)
	}); err != nil {
		return r, err
	}
	rows, err = s.DB.QueryContext(
		ctx,
		`SELECT at, who, field, before, after, why, imported FROM client_history WHERE client_id = ? ORDER BY id`,
		c.ID,
	)
	r.History, err = list(rows, err, func(r *sql.Rows, c *Change) error {
		return r.Scan(&c.At, &c.Who, &c.Field, &c.Before, &c.After, &c.Why, &c.Imported)
	})
	return r, err
}

// AddRecords adds clients with everything about them to an account, all or none. Plans
// arrive stale: they are screened again before they are taught.
func (s *Store) AddRecords(ctx context.Context, account int64, records []Record) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		for i := range records {
			if err := addRecord(ctx, tx, account, &records[i]); err != nil {
				return fmt.Errorf("client %q: %w", records[i].Client.Name, err)
			}
		}
		return nil
	})
}

func addRecord(ctx context.Context, tx *sql.Tx, account int64, r *Record) error {
	var id int64
	c := &r.Client
	var taken bool // by somebody else's client, or one in the bin: then this is another one here
	if err := tx.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM clients WHERE uid = ?)`,
		c.UID).Scan(&taken); err != nil {
		return err
	}
	if c.UID == "" || taken {
		c.UID = newUID()
	}
	if err := tx.QueryRowContext(ctx, `INSERT INTO clients (account_id, name, document, build, intake, uid, revision,
		updated_at) VALUES (?, ?, ?, ?, ?, ?, 2, ?) RETURNING id`,
		account, c.Name, string(c.Document), c.Build, c.Intake, c.UID, now()).Scan(&id); err != nil {
		return err
	}
	return addToRecord(ctx, tx, id, r)
}

// AddToRecord adds plans, sessions, tests and history to a client who is here.
func (s *Store) AddToRecord(ctx context.Context, client int64, r Record) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return addToRecord(ctx, tx, client, &r) })
}

func addToRecord(ctx context.Context, tx *sql.Tx, id int64, r *Record) error {
	plans := map[int64]int64{}
	for _, p := range r.Plans {
		var n int64
		if err := tx.QueryRowContext(ctx, `INSERT INTO plans (client_id, document, client_revision, created_at)
			VALUES (?, ?, 1, ?) RETURNING id`, id, string(p.Document), p.CreatedAt).Scan(&n); err != nil {
			return err
		}
		plans[p.ID] = n
		if err := addStep(ctx, tx, &Plan{ID: n, Document: p.Document, ClientRevision: 1}, 0, "brought in"); err != nil {
			return err
		}
	}
	for _, t := range r.Taught {
		from := sql.NullInt64{}
		if n, ok := plans[t.PlanID.Int64]; t.PlanID.Valid && ok {
			from = sql.NullInt64{Int64: n, Valid: true}
		}
		t.ClientID, t.PlanID = id, from
		if _, err := addTaught(ctx, tx, &t); err != nil {
			return err
		}
	}
	for _, t := range r.Results {
		if _, err := tx.ExecContext(ctx, `INSERT INTO test_results (client_id, day, document, at) VALUES (?, ?, ?, ?)`, id,
			t.Day.String(), string(t.Document), now()); err != nil {
			return err
		}
	}
	return addHistory(ctx, tx, id, r.History)
}

// Backup writes a consistent copy of the database to a new file, also while the server is busy. Nobody is signed in
// in a copy, and nobody but its owner reads it.
func (s *Store) Backup(ctx context.Context, path string) error {
	if err := private(path); err != nil {
		return err
	}
	if _, err := s.DB.ExecContext(ctx, `VACUUM INTO ?`, path); err != nil {
		return err
	}
	return EndSessions(ctx, path)
}

// EndSessions ends every session in a database file that nobody has open, and leaves nothing beside it.
func EndSessions(ctx context.Context, path string) (err error) {
	db, err := sql.Open(
		"sqlite",
		"file:"+(&url.URL{Path: path}).EscapedPath()+"?_pragma=journal_mode(DELETE)&_pragma=secure_delete(1)",
	)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	for _, table := range []string{"sessions", "sign_ins", "known_devices", "sign_in_tries"} {
		var there bool
		if err := db.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?)`,
			table).Scan(&there); err != nil {
			return err
		}
		if there {
			if _, err := db.ExecContext(ctx, `DELETE FROM `+table); err != nil {
				return err
			}
		}
	}
	_, err = db.ExecContext(ctx, `VACUUM`)
	return err
}

// Integrity lists what is wrong with the file: damaged pages, rows that point nowhere.
func (s *Store) Integrity(ctx context.Context) (problems []string, err error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT integrity_check FROM pragma_integrity_check`)
	lines, err := list(rows, err, func(r *sql.Rows, l *string) error { return r.Scan(l) })
	if err != nil {
		return nil, err
	}
	for _, l := range lines {
		if l != "ok" {
			problems = append(problems, l)
		}
	}
	rows, err = s.DB.QueryContext(
		ctx,
		`SELECT "table" || ' row ' || coalesce(rowid, '?') || ' points to a missing row of ' || parent
			FROM pragma_foreign_key_check`,
	)
	lines, err = list(rows, err, func(r *sql.Rows, l *string) error { return r.Scan(l) })
	return append(problems, lines...), err
}

// Counts tells how many rows each table holds.
func (s *Store) Counts(ctx context.Context) (map[string]int, error) {
	out := map[string]int{}
	for _, t := range []string{"accounts", "clients", "plans", "taught", "scores", "marks", "entries", "test_results",
		"client_history", "client_shares", "own_versions", "limit_changes", "plan_steps", "templates"} {
		var n int
		if err := s.DB.QueryRowContext(ctx, `SELECT count(*) FROM `+t).Scan(&n); err != nil {
			return nil, err
		}
		out[t] = n
	}
	return out, nil
}
