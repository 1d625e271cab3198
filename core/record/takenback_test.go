package record_test

import (
	"encoding/json"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
)

// What is taken back is taken back with what was said of it later. An urgent sign stands, and all that it was said of,
// until the client was asked again; then it leaves a line.
func TestWhatIsTakenBack(t *testing.T) {
	data, err := os.ReadFile("../../docs/formats/examples/score.json")
	require.NoError(t, err)
	var s score.Score
	require.NoError(t, json.Unmarshal(data, &s))
	began := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	item, pos, n := 0, 70.0, 0
	mark := func(key, kind string, change func(*record.Mark)) record.Mark {
		n++
		m := record.Mark{Key: key, Kind: kind, At: began.Add(time.Duration(pos)*time.Second + time.Duration(n)*time.Millisecond), Pos: pos, Rev: 1, Item: &item, Rep: 3, Set: 1}
		if change != nil {
			change(&m)
		}
		return m
	}
	pain := 3.0
	symptom := mark("s", record.Symptom, nil)
	hurts := mark("p", record.Symptom, func(m *record.Mark) { m.Of, m.Pain = "s", &pain })
	travels := mark("t", record.Symptom, func(m *record.Mark) { m.Of, m.Travels = "s", true })
	undo := func(of, why string) record.Mark {
		return mark("u"+of+why, record.Undo, func(m *record.Mark) { m.Of, m.Why = of, why })
	}
	for _, row := range []struct {
		name    string
		marks   []record.Mark
		signs   int
		felt    []string
		line    int
		painful bool
	}{
		{"nothing taken back", []record.Mark{symptom, hurts}, 1, []string{"pain"}, 0, true},
		{"the first, and what was said of it", []record.Mark{symptom, hurts, undo("s", "")}, 0, nil, 0, false},
		{"only what was said of it", []record.Mark{symptom, hurts, undo("p", "")}, 1, nil, 0, false},
		{"an urgent sign stands", []record.Mark{symptom, travels, undo("t", "")}, 1, []string{"travels-down"}, 0, false},
		{"and what it was said of", []record.Mark{symptom, travels, undo("s", "")}, 1, []string{"travels-down"}, 0, false},
		{"asked again", []record.Mark{symptom, travels, undo("s", record.AskedAgain)}, 0, nil, 1, false},
		{"asked again of the answer alone", []record.Mark{symptom, travels, undo("t", record.AskedAgain)}, 1, nil, 1, false},
		{"in another order", []record.Mark{undo("s", ""), hurts, symptom}, 0, nil, 0, false},
	} {
		start := record.Mark{Key: "start", Kind: record.Start, Mode: score.Flowing, At: began, Rev: 1}
		log := record.Replay(&s, trade.MustDay("2026-11-20"), append([]record.Mark{start}, row.marks...))
		it := &log.Items[0]
		assert.Len(t, it.Signs(), row.signs, row.name)
		assert.Equal(t, row.felt, it.Felt, row.name)
		assert.Len(t, log.TakenBack, row.line, row.name)
		assert.Equal(t, row.painful, it.Pain != nil, row.name)
	}
}

// A mark at the very end of what was cut is of that; at the beginning of what follows otherwise it is of what begins.
func TestASignAtAnEdge(t *testing.T) {
	s := &score.Score{Seconds: 40, Items: []score.Item{{}}, Segments: []score.Segment{
		{Kind: score.Work, Set: 1, Rep: 1, OfReps: 3, OfSets: 2, Start: 0, End: 10}, {Kind: score.Work, Set: 1, Rep: 2, OfReps: 3, OfSets: 2, Start: 10, End: 15, Cut: true},
		{Kind: score.Rest, Set: 2, OfSets: 2, Start: 15, End: 30}, {Kind: score.Work, Set: 2, Rep: 1, OfReps: 3, OfSets: 2, Start: 30, End: 40}}}
	for _, row := range []struct {
		pos  float64
		want progress.Sign
	}{
		{10, progress.Sign{Set: 1, Rep: 2}},
		{15, progress.Sign{Set: 1, Rep: 2}},
		{15.1, progress.Sign{Set: 2}},
		{30, progress.Sign{Set: 2, Rep: 1}},
	} {
		assert.Equal(t, row.want, record.SignOf(s, &record.Mark{Kind: record.Symptom, Pos: row.pos}), "at %g", row.pos)
	}
}
