package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"

	"restbend/core/trade"
)

// Taught is a session that runs or has ended: its score and the marks made in it, and the log session
// that is worked out from both.
type Taught struct {
	ID, ClientID           int64
	PlanID                 sql.NullInt64
	Day                    trade.Day
	Plan                   []byte
	RedFlags               []byte
	Log                    []byte // the log session, once it has ended
	Class                  string // of sessions that run together, the same for all
	Base                   []byte // of a session without a score: the log session before what was marked since
	PainStart, PainEnd     sql.NullFloat64
	SorePeak, SoreSettledH sql.NullFloat64
	Notes                  string
	EndedAt                sql.NullString
	Scores                 []Score
	Marks                  []Mark
	State                  []byte  // of a session of before: where its player was
	Entries                []Entry // of a session of before: what its player sent
}

// Score is one revision of a session's score.
type Score struct {
	Rev      int
	Document []byte
	Before   []byte // the plan before this revision, empty when it is the same
}

// Mark is one acknowledged mark; Seq tells in which order they came in.
type Mark struct {
	Seq            int64
	Key, Kind, Who string
	At             string // when it came in
	Document       []byte
}

// Entry is one acknowledged line of a session of before.
type Entry struct {
	Key, Kind, At string
	Document      []byte
}

// Score is the last revision of the score, nil when the session has none.
func (t *Taught) Score() []byte {
	if len(t.Scores) == 0 {
		return nil
	}
	return t.Scores[len(t.Scores)-1].Document
}

const taughtColumns = `t.id, t.client_id, t.plan_id, t.day, t.plan, t.state, t.red_flags, t.pain_start, t.pain_end,
	t.soreness_peak, t.soreness_settled_h, t.notes, t.ended_at, t.log, t.base, t.class`

func (t *Taught) fields() []any {
	return []any{
		&t.ID,
		&t.ClientID,
		&t.PlanID,
		&t.Day,
		&t.Plan,
		&t.State,
		&t.RedFlags,
		&t.PainStart,
		&t.PainEnd,
		&t.SorePeak,
		&t.SoreSettledH,
		&t.Notes,
		&t.EndedAt,
		&t.Log,
		&t.Base,
		&t.Class,
	}
}

// queries are what reads: the database or a transaction.
type queries interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
}

// StartTeaching opens a session with its first score and marks. A client has one running session at a time: when
// one runs already, that one goes on, and resumed says so.
func (s *Store) StartTeaching(ctx context.Context, t Taught) (id int64, resumed bool, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		err := tx.QueryRowContext(ctx, `SELECT id FROM taught WHERE client_id = ? AND ended_at IS NULL ORDER BY id DESC
			LIMIT 1`, t.ClientID).
			Scan(&id)
		if resumed = err == nil; resumed || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		id, err = addTaught(ctx, tx, &t)
		return err
	})
	return id, resumed, err
}

// ErrRunning says that a client has a running session already.
var ErrRunning = errors.New("a session of this client is still open")

// StartClass opens sessions that run together, all or none; the first leads.
func (s *Store) StartClass(ctx context.Context, all []Taught) (first int64, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		for i := range all {
			var running int64
			err := tx.QueryRowContext(ctx, `SELECT id FROM taught WHERE client_id = ? AND ended_at IS NULL`, all[i].ClientID).
				Scan(&running)
			if err == nil {
				return fmt.Errorf("client %d: %w", all[i].ClientID, ErrRunning)
			} else if !errors.Is(err, sql.ErrNoRows) {
				return err
			}
			id, err := addTaught(ctx, tx, &all[i])
			if err != nil {
				return err
			}
			if i == 0 {
				first = id
			}
		}
		return nil
	})
	return first, err
}

// ClassOf lists the sessions of a class an account may read, the first leads; without scores and marks.
func (s *Store) ClassOf(ctx context.Context, account int64, class string) ([]Taught, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+taughtColumns+` FROM taught t JOIN clients c ON c.id = t.client_id WHERE t.class = ? AND t.class <> ''
			AND `+reads+` ORDER BY t.id`,
		class,
		account,
		account,
	)
	return list(rows, err, func(r *sql.Rows, t *Taught) error { return r.Scan(t.fields()...) })
}

