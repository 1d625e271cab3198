package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"restbend/core/trade"
)

// Accounts counts the accounts; none means the first run.
func (s *Store) Accounts(ctx context.Context) (n int, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT count(*) FROM accounts`).Scan(&n)
	return n, err
}

// CreateAccount adds an account; the first one keeps the practice. ErrChanged: the name is taken, whatever its case.
func (s *Store) CreateAccount(ctx context.Context, name, hash string) (id int64, err error) {
	err = s.DB.QueryRowContext(ctx, `INSERT INTO accounts (name, password_hash, created_at, keeper)
		SELECT ?1, ?2, ?3, NOT EXISTS (SELECT 1 FROM accounts) WHERE NOT EXISTS (SELECT 1 FROM accounts WHERE name = ?1 COLLATE NOCASE)
		RETURNING id`, name, hash, now()).
		Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, ErrChanged
	}
	return id, err
}

// FirstAccount adds the first account of a practice, and no other: ErrChanged when there is one.
func (s *Store) FirstAccount(ctx context.Context, name, hash string) (id int64, err error) {
	err = s.DB.QueryRowContext(ctx, `INSERT INTO accounts (name, password_hash, created_at, keeper) SELECT ?, ?, ?, 1
		WHERE NOT EXISTS (SELECT 1 FROM accounts) RETURNING id`, name, hash, now()).
		Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, ErrChanged
	}
	return id, err
}

// Account finds an account that may sign in by name.
func (s *Store) Account(ctx context.Context, name string) (id int64, hash string, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT id, password_hash FROM accounts WHERE name = ? AND closed_at IS NULL`, name).
			Scan(&id, &hash),
	)
	return id, hash, err
}

// NameTaken tells whether an account has a name, whatever its letters' case, also a closed one.
func (s *Store) NameTaken(ctx context.Context, name string) (taken bool, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM accounts WHERE name = ? COLLATE NOCASE)`, name).
		Scan(&taken)
	return taken, err
}

// SetPassword replaces a password, ends the account's sessions and forgets who guessed at its name.
func (s *Store) SetPassword(ctx context.Context, name, hash string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE accounts SET password_hash = ? WHERE name = ?`, hash, name)
		if err := touched(r, err, ErrNotFound); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM sign_ins WHERE account_id = (SELECT id FROM accounts WHERE name = ?)`,
			name); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `DELETE FROM sign_in_tries WHERE key = ?1 OR substr(key, 1, length(?2)) = ?2`,
			NameTries(name), pairs(name))
		return err
	})
}

// ChangePassword replaces an account's password and ends its sign-ins but one.
func (s *Store) ChangePassword(ctx context.Context, account int64, hash, but string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE accounts SET password_hash = ? WHERE id = ?`, hash, account)
		if err := touched(r, err, ErrNotFound); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `DELETE FROM sign_ins WHERE account_id = ? AND key <> ?`, account, but)
		return err
	})
}

// CloseAccount ends an account: it signs in no more, its clients go to another. The last keeper is not closed.
func (s *Store) CloseAccount(ctx context.Context, id, heir int64) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(
			ctx,
			`UPDATE accounts SET closed_at = ? WHERE id = ? AND closed_at IS NULL AND NOT keeper AND EXISTS (SELECT 1
				FROM accounts WHERE id = ? AND closed_at IS NULL)`,
			now(),
			id,
			heir,
		)
		if err := touched(r, err, ErrNotFound); err != nil {
			return err
		}
		for _, q := range []string{`DELETE FROM sign_ins WHERE account_id = ?1 AND ?2`,
			`DELETE FROM client_shares WHERE account_id = ?1 AND ?2`,
			`DELETE FROM client_shares WHERE account_id = ?2 AND client_id IN (SELECT id FROM clients
				WHERE account_id = ?1)`, `UPDATE clients SET account_id = ?2 WHERE account_id = ?1`} {
			if _, err := tx.ExecContext(ctx, q, id, heir); err != nil {
				return err
			}
		}
		return nil
	})
}

// SignIn is one place where an account is signed in.
type SignIn struct {
	ID, Account               int64
	Key                       string
	Place, Device, At, SeenAt string
}

// AddSignIn keeps that an account signed in.
func (s *Store) AddSignIn(ctx context.Context, in SignIn) error {
	_, err := s.DB.ExecContext(
		ctx,
		`INSERT INTO sign_ins (account_id, key, place, device, at, seen_at) VALUES (?, ?, ?, ?, ?, ?)`,
		in.Account,
		in.Key,
		in.Place,
		in.Device,
		now(),
		now(),
	)
	return err
}

