package store

import (
	"context"
	"database/sql"
	"errors"

	"restbend/core/trade"
)

// Taught is a session that runs or has ended.
type Taught struct {
	ID, ClientID           int64
	PlanID                 sql.NullInt64
	Day                    trade.Day
	Plan, State, RedFlags  []byte
	Log                    []byte // the log session, once it has ended
	PainStart, PainEnd     sql.NullFloat64
	SorePeak, SoreSettledH sql.NullFloat64
	Notes                  string
	EndedAt                sql.NullString
	Entries                []Entry
}

// Entry is one acknowledged line of a session's log.
type Entry struct {
	Key, Kind, At string
	Document      []byte
}

const taughtColumns = `t.id, t.client_id, t.plan_id, t.day, t.plan, t.state, t.red_flags, t.pain_start, t.pain_end, t.soreness_peak, t.soreness_settled_h, t.notes, t.ended_at, t.log`

func (t *Taught) fields() []any {
	return []any{&t.ID, &t.ClientID, &t.PlanID, &t.Day, &t.Plan, &t.State, &t.RedFlags, &t.PainStart, &t.PainEnd, &t.SorePeak, &t.SoreSettledH, &t.Notes, &t.EndedAt, &t.Log}
}

// StartTeaching opens a session.
func (s *Store) StartTeaching(ctx context.Context, t Taught) (id int64, err error) {
	err = s.DB.QueryRowContext(ctx, `INSERT INTO taught (client_id, plan_id, day, plan, pain_start) VALUES (?, ?, ?, ?, ?) RETURNING id`,
		t.ClientID, t.PlanID, t.Day.String(), string(t.Plan), t.PainStart).Scan(&id)
	return id, err
}

// Teaching returns a session with its entries.
func (s *Store) Teaching(ctx context.Context, account, id int64) (t Taught, err error) {
	err = found(s.DB.QueryRowContext(ctx, `SELECT `+taughtColumns+` FROM taught t JOIN clients c ON c.id = t.client_id WHERE t.id = ? AND `+reads, id, account, account).Scan(t.fields()...))
	if err != nil {
		return t, err
	}
	t.Entries, err = s.entries(ctx, id)
	return t, err
}

func (s *Store) entries(ctx context.Context, id int64) ([]Entry, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT key, kind, at, document FROM entries WHERE taught_id = ? ORDER BY id`, id)
	return list(rows, err, func(r *sql.Rows, e *Entry) error { return r.Scan(&e.Key, &e.Kind, &e.At, &e.Document) })
}

// withEntries reads taught sessions and the entries of each.
func (s *Store) withEntries(ctx context.Context, rows *sql.Rows, err error) ([]Taught, error) {
	out, err := list(rows, err, func(r *sql.Rows, t *Taught) error { return r.Scan(t.fields()...) })
	if err != nil {
		return nil, err
	}
	for i := range out {
		if out[i].Entries, err = s.entries(ctx, out[i].ID); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// TaughtSessions lists a client's ended sessions, oldest first, with their entries.
func (s *Store) TaughtSessions(ctx context.Context, clientID int64) ([]Taught, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT `+taughtColumns+` FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL ORDER BY t.day, t.id`, clientID)
	return s.withEntries(ctx, rows, err)
}

func orEmpty(doc []byte) string {
	if len(doc) == 0 {
		return "{}"
	}
	return string(doc)
}

// Unfolded lists the ended sessions of before that have no log session yet, with their entries.
func (s *Store) Unfolded(ctx context.Context) ([]Taught, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT `+taughtColumns+` FROM taught t WHERE t.ended_at IS NOT NULL AND t.log = '{}' ORDER BY t.id`)
	return s.withEntries(ctx, rows, err)
}

// Abandoned lists the sessions that still run although a later one of the same client was begun,
// with their entries.
func (s *Store) Abandoned(ctx context.Context) ([]Taught, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT `+taughtColumns+` FROM taught t WHERE t.ended_at IS NULL
		AND EXISTS (SELECT 1 FROM taught n WHERE n.client_id = t.client_id AND n.id > t.id) ORDER BY t.id`)
	return s.withEntries(ctx, rows, err)
}

// CloseAbandoned ends a session that was never closed at its last entry, on its day when it has
// none, with its log session.
func (s *Store) CloseAbandoned(ctx context.Context, t Taught) error {
	at := t.Day.String() + "T00:00:00Z"
	if n := len(t.Entries); n > 0 {
		at = t.Entries[n-1].At
	}
	r, err := s.DB.ExecContext(ctx, `UPDATE taught SET ended_at = ?, log = ? WHERE id = ? AND ended_at IS NULL`, at, orEmpty(t.Log), t.ID)
	return touched(r, err, ErrNotFound)
}

// SetLog keeps the log session of a taught session.
func (s *Store) SetLog(ctx context.Context, id int64, log []byte) error {
	r, err := s.DB.ExecContext(ctx, `UPDATE taught SET log = ? WHERE id = ?`, orEmpty(log), id)
	return touched(r, err, ErrNotFound)
}

// Logs lists the log sessions of a client's ended sessions, oldest first.
func (s *Store) Logs(ctx context.Context, clientID int64) ([][]byte, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT t.log FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL ORDER BY t.day, t.id`, clientID)
	return list(rows, err, func(r *sql.Rows, l *[]byte) error { return r.Scan(l) })
}

// LastTaught is the client's last ended session with its entries, nil when there is none.
func (s *Store) LastTaught(ctx context.Context, clientID int64) (*Taught, error) {
	var t Taught
	err := s.DB.QueryRowContext(ctx, `SELECT `+taughtColumns+` FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL ORDER BY t.day DESC, t.id DESC LIMIT 1`, clientID).Scan(t.fields()...)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	t.Entries, err = s.entries(ctx, t.ID)
	return &t, err
}

// Running is the client's session that has not ended, if any.
func (s *Store) Running(ctx context.Context, clientID int64) (id int64, err error) {
	err = found(s.DB.QueryRowContext(ctx, `SELECT id FROM taught WHERE client_id = ? AND ended_at IS NULL ORDER BY id DESC LIMIT 1`, clientID).Scan(&id))
	return id, err
}

// AddEntry stores one log entry; sending the same key again changes nothing.
func (s *Store) AddEntry(ctx context.Context, id int64, e Entry) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO entries (taught_id, key, kind, document, at) VALUES (?, ?, ?, ?, ?) ON CONFLICT (taught_id, key) DO NOTHING`,
		id, e.Key, e.Kind, string(e.Document), now())
	return err
}

// SaveState remembers where the player is.
func (s *Store) SaveState(ctx context.Context, id int64, state []byte) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE taught SET state = ? WHERE id = ? AND ended_at IS NULL`, string(state), id)
	return err
}

// FinishTeaching records how a session ended; it may be corrected later.
func (s *Store) FinishTeaching(ctx context.Context, t Taught) error {
	r, err := s.DB.ExecContext(ctx, `UPDATE taught SET pain_end = ?, soreness_peak = ?, soreness_settled_h = ?, notes = ?, red_flags = ?, log = ?, ended_at = coalesce(ended_at, ?) WHERE id = ?`,
		t.PainEnd, t.SorePeak, t.SoreSettledH, t.Notes, string(t.RedFlags), orEmpty(t.Log), now(), t.ID)
	return touched(r, err, ErrNotFound)
}
