package store

import (
	"context"
	"database/sql"

	"restbend/core/trade"
)

// Plan is a stored plan. Basis is a fingerprint of the log it was made with, Day when it is
// planned for, Quick whether the best is still to be worked out. Step and Steps tell where
// it is among its changes.
type Plan struct {
	ID, ClientID, ClientRevision, Version int64
	Document                              []byte
	CreatedAt, Basis                      string
	Day                                   trade.Day
	Quick                                 bool
	Step, Steps                           int
	Taught                                bool // in PlansOf
}

const planColumns = `p.id, p.client_id, p.client_revision, p.version, p.document, p.created_at, p.basis, p.day,
	p.quick, p.step, (SELECT count(*) FROM plan_steps h WHERE h.plan_id = p.id)`

func (p *Plan) fields() []any {
	return []any{
		&p.ID,
		&p.ClientID,
		&p.ClientRevision,
		&p.Version,
		&p.Document,
		&p.CreatedAt,
		&p.Basis,
		&p.Day,
		&p.Quick,
		&p.Step,
		&p.Steps,
	}
}

// addStep keeps a plan as its step n, with what it was made with.
func addStep(ctx context.Context, tx *sql.Tx, p *Plan, n int, what string) error {
	_, err := tx.ExecContext(
		ctx,
		`INSERT INTO plan_steps (plan_id, n, what, document, client_revision, basis, at) VALUES (?, ?, ?, ?, ?, ?, ?)`,
		p.ID,
		n,
		what,
		string(p.Document),
		p.ClientRevision,
		p.Basis,
		now(),
	)
	return err
}

// CreatePlan adds a plan.
func (s *Store) CreatePlan(ctx context.Context, p Plan) (id int64, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		if err := tx.QueryRowContext(ctx, `INSERT INTO plans (client_id, document, client_revision, created_at, basis, day,
			quick) VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING id`,
			p.ClientID, string(p.Document), p.ClientRevision, now(), p.Basis, p.Day.String(), p.Quick).Scan(&p.ID); err != nil {
			return err
		}
		return addStep(ctx, tx, &p, 0, "planned")
	})
	return p.ID, err
}

// Plan returns a plan of one of the account's clients.
func (s *Store) Plan(ctx context.Context, account, id int64) (p Plan, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT `+planColumns+` FROM plans p JOIN clients c ON c.id = p.client_id WHERE p.id = ?
			AND p.removed_at IS NULL AND `+reads, id, account, account).
			Scan(p.fields()...),
	)
	return p, err
}

// Plans lists a client's plans, oldest first.
func (s *Store) Plans(ctx context.Context, clientID int64) ([]Plan, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+planColumns+` FROM plans p WHERE p.client_id = ? AND p.removed_at IS NULL ORDER BY p.id`,
		clientID,
	)
	return list(rows, err, func(r *sql.Rows, p *Plan) error { return r.Scan(p.fields()...) })
}

// UpdatePlan replaces a plan that is still at the version it was read at, as a new step;
// steps that were undone are dropped.
func (s *Store) UpdatePlan(ctx context.Context, p Plan, what string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if err := writePlan(ctx, tx, &p, p.Step+1); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM plan_steps WHERE plan_id = ? AND n > ?`, p.ID, p.Step); err != nil {
			return err
		}
		return addStep(ctx, tx, &p, p.Step+1, what)
	})
}

func writePlan(ctx context.Context, tx *sql.Tx, p *Plan, step int) error {
	r, err := tx.ExecContext(
		ctx,
		`UPDATE plans SET document = ?, client_revision = ?, basis = ?, quick = ?, step = ?, version = version + 1
			WHERE id = ? AND version = ?`,
		string(p.Document),
		p.ClientRevision,
		p.Basis,
		p.Quick,
		step,
		p.ID,
		p.Version,
	)
	return touched(r, err, ErrChanged)
}

// StepPlan goes back (by -1) or forward (by 1) among a plan's steps, to what was planned
// then and what it was made with; ErrNotFound at the end.
func (s *Store) StepPlan(ctx context.Context, p Plan, by int) (what string, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		var document, undone string
		if err := found(tx.QueryRowContext(ctx, `SELECT what, document, client_revision, basis FROM plan_steps
			WHERE plan_id = ? AND n = ?`, p.ID, p.Step+by).Scan(&what, &document, &p.ClientRevision, &p.Basis)); err != nil {
			return err
		}
		if by < 0 {
			if err := tx.QueryRowContext(ctx, `SELECT what FROM plan_steps WHERE plan_id = ? AND n = ?`, p.ID,
				p.Step).Scan(&undone); err != nil {
				return err
			}
			what = undone
		}
		p.Document = []byte(document)
		return writePlan(ctx, tx, &p, p.Step+by)
	})
	return what, err
}

// RebasePlan takes a plan as made with a newer revision of its client, when what changed does not
// touch it.
func (s *Store) RebasePlan(ctx context.Context, p Plan, revision int64) error {
	r, err := s.DB.ExecContext(ctx, `UPDATE plans SET client_revision = ? WHERE id = ?`, revision, p.ID)
	return touched(r, err, ErrNotFound)
}

// SetPlanDay plans a session for a day; the zero day is none.
func (s *Store) SetPlanDay(ctx context.Context, p Plan, day trade.Day) error {
	r, err := s.DB.ExecContext(ctx, `UPDATE plans SET day = ? WHERE id = ?`, day.String(), p.ID)
	return touched(r, err, ErrNotFound)
}

// LatestPlan is the newest plan of a client.
func (s *Store) LatestPlan(ctx context.Context, clientID int64) (id int64, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT id FROM plans WHERE client_id = ? AND removed_at IS NULL ORDER BY id DESC
			LIMIT 1`, clientID).
			Scan(&id),
	)
	return id, err
}

// Template is a kind of session as the practice keeps it.
type Template struct {
	Slug, Who, At string
	Document      []byte
}

// Templates lists the practice's own and changed kinds of session.
func (s *Store) Templates(ctx context.Context) ([]Template, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT slug, who, at, document FROM templates ORDER BY slug`)
	return list(rows, err, func(r *sql.Rows, t *Template) error { return r.Scan(&t.Slug, &t.Who, &t.At, &t.Document) })
}

// SaveTemplate keeps a kind of session.
func (s *Store) SaveTemplate(ctx context.Context, t Template) error {
	_, err := s.DB.ExecContext(
		ctx,
		`INSERT INTO templates (slug, document, who, at) VALUES (?, ?, ?, ?) ON CONFLICT (slug) DO UPDATE
			SET document = excluded.document, who = excluded.who, at = excluded.at`,
		t.Slug,
		string(t.Document),
		t.Who,
		now(),
	)
	return err
}

// DropTemplate forgets the practice's kind of session: a delivered one comes back.
func (s *Store) DropTemplate(ctx context.Context, slug string) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM templates WHERE slug = ?`, slug)
	return err
}
