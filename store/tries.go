package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"strings"
	"time"
)

// Measure is how many tries a key may have at once, and how long one takes to be forgotten.
type Measure struct {
	Key   string
	Most  float64
	Every time.Duration
}

// The keys under which tries are counted: a kind and a hash of what was said, so that none is longer than another and
// no name can be made equal to a place, or to a name from one.

// NameTries counts the tries of a name from wherever they come.
func NameTries(name string) string { return "name " + hashed(strings.ToLower(name)) }

// PairTries counts the tries of a name from one place.
func PairTries(name, place string) string { return pairs(name) + hashed(place) }

// PlaceTries counts the tries from one place.
func PlaceTries(place string) string { return "place " + hashed(place) }

// DeviceTries counts those of a device that signed in before.
func DeviceTries(token string) string { return "device " + hashed(token) }

func pairs(name string) string { return "pair " + hashed(strings.ToLower(name)) + " " }

func hashed(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:16])
}

// Try counts a try against some measures and tells whether all had room; they survive a restart. One that is held back
// is looked at only: it writes nothing, and waits for nobody who writes.
func (s *Store) Try(ctx context.Context, at time.Time, measures ...Measure) (ok bool, err error) {
	second := float64(at.UnixMilli()) / 1000
	if _, ok, err = room(ctx, s.DB, second, measures); err != nil || !ok {
		return false, err
	}
	err = s.tx(ctx, func(tx *sql.Tx) error {
		var levels []float64
		if levels, ok, err = room(ctx, tx, second, measures); err != nil || !ok { // somebody else was quicker
			return err
		}
		for i, m := range measures {
			if _, err := tx.ExecContext(ctx, `INSERT INTO sign_in_tries (key, level, at) VALUES (?, ?, ?) ON CONFLICT (key)
				DO UPDATE SET level = excluded.level, at = max(excluded.at, at)`, m.Key, levels[i]+1, second); err != nil {
				return err
			}
		}
		return nil
	})
	return ok, err
}

// room is how full some measures are, and whether each has room for one more.
func room(ctx context.Context, q queries, second float64, measures []Measure) (levels []float64, ok bool, err error) {
	for _, m := range measures {
		var level, last float64
		err := q.QueryRowContext(ctx, `SELECT level, at FROM sign_in_tries WHERE key = ?`, m.Key).Scan(&level, &last)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return nil, false, err
		}
		if second > last { // a clock that went back forgets nothing
			level = max(0, level-(second-last)/m.Every.Seconds())
		}
		if level+1 > m.Most {
			return nil, false, nil
		}
		levels = append(levels, level)
	}
	return levels, true, nil
}

// Forgive forgets the tries of a key: whoever signed in was no stranger.
func (s *Store) Forgive(ctx context.Context, key string) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_in_tries WHERE key = ?`, key)
	return err
}

// longestTry is after how long any try is forgotten (product default): no measure takes as long to be empty.
const longestTry = 15 * time.Minute

// ForgetTries forgets the tries whose measures are empty by now. Somebody calls it now and then; no try does.
func (s *Store) ForgetTries(ctx context.Context, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_in_tries WHERE at < ?`, float64(at.Add(-longestTry).UnixMilli())/1000)
	return err
}

// mostDevices is how many devices of an account are known (product default).
const mostDevices = 20

// KnowDevice keeps that somebody signed in with a device; only a hash of its token is kept. The least lately used are
// forgotten when there are too many.
func (s *Store) KnowDevice(ctx context.Context, account int64, token string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO known_devices (hash, account_id, seen_at) VALUES (?, ?, ?)
			ON CONFLICT (hash, account_id) DO UPDATE SET seen_at = excluded.seen_at`, hashed(token), account, now()); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM known_devices WHERE account_id = ?1 AND hash NOT IN
			(SELECT hash FROM known_devices WHERE account_id = ?1 ORDER BY seen_at DESC, rowid DESC LIMIT ?2)`, account, mostDevices)
		return err
	})
}

// KnownDevice tells whether somebody signed in with a device by a name before.
func (s *Store) KnownDevice(ctx context.Context, name, token string) (known bool, err error) {
	if token == "" {
		return false, nil
	}
	err = s.DB.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM known_devices d JOIN accounts a ON a.id = d.account_id
		WHERE d.hash = ? AND a.name = ? AND a.closed_at IS NULL)`, hashed(token), name).Scan(&known)
	return known, err
}
