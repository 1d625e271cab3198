package archive_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/archive"
	"restbend/core/record"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/store"
	"restbend/teaching"
)

// drawnValues are what a field of a mark can say, sensible first.
var drawnValues = map[string][]any{
	"rev": {1, 2, -5, 99999}, "pos": {0, 0.0000001, 150.5, 300, -1, 1e300}, "item": {0, 1, 2, 900, -1}, "side": {"left", "none", "alternate", "up"},
	"set": {1, 2, 19, -3}, "rep": {1, 4, 499, 0, 90000}, "s": {2.5, 0, 1199, 9000, 1e300}, "pain": {3, 0, 10, 11, -1, 1e300}, "clear": {true},
	"on": {true}, "mode": {"led", "sideways"}, "unit": {"reps", strings.Repeat("x", 500)}, "from": {10, "a", nil, map[string]any{"deep": []int{1}}},
	"to":  {190, "bridge", 4, []string{"pulling"}, true, strings.Repeat("long ", 900), 1e300, map[string]any{"surface_cm": 43}, map[string]any{"weight_kg": 400}},
	"why": {"seen", strings.Repeat("x", 101)}, "because": {"done", "pain", "boredom"}, "load": {map[string]any{"surface_cm": 43}, map[string]any{"weight_kg": 80}, map[string]any{"pad_level": 9}, map[string]any{"spring": "soft"}, map[string]any{"band": "red", "help": []string{"a"}}},
	"how": {"held", "thrown"}, "done": {map[string]any{"sets": 1, "reps": 6}, map[string]any{"reps": -4}, map[string]any{"hold_s": 1200}}, "clean": {true}, "fault": {"sag", "hip-drop", "wobbly"},
	"of": {"m0", "m1", strings.Repeat("k", 101)}, "where": {"low-back"}, "travels": {true}, "numb_or_weak": {true}, "dizzy": {true}, "chest": {true},
	"felt": {[]string{"pulling"}, "tiring", []string{"chest", "heaviness"}, []string{"joy"}}, "value": {"left", "same", true, []int{3, 4}, []int{99}, "yes", "even", map[string]any{"a": 1}},
	"what": {"ease", "skip", "dance"}, "score": {2, -1}, "check": {"sij_side", "clock_hours", "tight_turn", "from_memory", "mood"}, "per_minute": {11, 0.0000001, 400, 1e300}, "text": {"calm today", strings.Repeat("ä", 1900), strings.Repeat("x", 4001)},
	"codes": {[]string{"saddle-numbness"}, []string{"nothing"}}, "field": {"done.reps", "felt", "load", "notes", "pain_end", "sets_done", "symptom_at_rep", "fault", "name"},
	"follow_up": {map[string]any{"soreness": 2, "settled_h": 20, "kind": "muscle"}, map[string]any{"x": 1}, map[string]any{"home": 90}}, "member": {"7"}, "say": {"from here", strings.Repeat("x", 101)},
}

var corrections = []struct {
	field string
	to    any
}{{"done.reps", 4}, {"done.hold_s", 5000}, {"felt", []string{"pulling"}}, {"load", map[string]any{"surface_cm": 43}}, {"load", map[string]any{"weight_kg": 400}}, {"notes", strings.Repeat("note ", 700)}, {"pain_end", 3}, {"pain_end", 190},
	{"symptom_at_rep", 0}, {"symptom_at_rep", 499}, {"symptom_at_set", 1}, {"fault", []any{map[string]any{"code": "sag", "s": 5000}}}, {"fault", []any{map[string]any{"code": "sag", "side": "up"}}}, {"sets_done", []any{map[string]any{"reps": 3}}},
	{"where", strings.Repeat("x", 90)}, {"next", "same"}, {"form_lost_s", 9000}, {"name", "x"}}

