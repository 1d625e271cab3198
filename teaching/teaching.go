// Package teaching keeps sessions: a stored score and stored marks become the stored log session.
package teaching

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"time"

	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/store"
)

// Kept is a session as it is stored, read.
type Kept struct {
	Score *score.Score // nil of a session of before
	Marks []record.Mark
	Base  progress.Session // of a session of before
}

// Read reads what is stored of a session.
func Read(t *store.Taught) (k Kept, err error) {
	if doc := t.Score(); doc != nil {
		k.Score = &score.Score{}
		if err := json.Unmarshal(doc, k.Score); err != nil {
			return k, fmt.Errorf("session %d, score: %w", t.ID, err)
		}
	} else if err := json.Unmarshal(t.Base, &k.Base); err != nil {
		return k, fmt.Errorf("session %d, log: %w", t.ID, err)
	}
	k.Marks = make([]record.Mark, len(t.Marks))
	for i, m := range t.Marks {
		if err := json.Unmarshal(m.Document, &k.Marks[i]); err != nil {
			return k, fmt.Errorf("session %d, mark %s: %w", t.ID, m.Key, err)
		}
	}
	if t.Class != "" { // what is about others of the class is theirs
		own := strconv.FormatInt(t.ID, 10)
		k.Marks = slices.DeleteFunc(k.Marks, func(m record.Mark) bool { return m.Member != "" && m.Member != own })
	}
	return k, nil
}

// Bounds is what the marks of a stored session may name, in any revision of its score: a mark is about the seconds that
// ran when it was made, which a later revision may not have any more.
func Bounds(t *store.Taught, flags []string, now time.Time) (b record.Bounds, err error) {
	b = record.Bounds{Flags: flags, Now: now}
	if len(t.Scores) == 0 {
		var base progress.Session
		if err := json.Unmarshal(t.Base, &base); err != nil {
			return b, fmt.Errorf("session %d, log: %w", t.ID, err)
		}
		b.Items = len(base.Items)
		return b, nil
	}
	for _, rev := range t.Scores {
		var extent struct {
			Items   []struct{} `json:"items"`
			Seconds float64    `json:"seconds"`
		}
		if err := json.Unmarshal(rev.Document, &extent); err != nil {
			return b, fmt.Errorf("session %d, score: %w", t.ID, err)
		}
		b.Items, b.Seconds = max(b.Items, len(extent.Items)), max(b.Seconds, extent.Seconds)
	}
	return b, nil
}

// Session is the log session of what is stored; of one that still runs, as it would be if it were left now.
func Session(t *store.Taught, now time.Time) (progress.Session, error) {
	k, err := Read(t)
	if err != nil {
		return progress.Session{}, err
	}
	switch {
	case k.Score == nil:
		return record.Apply(k.Base, k.Marks), nil
	case t.EndedAt.Valid:
		return record.Replay(k.Score, t.Day, k.Marks), nil
	}
	return record.ReplayUntil(k.Score, t.Day, k.Marks, now), nil
}

// Fold works out the log session of a stored session, with the columns that lists read.
func Fold(t *store.Taught) error {
	s, err := Session(t, time.Time{})
	if err != nil {
		return err
	}
	return Columns(t, &s)
}

// Columns puts a log session into the row it is stored in.
func Columns(t *store.Taught, s *progress.Session) (err error) {
	null := func(f *float64) sql.NullFloat64 {
		if f == nil {
			return sql.NullFloat64{}
		}
		return sql.NullFloat64{Float64: *f, Valid: true}
	}
	t.PainEnd, t.Notes = null(s.PainEnd), s.Notes
	t.SorePeak, t.SoreSettledH = sql.NullFloat64{}, sql.NullFloat64{}
	if sore := s.Sore(); sore != nil {
		t.SorePeak, t.SoreSettledH = null(&sore.Peak), null(&sore.SettledH)
	}
	if t.RedFlags, err = json.Marshal(append([]string{}, s.RedFlags...)); err != nil {
		return err
	}
	t.Log, err = json.Marshal(s)
	return err
}

// Stored writes a mark as it is stored.
func Stored(m *record.Mark) (store.Mark, error) {
	doc, err := json.Marshal(m)
	return store.Mark{Key: m.Key, Kind: m.Kind, Who: m.By, Document: doc}, err
}

// MadeAt is when a stored mark was made.
func MadeAt(m *store.Mark) time.Time {
	var of struct{ At time.Time }
	_ = json.Unmarshal(m.Document, &of) // it was read before it was stored
	return of.At
}

// Made is when a stored mark was made, to the second, as times are stored.
func Made(m *store.Mark) string { return MadeAt(m).UTC().Format(time.RFC3339) }

// Line is the line of a log session a mark is about.
func (k *Kept) Line(s *progress.Session, m *record.Mark) *progress.Item {
	if m.Item == nil || k.Score == nil {
		if m.Item != nil && *m.Item < len(s.Items) {
			return &s.Items[*m.Item]
		}
		return nil
	}
	i := slices.Index(record.Lines(k.Score, k.Marks), record.Line{Item: *m.Item, Side: m.Side})
	if i < 0 || i >= len(s.Items) {
		return nil
	}
	return &s.Items[i]
}

// Name writes into a mark which line of the log session it is about.
func (k *Kept) Name(line int, m *record.Mark) {
	item := line
	if k.Score != nil {
		l := record.Lines(k.Score, k.Marks)[line]
		item, m.Side = l.Item, l.Side
	}
	m.Item = &item
}
