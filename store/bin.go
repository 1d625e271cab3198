package store

import (
	"context"
	"database/sql"
	"time"
)

// BinDays is how long what was removed lies in the bin (shared design: 30 days).
const BinDays = 30

// RemoveClient puts a client with every plan and session into the bin. Only the owner does.
func (s *Store) RemoveClient(ctx context.Context, account, id int64) error {
	r, err := s.DB.ExecContext(
		ctx,
		`UPDATE clients SET removed_at = ? WHERE id = ? AND account_id = ? AND removed_at IS NULL`,
		now(),
		id,
		account,
	)
	return touched(r, err, ErrNotFound)
}

// RemovePlan puts a plan into the bin; what was taught with it stays.
func (s *Store) RemovePlan(ctx context.Context, p Plan) error {
	r, err := s.DB.ExecContext(ctx, `UPDATE plans SET removed_at = ? WHERE id = ? AND removed_at IS NULL`, now(), p.ID)
	return touched(r, err, ErrNotFound)
}

// Removed is one thing in the bin.
type Removed struct {
	Kind     string // client or plan
	ID       int64
	Name, At string
	Client   int64 // of a plan
}

// Bin lists what an account removed, newest first.
func (s *Store) Bin(ctx context.Context, account int64) ([]Removed, error) {
	rows, err := s.DB.QueryContext(ctx, `
		SELECT 'client', c.id, c.name, c.removed_at, c.id FROM clients c WHERE c.removed_at IS NOT NULL AND c.account_id = ?
		UNION ALL SELECT 'plan', p.id, c.name, p.removed_at, c.id FROM plans p JOIN clients c ON c.id = p.client_id
			WHERE p.removed_at IS NOT NULL AND `+reads+`
		ORDER BY 4 DESC`, account, account, account)
	return list(
		rows,
		err,
		func(r *sql.Rows, x *Removed) error { return r.Scan(&x.Kind, &x.ID, &x.Name, &x.At, &x.Client) },
	)
}

// PutBack takes something out of the bin again.
func (s *Store) PutBack(ctx context.Context, account int64, kind string, id int64) error {
	return s.ofBin(
		ctx,
		account,
		kind,
		id,
		`UPDATE clients SET removed_at = NULL WHERE id = ?`,
		`UPDATE plans SET removed_at = NULL WHERE id = ?`,
	)
}

// Delete deletes something in the bin for good.
func (s *Store) Delete(ctx context.Context, account int64, kind string, id int64) error {
	if err := s.ofBin(ctx, account, kind, id, `DELETE FROM clients WHERE id = ?`, `DELETE FROM plans WHERE id = ?`); err != nil {
		return err
	}
	return s.emptyLog(ctx)
}

// emptyLog writes the log of the database into its file and cuts it, so that what was deleted for good stands in neither
// while the program runs. Where somebody reads just then it is done with the next one.
func (s *Store) emptyLog(ctx context.Context) error {
	_, err := s.DB.ExecContext(ctx, `PRAGMA wal_checkpoint(TRUNCATE)`)
	return err
}

// ofBin does something with a thing in an account's bin.
func (s *Store) ofBin(ctx context.Context, account int64, kind string, id int64, client, plan string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		q, check, args := client, `SELECT 1 FROM clients WHERE id = ? AND removed_at IS NOT NULL AND account_id = ?`, []any{
			id,
			account,
		}
		if kind == "plan" {
			q, check, args = plan, `SELECT 1 FROM plans p JOIN clients c ON c.id = p.client_id WHERE p.id = ?
				AND p.removed_at IS NOT NULL AND `+reads, []any{
				id,
				account,
				account,
			}
		}
		var one int
		if err := found(tx.QueryRowContext(ctx, check, args...).Scan(&one)); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, q, id)
		return err
	})
}

// EmptyBin deletes for good what has lain in the bin long enough.
func (s *Store) EmptyBin(ctx context.Context, at time.Time) error {
	before := at.UTC().AddDate(0, 0, -BinDays).Format(time.RFC3339)
	gone := int64(0)
	err := s.tx(ctx, func(tx *sql.Tx) error {
		for _, q := range []string{`DELETE FROM plans WHERE removed_at < ?`, `DELETE FROM clients WHERE removed_at < ?`} {
			r, err := tx.ExecContext(ctx, q, before)
			if err != nil {
				return err
			}
			n, err := r.RowsAffected()
			if err != nil {
				return err
			}
			gone += n
		}
		return nil
	})
	if err != nil || gone == 0 {
		return err
	}
	return s.emptyLog(ctx)
}