// drawnMark is some mark, sensible or not.
func drawnMark(rng *rand.Rand, n int) []byte {
	m := map[string]any{"key": fmt.Sprint("k", n), "device": "a", "kind": record.Kinds[rng.IntN(len(record.Kinds))], "pos": 100 + n, "rev": 1,
		"at": []string{"2026-11-20T09:31:00Z", "2026-11-20T09:35:00.25Z", "9999-12-31T00:00:00Z", "1999-01-01T00:00:00Z"}[min(3, rng.IntN(12)/3)]}
	fields := []string{"felt", "value", "what", "done", "of", "fault", "to", "from", "check", "per_minute", "text", "codes", "field", "follow_up", "load", "how", "because", "mode", "item", "s", "rep"}
	value := func(f string) any {
		if v := drawnValues[f]; rng.IntN(4) > 0 {
			return v[rng.IntN(min(2, len(v)))]
		} else {
			return v[rng.IntN(len(v))]
		}
	}
	if rng.IntN(3) == 0 {
		f := fields[rng.IntN(len(fields))]
		m[f] = value(f)
	}
	needs := map[string][]string{"set": {"done"}, "felt": {"felt"}, "undo": {"of"}, "fault": {"of", "fault"}, "change": {"what"}, "compare": {"value"}, "changed": {"value"},
		"check": {"check", "value"}, "follow_up": {"follow_up"}, "breaths": {"per_minute"}, "load": {"load"}, "start": {"pain"}, "symptom": {"pain"}, "end": {"because"}, "form": {"s"}, "flag": {"codes"}, "note": {"text"}}
	for _, f := range needs[m["kind"].(string)] {
		m[f] = value(f)
	}
	switch m["kind"] {
	case "unseen", "seek":
		m["from"], m["to"] = 10, 190
	case "correct":
		c := corrections[rng.IntN(len(corrections))]
		at := rng.IntN(3)
		m["field"], m["to"], m["item"], m["side"] = c.field, c.to, at, []string{"none", "right", "alternate"}[at]
	}
	doc, _ := json.Marshal(m) // plain values
	return doc
}

// Every mark that is taken in comes back with the own export, and what follows from all of them is a log that can be
// read; marks that an older program kept beyond the bounds are named by doctor, and stop nothing either.
func TestMarksTakenInComeBack(t *testing.T) {
	rounds := 150
	if testing.Short() {
		rounds = 8
	}
	ctx := context.Background()
	_, cat, rules := filled(t)
	st := empty(t)
	account, err := st.CreateAccount(ctx, "lowen", "x")
	require.NoError(t, err)
	require.NoError(t, archive.Add(ctx, st, account, &archive.Bundle{Clients: []archive.Client{{Client: []byte(`{"format": "restbend.client/1", "name": "A", "conditions": []}`)}}}))
	rows, err := st.EveryClient(ctx)
	require.NoError(t, err)
	today := trade.DayOf(time.Now(), time.Local)
	sc := exampleScore(t)
	rng := rand.New(rand.NewPCG(36, 3))
	kinds, refused := map[string]int{}, 0
	for range rounds {
		one := store.Taught{ClientID: rows[0].ID, Day: trade.MustDay("2026-11-20"), Plan: []byte(`{"items": []}`), Scores: []store.Score{{Rev: 1, Document: sc}}}
		bounds, err := teaching.Bounds(&one, rules.FlagCodes(), time.Time{})
		require.NoError(t, err)
		old := rng.IntN(3) == 0 // kept by a program that did not look
		bad := 0
		for n := range 40 {
			doc := drawnMark(rng, n)
			m, err := exchange.ReadMark(doc, bounds)
			beyond := err != nil
			m.Clocked(time.Now())
			if err == nil && m.Kind == record.Correct {
				err = correctable(&one, &m)
			}
			switch {
			case err == nil:
				kinds[m.Kind]++
				stored, err := teaching.Stored(&m)
				require.NoError(t, err)
				one.Marks = append(one.Marks, stored)
			case old:
				var k struct{ Key, Kind string }
				require.NoError(t, json.Unmarshal(doc, &k))
				if json.Unmarshal(doc, &record.Mark{}) == nil && rng.IntN(8) == 0 {
					one.Marks = append(one.Marks, store.Mark{Key: k.Key, Kind: k.Kind, Document: doc})
					if beyond {
						bad++
					}
				}
			default:
				refused++
			}
		}
		one.EndedAt.String, one.EndedAt.Valid = "2026-11-20T10:00:00Z", true
		require.NoError(t, teaching.Fold(&one))
		if bad == 0 {
			_, _, err := exchange.ReadKeptLog(fmt.Appendf(nil, `{"format": "restbend.log/1", "sessions": [%s]}`, one.Log), cat, today)
			require.NoError(t, err, "the log of %s", one.Log)
		}
		require.NoError(t, st.AddTaught(ctx, one))
		problems, _, err := archive.Examine(ctx, st, cat, rules, today)
		require.NoError(t, err)
		if bad == 0 {
			require.Empty(t, problems)
		} else {
			require.NotEmpty(t, problems, "%d marks beyond the bounds", bad)
		}
		out, err := archive.Clients(ctx, st, rules, rows)
		require.NoError(t, err)
		doc, err := json.Marshal(out)
		require.NoError(t, err)
		_, _, err = archive.Read(bytes.NewReader(doc), cat, rules, today)
		require.NoError(t, err, "the own export")
		_, err = st.DB.Exec(`DELETE FROM taught WHERE id = (SELECT max(id) FROM taught)`)
		require.NoError(t, err)
	}
	t.Logf("taken in %v, refused %d", kinds, refused)
	assert.Positive(t, refused)
	for _, k := range record.Kinds {
		if !testing.Short() {
			assert.Positive(t, kinds[k], k)
		}
	}
}