// ClassRevisions counts the revisions of the scores of a class: it grows when something changes for anybody.
func (s *Store) ClassRevisions(ctx context.Context, class string) (n int, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT count(*) FROM scores x JOIN taught t ON t.id = x.taught_id
		WHERE t.class = ? AND t.class <> ''`, class).
		Scan(&n)
	return n, err
}

// AddTaught adds a session as it stands.
func (s *Store) AddTaught(ctx context.Context, t Taught) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		_, err := addTaught(ctx, tx, &t)
		return err
	})
}

// addTaught writes a session with its scores, marks and entries.
func addTaught(ctx context.Context, tx *sql.Tx, t *Taught) (id int64, err error) {
	flags := t.RedFlags
	if len(flags) == 0 {
		flags = []byte("[]")
	}
	if err := tx.QueryRowContext(ctx, `INSERT INTO taught (client_id, plan_id, day, plan, state, pain_start, pain_end,
		soreness_peak, soreness_settled_h, notes, red_flags, ended_at, log, base, class)
			VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id`,
		t.ClientID, t.PlanID, t.Day.String(), string(t.Plan), orEmpty(t.State), t.PainStart, t.PainEnd, t.SorePeak, t.SoreSettledH, t.Notes, string(flags), t.EndedAt, orEmpty(t.Log), orEmpty(t.Base), t.Class).Scan(&id); err != nil {
		return 0, err
	}
	for _, sc := range t.Scores {
		if err := addScore(ctx, tx, id, sc); err != nil {
			return 0, err
		}
	}
	for _, m := range t.Marks {
		if err := addMark(ctx, tx, id, m); err != nil {
			return 0, err
		}
	}
	for _, e := range t.Entries {
		if _, err := tx.ExecContext(ctx, `INSERT INTO entries (taught_id, key, kind, document, at) VALUES (?, ?, ?, ?, ?)`,
			id, e.Key, e.Kind, string(e.Document), e.At); err != nil {
			return 0, err
		}
	}
	return id, nil
}

func addScore(ctx context.Context, tx *sql.Tx, id int64, sc Score) error {
	_, err := tx.ExecContext(
		ctx,
		`INSERT INTO scores (taught_id, rev, document, plan, at) VALUES (?, ?, ?, ?, ?)`,
		id,
		sc.Rev,
		string(sc.Document),
		string(sc.Before),
		now(),
	)
	return err
}

func addMark(ctx context.Context, tx *sql.Tx, id int64, m Mark) error {
	at := m.At
	if at == "" {
		at = now()
	}
	_, err := tx.ExecContext(
		ctx,
		`INSERT INTO marks (taught_id, key, kind, who, document, at) VALUES (?, ?, ?, ?, ?, ?)
			ON CONFLICT (taught_id, key) DO NOTHING`,
		id,
		m.Key,
		m.Kind,
		m.Who,
		string(m.Document),
		at,
	)
	return err
}

// Taught returns a session an account may read, without its score and marks.
func (s *Store) Taught(ctx context.Context, account, id int64) (t Taught, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT `+taughtColumns+` FROM taught t JOIN clients c ON c.id = t.client_id
			WHERE t.id = ? AND `+reads, id, account, account).
			Scan(t.fields()...),
	)
	return t, err
}

// Teaching returns a session an account may read, with everything in it.
func (s *Store) Teaching(ctx context.Context, account, id int64) (t Taught, err error) {
	if t, err = s.Taught(ctx, account, id); err != nil {
		return t, err
	}
	return t, fill(ctx, s.DB, &t)
}

