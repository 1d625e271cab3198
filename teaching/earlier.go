package teaching

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"

	"restbend/core/dose"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
	"restbend/store"
)

// Sessions of before kept entries of the player in place of a score and marks. Each is folded once into the log
// session it stands for; nothing new is folded this way.

// entry is one line of a session as the player sent it.
type entry struct {
	Key   string           `json:"key"`
	Kind  string           `json:"kind"` // one of the kinds below
	Item  int              `json:"item"`
	Side  trade.Side       `json:"side"`
	Rep   int              `json:"rep"`
	S     float64          `json:"s"`
	Pain  *float64         `json:"pain"`
	Where string           `json:"where"`
	Done  *progress.Amount `json:"done"`
	Ended string           `json:"ended_by"`
	Felt  string           `json:"felt"` // of progress.Felt
}

// Kinds of entries.
const (
	done    = "done"
	form    = "form"
	symptom = "symptom"
	pain    = "pain"
	ease    = "ease"
	skip    = "skip"
	feel    = "felt"
)

// foldEntries is a session's entries as items of the log, one per exercise and side; what was eased or
// skipped is said in notes.
func foldEntries(p *plan.Plan, entries []entry) (items []progress.Item, notes []string) {
	at := map[string]int{}
	for i := range entries {
		e := &entries[i]
		if e.Item < 0 || e.Item >= len(p.Items) {
			continue
		}
		it := &p.Items[e.Item]
		key := fmt.Sprintf("%d %s", e.Item, e.Side)
		if _, ok := at[key]; !ok {
			at[key] = len(items)
			d := it.Dose
			if a := d.Apart; a != nil && e.Side.One() {
				d = a[map[trade.Side]int{trade.Left: 0, trade.Right: 1}[e.Side]]
			}
			target := progress.Amount{
				Sets:        d.SetCount(),
				Reps:        d.Reps,
				HoldS:       d.HoldS + d.HoldCounts,
				HoldBreaths: d.HoldBreaths,
			}
			if len(d.Pattern) > 0 {
				target.Sets, target.Reps = 1, d.TotalReps()
			}
			items = append(items, progress.Item{Version: it.Version, Revision: it.Revision, Side: e.Side, Target: target})
		}
		if note := fold(&items[at[key]], e); note != "" {
			note += strings.ReplaceAll(it.Version, "-", " ")
			if !slices.Contains(notes, note) {
				notes = append(notes, note)
			}
		}
	}
	return items, notes
}

func fold(it *progress.Item, e *entry) (note string) {
	switch e.Kind {
	case done:
		if e.Done != nil {
			it.Done = *e.Done
		}
		if it.EndedBy == "" {
			it.EndedBy = e.Ended
		}
	case form:
		if it.EndedBy != progress.BySymptom {
			it.EndedBy = progress.ByForm
		}
		it.FormLostS = earlier(it.FormLostS, e.S)
		it.Fault = append(it.Fault, progress.Fault{Code: "other", S: e.S})
	case symptom:
		it.EndedBy = progress.BySymptom
		switch {
		case e.Rep == 0:
			it.SymptomS = earlier(it.SymptomS, e.S)
		case it.SymptomRep == nil || e.Rep < *it.SymptomRep:
			it.SymptomRep = &e.Rep
		}
	case pain:
		if !slices.Contains(it.Felt, "pain") {
			it.Felt = append(it.Felt, "pain")
		}
		if e.Pain != nil && (it.Pain == nil || *e.Pain >= *it.Pain) { // the worst counts
			it.Pain, it.Where = e.Pain, e.Where
		}
	case feel:
		if !slices.Contains(it.Felt, e.Felt) {
			it.Felt = append(it.Felt, e.Felt)
		}
	case ease:
		return "eased: "
	case skip:
		if it.EndedBy != progress.BySymptom && it.EndedBy != progress.ByForm {
			it.EndedBy = progress.ByChoice
		}
		return "skipped: "
	}
	return ""
}

// earlier is the first time something happened, seconds: what came before it was clean.
func earlier(before *float64, s float64) *float64 {
	if before != nil && *before <= s {
		return before
	}
	return &s
}