// SignIns lists where an account is signed in, the one seen last first.
func (s *Store) SignIns(ctx context.Context, account int64) ([]SignIn, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT id, account_id, key, place, device, at, seen_at FROM sign_ins WHERE account_id = ?
			ORDER BY seen_at DESC, id DESC`,
		account,
	)
	return list(rows, err, func(r *sql.Rows, in *SignIn) error {
		return r.Scan(&in.ID, &in.Account, &in.Key, &in.Place, &in.Device, &in.At, &in.SeenAt)
	})
}

// Seen tells when a sign-in was last used, ErrNotFound when it was ended or its account closed.
func (s *Store) Seen(ctx context.Context, account int64, key string) (at time.Time, err error) {
	var text string
	if err = found(s.DB.QueryRowContext(ctx, `SELECT n.seen_at FROM sign_ins n JOIN accounts a ON a.id = n.account_id
		WHERE n.key = ? AND n.account_id = ? AND a.closed_at IS NULL`, key, account).Scan(&text)); err != nil {
		return at, err
	}
	return time.Parse(time.RFC3339, text)
}

// See keeps that a sign-in is used.
func (s *Store) See(ctx context.Context, key string) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE sign_ins SET seen_at = ? WHERE key = ?`, now(), key)
	return err
}

// EndSignInOf ends the sign-in with a key.
func (s *Store) EndSignInOf(ctx context.Context, account int64, key string) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_ins WHERE account_id = ? AND key = ?`, account, key)
	return err
}

// Teaches tells whether a session of an account's clients is open since a day.
func (s *Store) Teaches(ctx context.Context, account int64, since trade.Day) (is bool, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM taught t JOIN clients c ON c.id = t.client_id
		WHERE t.ended_at IS NULL AND t.day >= ? AND `+reads+`)`, since.String(), account, account).
		Scan(&is)
	return is, err
}

// MoveKeeper makes another account the one that keeps the practice.
func (s *Store) MoveKeeper(ctx context.Context, from, to int64) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		r, err := tx.ExecContext(
			ctx,
			`UPDATE accounts SET keeper = 1 WHERE id = ? AND closed_at IS NULL AND EXISTS (SELECT 1 FROM accounts
				WHERE id = ? AND keeper)`,
			to,
			from,
		)
		if err := touched(r, err, ErrNotFound); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE accounts SET keeper = 0 WHERE id = ?`, from)
		return err
	})
}

// EndSignIn ends one sign-in of an account; EndSignIns all but one.
func (s *Store) EndSignIn(ctx context.Context, account, id int64) error {
	r, err := s.DB.ExecContext(ctx, `DELETE FROM sign_ins WHERE id = ? AND account_id = ?`, id, account)
	return touched(r, err, ErrNotFound)
}

// EndSignIns ends all sign-ins of an account but the one with a key.
func (s *Store) EndSignIns(ctx context.Context, account int64, but string) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_ins WHERE account_id = ? AND key <> ?`, account, but)
	return err
}

// ForgetSignIns ends what nobody used for longer than a session lasts.
func (s *Store) ForgetSignIns(ctx context.Context, before time.Time) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_ins WHERE seen_at < ?`, before.UTC().Format(time.RFC3339))
	return err
}

// Event is something that was done with data or accounts. Client is the number of the client it is about, 0 for none;
// no name of a client is kept with it. Name is what they are called now, for who may read them.
type Event struct {
	At, Who, What, About string
	Client               int64
	Name                 string
}

// AddEvent keeps what somebody did.
func (s *Store) AddEvent(ctx context.Context, e Event) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var id int64
		if err := tx.QueryRowContext(ctx, `INSERT INTO events (at, who, what, about, client)
			VALUES (?, ?, ?, ?, nullif(?, 0)) RETURNING id`,
			now(), e.Who, e.What, e.About, e.Client).Scan(&id); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM events WHERE id <= ?`, id-mostEvents)
		return err
	})
}

// mostEvents is how many events are kept (product default).
const mostEvents = 20000

// Events lists the newest events, with the names of clients that an account may read.
func (s *Store) Events(ctx context.Context, account int64, most int) ([]Event, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT e.at, e.who, e.what, e.about, coalesce(e.client, 0), coalesce(c.name, '') FROM events e
			LEFT JOIN clients c ON c.id = e.client AND `+reads+` ORDER BY e.id DESC LIMIT ?`,
		account,
		account,
		most,
	)
	return list(rows, err, func(r *sql.Rows, e *Event) error {
		return r.Scan(&e.At, &e.Who, &e.What, &e.About, &e.Client, &e.Name)
	})
}