// Extent tells the newest revision of a session's score, 0 when it has none, and how many marks there are.
func (s *Store) Extent(ctx context.Context, id int64) (rev, marks int, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT coalesce((SELECT max(rev) FROM scores
		WHERE taught_id = ?1), 0), (SELECT count(*) FROM marks WHERE taught_id = ?1)`, id).
		Scan(&rev, &marks)
	return rev, marks, err
}

// fill reads the scores, marks and entries of a session.
func fill(ctx context.Context, q queries, t *Taught) (err error) {
	rows, err := q.QueryContext(ctx, `SELECT rev, document, plan FROM scores WHERE taught_id = ? ORDER BY rev`, t.ID)
	if t.Scores, err = list(rows, err, func(r *sql.Rows,
		sc *Score) error {
		return r.Scan(&sc.Rev, &sc.Document, &sc.Before)
	}); err != nil {
		return err
	}
	if t.Marks, err = marksAfter(ctx, q, t.ID, 0); err != nil {
		return err
	}
	rows, err = q.QueryContext(ctx, `SELECT key, kind, at, document FROM entries WHERE taught_id = ? ORDER BY id`, t.ID)
	t.Entries, err = list(
		rows,
		err,
		func(r *sql.Rows, e *Entry) error { return r.Scan(&e.Key, &e.Kind, &e.At, &e.Document) },
	)
	return err
}

func marksAfter(ctx context.Context, q queries, id, seq int64) ([]Mark, error) {
	rows, err := q.QueryContext(
		ctx,
		`SELECT id, key, kind, who, at, document FROM marks WHERE taught_id = ? AND id > ? ORDER BY id`,
		id,
		seq,
	)
	return list(
		rows,
		err,
		func(r *sql.Rows, m *Mark) error { return r.Scan(&m.Seq, &m.Key, &m.Kind, &m.Who, &m.At, &m.Document) },
	)
}

// MarksAfter lists the marks that came in after one.
func (s *Store) MarksAfter(ctx context.Context, id, seq int64) ([]Mark, error) {
	return marksAfter(ctx, s.DB, id, seq)
}

// full reads taught sessions with everything in each.
func (s *Store) full(ctx context.Context, rows *sql.Rows, err error) ([]Taught, error) {
	out, err := list(rows, err, func(r *sql.Rows, t *Taught) error { return r.Scan(t.fields()...) })
	if err != nil {
		return nil, err
	}
	for i := range out {
		if err = fill(ctx, s.DB, &out[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// TaughtSessions lists a client's newest ended sessions, at most so many, oldest first, without their scores and marks.
func (s *Store) TaughtSessions(ctx context.Context, clientID int64, most int) ([]Taught, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+taughtColumns+` FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL
			ORDER BY t.day DESC, t.id DESC LIMIT ?`,
		clientID,
		most,
	)
	out, err := list(rows, err, func(r *sql.Rows, t *Taught) error { return r.Scan(t.fields()...) })
	slices.Reverse(out)
	return out, err
}

// PlansTaught are the plans of a client that a session was taught from.
func (s *Store) PlansTaught(ctx context.Context, clientID int64) (map[int64]bool, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT DISTINCT t.plan_id FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL AND t.plan_id IS NOT NULL`,
		clientID,
	)
	ids, err := list(rows, err, func(r *sql.Rows, id *int64) error { return r.Scan(id) })
	out := map[int64]bool{}
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

func orEmpty(doc []byte) string {
	if len(doc) == 0 {
		return "{}"
	}
	return string(doc)
}

// PlanTaught tells whether a session was taught from a plan, and whether its client was changed after the last one.
func (s *Store) PlanTaught(ctx context.Context, planID int64) (taught, changed bool, err error) {
	var ended sql.NullString
	err = s.DB.QueryRowContext(
		ctx,
		`SELECT max(t.ended_at), EXISTS (SELECT 1 FROM client_history h JOIN taught s ON s.client_id = h.client_id
			WHERE s.plan_id = ? AND h.at > (SELECT max(ended_at) FROM taught WHERE plan_id = ?))
			FROM taught t WHERE t.plan_id = ? AND t.ended_at IS NOT NULL`,
		planID, planID, planID,
	).Scan(&ended, &changed)
	return ended.Valid, changed, err
}

// Earlier lists the sessions of before that have neither a score nor a log session: those that ended, and those
// still open.
func (s *Store) Earlier(ctx context.Context) ([]Taught, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+taughtColumns+` FROM taught t WHERE t.log = '{}' AND NOT EXISTS (SELECT 1 FROM scores s
			WHERE s.taught_id = t.id) ORDER BY t.id`,
	)
	return s.full(ctx, rows, err)
}

// Settle keeps the log session of a session of before, and ends one that was never closed at its last entry, on
// its day when it has none.
func (s *Store) Settle(ctx context.Context, t Taught) error {
	at := t.Day.String() + "T00:00:00Z"
	if n := len(t.Entries); n > 0 {
		at = t.Entries[n-1].At
	}
	r, err := s.DB.ExecContext(
		ctx,
		`UPDATE taught SET ended_at = coalesce(ended_at, ?), log = ?, base = ? WHERE id = ?`,
		at,
		orEmpty(t.Log),
		orEmpty(t.Log),
		t.ID,
	)
	return touched(r, err, ErrNotFound)
}