// Settle keeps a log session for every session of before, and closes those that were never closed: at their last
// entry, and not confirmed.
func Settle(ctx context.Context, st *store.Store) error {
	rows, err := st.Earlier(ctx)
	if err != nil {
		return err
	}
	for i := range rows {
		t := &rows[i]
		out, err := earlierSession(t)
		if err != nil { // one that is damaged stays as it is, and keeps nobody from the others
			slog.Warn("a session of before cannot be read", "session", t.ID, "error", err)
			continue
		}
		if !t.EndedAt.Valid {
			for k := range out.Items {
				out.Items[k].Confirmed = new(bool)
			}
		}
		if t.Log, err = json.Marshal(out); err != nil {
			return err
		}
		if err := st.Settle(ctx, *t); err != nil {
			return err
		}
	}
	return nil
}

// earlierSession is the log session of a session of before.
func earlierSession(t *store.Taught) (out progress.Session, err error) {
	out = progress.Session{Date: t.Day, Notes: t.Notes}
	if t.PainStart.Valid {
		out.PainStart = &t.PainStart.Float64
	}
	if t.PainEnd.Valid {
		out.PainEnd = &t.PainEnd.Float64
	}
	if t.SoreSettledH.Valid {
		out.Soreness = &progress.Soreness{Peak: t.SorePeak.Float64, SettledH: t.SoreSettledH.Float64}
	}
	var state struct{ Marks []struct{ Because string } }
	p, err := plan.Read(t.Plan)
	if err != nil {
		return out, fmt.Errorf("the session of %s: %w", t.Day, err)
	}
	for _, doc := range []struct {
		data []byte
		into any
	}{{t.RedFlags, &out.RedFlags}, {t.State, &state}} {
		if err := json.Unmarshal(doc.data, doc.into); err != nil {
			return out, fmt.Errorf("the session of %s: %w", t.Day, err)
		}
	}
	if n := len(state.Marks); n > 0 && slices.Contains(progress.Endings, state.Marks[n-1].Because) {
		out.Ended = state.Marks[n-1].Because
	}
	entries := make([]entry, len(t.Entries))
	for i, row := range t.Entries {
		if err := json.Unmarshal(row.Document, &entries[i]); err != nil {
			return out, fmt.Errorf("the session of %s, entry %s: %w", t.Day, row.Key, err)
		}
	}
	var notes []string
	out.Items, notes = foldEntries(p, entries)
	for _, n := range notes {
		if !strings.Contains(out.Notes, n) {
			out.Notes = strings.TrimSpace(out.Notes + "\n" + n)
		}
	}
	return out, nil
}

// CheckEntry says what is wrong with a line of a session of before that comes in with a document.
func CheckEntry(kind string, doc []byte) error {
	if !slices.Contains([]string{done, form, symptom, pain, ease, skip, feel}, kind) {
		return fmt.Errorf("kind: found %q", kind)
	}
	var e entry
	if err := json.Unmarshal(doc, &e); err != nil {
		return err
	}
	for _, x := range []struct {
		name  string
		found float64
		most  float64
	}{{"item", float64(e.Item), plan.MostItems}, {"rep", float64(e.Rep), dose.MostReps}, {"s", e.S, dose.MostSeconds}} {
		if !(x.found >= 0 && x.found <= x.most) {
			return fmt.Errorf("%s: found %g, allowed: 0 to %g", x.name, x.found, x.most)
		}
	}
	if e.Pain != nil && !(*e.Pain >= 0 && *e.Pain <= 10) {
		return fmt.Errorf("pain: found %g, allowed: 0 to 10", *e.Pain)
	}
	if len(e.Where)+len(e.Ended)+len(e.Felt)+len(e.Side) > 300 {
		return errors.New("words: longer than allowed")
	}
	if d := e.Done; d != nil &&
		(d.Sets < 0 || d.Sets > dose.MostSets || d.Reps < 0 || d.Reps > dose.MostReps || d.HoldS < 0 ||
			d.HoldS > dose.MostSeconds || d.HoldBreaths < 0 || d.HoldBreaths > dose.MostReps) {
		return errors.New("done: out of range")
	}
	return nil
}