func exampleScore(t *testing.T) []byte {
	doc, err := os.ReadFile("../docs/formats/examples/score.json")
	require.NoError(t, err)
	return doc
}

// correctable says why a correction cannot be kept in a session.
func correctable(t *store.Taught, m *record.Mark) error {
	k, err := teaching.Read(t)
	if err != nil {
		return err
	}
	session := record.ReplayUntil(k.Score, t.Day, k.Marks, time.Time{})
	if why := record.CorrectionProblem(session, k.Line(&session, m), m); why != "" {
		return fmt.Errorf("%s", why)
	}
	return nil
}

// What a kind of mark does not take, and what no number, day or text of a mark can be, is refused by name.
func TestAMarkSaysWhatItsKindHas(t *testing.T) {
	sc := exampleScore(t)
	b, err := teaching.Bounds(&store.Taught{Scores: []store.Score{{Rev: 1, Document: sc}}}, []string{"saddle-numbness"}, time.Date(2026, 11, 21, 9, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	for more, want := range map[string]string{
		`"kind": "note", "text": "calm"`:                                             "",
		`"kind": "note", "per_minute": 1e300`:                                        "per_minute",
		`"kind": "note", "per_minute": 12`:                                           "per_minute: not of a mark of kind note",
		`"kind": "note", "text": "a", "rev": -5`:                                     "rev",
		`"kind": "note", "text": "a", "at": "9999-12-31T00:00:00Z"`:                  "at",
		`"kind": "note", "text": "a", "at": "1970-01-01T00:00:00Z"`:                  "at",
		`"kind": "follow_up", "follow_up": {"x": 1}`:                                 "follow_up.x: unknown field",
		`"kind": "follow_up", "follow_up": {"soreness": 2, "settled_h": 12}`:         "",
		`"kind": "pause", "pain": 3`:                                                 "pain: not of a mark of kind pause",
		`"kind": "start", "pain": 3, "clear": true, "mode": "led"`:                   "",
		`"kind": "check", "check": "clock_hours", "value": [3, 99]`:                  "value",
		`"kind": "check", "check": "clock_hours", "value": [3, 4]`:                   "",
		`"kind": "check", "check": "sij_side", "value": "upwards"`:                   "value",
		`"kind": "load", "load": {"weight_kg": 80}`:                                  "load.weight_kg",
		`"kind": "load", "load": {"pad_level": 9}`:                                   "load.pad_level",
		`"kind": "breaths", "per_minute": 400`:                                       "per_minute",
		`"kind": "layer", "to": "Not A Version"`:                                     "to",
		`"kind": "change", "what": "ease", "to": {"a": {"a": {"a": {"a": "deep"}}}}`: "",
		`"kind": "flag", "codes": ["nothing"]`:                                       "codes",
		`"kind": "note", "text": "a", "surprise": 1`:                                 "surprise: unknown field",
	} {
		doc := `{"key": "k", "at": "2026-11-20T09:31:00Z", "pos": 10, ` + more + `}`
		if strings.Contains(more, `"at"`) {
			doc = `{"key": "k", "pos": 10, ` + more + `}`
		}
		_, err := exchange.ReadMark([]byte(doc), b)
		if want == "" {
			assert.NoError(t, err, more)
		} else if assert.Error(t, err, more) {
			assert.Contains(t, err.Error(), want, more)
		}
	}
}

// The own export comes back however long it lay: days that were allowed when it was written do not block it later.
func TestAnExportThatLay(t *testing.T) {
	_, cat, rules := filled(t)
	day := trade.MustDay("2026-11-20")
	doc := `{"format": "restbend.client/1", "name": "A", "born": 1990, "conditions": [{"code": "pregnancy", "due": "2027-03-01"}], "pain": {"now": 3, "on": "2026-11-20"},
		"today": {"date": "2026-11-20"}, "clearances": [{"date": "2026-11-01", "by": "doctor", "covers": ["pregnancy"], "until": "2027-01-31"}]}`
	for _, later := range []int{0, 7, 60, 200, 400, 1500} {
		_, notes, err := archive.Read(strings.NewReader(doc), cat, rules, day.AddDays(later))
		assert.NoError(t, err, "%d days later", later)
		if later >= 200 {
			assert.Contains(t, notes.Error(), "past week 42", "%d days later", later)
		}
	}
}