// EndedIDs are the numbers of a client's ended sessions, in the order of Logs.
func (s *Store) EndedIDs(ctx context.Context, clientID int64) ([]int64, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT t.id FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL ORDER BY t.day, t.id`,
		clientID,
	)
	return list(rows, err, func(r *sql.Rows, id *int64) error { return r.Scan(id) })
}

// Logs lists the log sessions of a client's ended sessions, oldest first.
func (s *Store) Logs(ctx context.Context, clientID int64) ([][]byte, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT t.log FROM taught t WHERE t.client_id = ? AND t.ended_at IS NOT NULL ORDER BY t.day, t.id`,
		clientID,
	)
	return list(rows, err, func(r *sql.Rows, l *[]byte) error { return r.Scan(l) })
}

// LogRev counts the changes of a client's log.
func (s *Store) LogRev(ctx context.Context, client int64) (rev int64, err error) {
	err = found(s.DB.QueryRowContext(ctx, `SELECT log_rev FROM clients WHERE id = ?`, client).Scan(&rev))
	return rev, err
}

// LastTaught is the client's last ended session, nil when there is none: which it is and when, without what was done.
func (s *Store) LastTaught(ctx context.Context, clientID int64) (*Taught, error) {
	var t Taught
	err := s.DB.QueryRowContext(ctx, `SELECT t.id, t.client_id, t.day, t.ended_at FROM taught t WHERE t.client_id = ?
		AND t.ended_at IS NOT NULL ORDER BY t.day DESC, t.id DESC LIMIT 1`, clientID).
		Scan(&t.ID, &t.ClientID, &t.Day, &t.EndedAt)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return &t, err
}

// Running is the client's session that has not ended, if any.
func (s *Store) Running(ctx context.Context, clientID int64) (id int64, err error) {
	err = found(
		s.DB.QueryRowContext(ctx, `SELECT id FROM taught WHERE client_id = ? AND ended_at IS NULL ORDER BY id DESC LIMIT 1`,
			clientID).
			Scan(&id),
	)
	return id, err
}

// Marking is what is marked in a session at once.
type Marking struct {
	Marks []Mark
	Late  []string                      // kinds taken in once the session has ended
	Made  func(m *Mark) (at string)     // when a mark was made: one made before the end is taken in after it
	Score *Score                        // a new revision of the score
	Plan  []byte                        // the plan the new revision belongs to, when that changed too
	Close bool                          // the session ends with this
	Fold  func(t *Taught) (taken error) // works out the log session and the columns that lists read
}

// AddMarks stores marks in one transaction and works the log session of an ended session out anew. The same key
// again changes nothing. Refused are the keys of what came after the end and may not.
func (s *Store) AddMarks(ctx context.Context, account, id int64, add Marking) (refused []string, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		refused = nil
		var t Taught
		if err := found(tx.QueryRowContext(ctx, `SELECT `+taughtColumns+` FROM taught t
			JOIN clients c ON c.id = t.client_id WHERE t.id = ?
				AND `+reads, id, account, account).Scan(t.fields()...)); err != nil {
			return err
		}
		if add.Score != nil {
			if add.Plan != nil {
				add.Score.Before = t.Plan
			}
			if err := addScore(ctx, tx, id, *add.Score); err != nil {
				return err
			}
		}
		if add.Plan != nil {
			if _, err := tx.ExecContext(ctx, `UPDATE taught SET plan = ? WHERE id = ?`, string(add.Plan), id); err != nil {
				return err
			}
		}
		for i := range add.Marks {
			m := &add.Marks[i]
			if t.EndedAt.Valid && !slices.Contains(add.Late, m.Kind) && add.Made(m) > t.EndedAt.String {
				refused = append(refused, m.Key)
				continue
			}
			if err := addMark(ctx, tx, id, *m); err != nil {
				return err
			}
		}
		if !t.EndedAt.Valid && !add.Close {
			return nil
		}
		if err := fill(ctx, tx, &t); err != nil {
			return err
		}
		if !t.EndedAt.Valid {
			t.EndedAt = sql.NullString{String: now(), Valid: true}
		}
		if err := add.Fold(&t); err != nil {
			return err
		}
		r, err := tx.ExecContext(
			ctx,
			`UPDATE taught SET pain_end = ?, soreness_peak = ?, soreness_settled_h = ?, notes = ?, red_flags = ?, log = ?,
				ended_at = ? WHERE id = ?`,
			t.PainEnd,
			t.SorePeak,
			t.SoreSettledH,
			t.Notes,
			string(t.RedFlags),
			orEmpty(t.Log),
			t.EndedAt,
			t.ID,
		)
		return touched(r, err, ErrNotFound)
	})
	return refused, err
}
