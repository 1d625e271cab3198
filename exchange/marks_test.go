package exchange_test

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/record"
	"restbend/core/trade"
	"restbend/exchange"
)

func document(t testing.TB, name string) []byte {
	data, err := os.ReadFile("../docs/formats/examples/" + name)
	require.NoError(t, err)
	return data
}

// The examples read; what a score or marks cannot be is named by field.
func TestScoresAndMarks(t *testing.T) {
	doc, text := document(t, "score.json"), string(document(t, "marks.json"))
	s, err := exchange.ReadScore(bytes.NewReader(doc))
	require.NoError(t, err)
	m, err := exchange.ReadMarks(strings.NewReader(text), record.Bounds{Items: len(s.Items), Seconds: s.Seconds})
	require.NoError(t, err)
	assert.Len(t, m.Marks, 10)
	got := record.Replay(s, m.Date, m.Marks)
	require.Len(t, got.Items, 4)
	assert.Equal(t, 8, got.Items[3].Done.Reps)
	for change, want := range map[string]string{
		`"pos": 150>"pos": 9000`:                      "marks[2].pos",
		`"kind": "form">"kind": "dance"`:              "marks[2].kind",
		`"fault": "sag">"fault": "wobbly"`:            "marks[2].fault",
		`"item": 2>"item": 7`:                         "marks[9].item",
		`"field": "done.reps">"field": "name"`:        "marks[9].field",
		`"pain": 2,>"pain": 1e308,`:                   "marks[0].pain",
		`restbend.marks/1>restbend.marks/9`:           "format",
		`"at": "2026-11-20T09:31:00Z">"at": "midday"`: "marks[0].at",
	} {
		from, to, _ := strings.Cut(change, ">")
		require.Contains(t, text, from)
		_, err := exchange.ReadMarks(strings.NewReader(strings.Replace(text, from, to, 1)), record.Bounds{Items: len(s.Items), Seconds: s.Seconds})
		require.Error(t, err, change)
		assert.Contains(t, err.Error(), want)
	}
	for change, want := range map[string]string{`"seconds": 467>"seconds": 500`: "seconds"} {
		from, to, _ := strings.Cut(change, ">")
		_, err := exchange.ReadScore(strings.NewReader(strings.Replace(string(doc), from, to, 1)))
		require.Error(t, err, change)
		assert.Contains(t, err.Error(), want)
	}
}

// Whatever comes in as marks, what is read can be replayed.
func FuzzReadMarks(f *testing.F) {
	s, err := exchange.ReadScore(bytes.NewReader(document(f, "score.json")))
	require.NoError(f, err)
	f.Add(document(f, "marks.json"))
	f.Add([]byte(`{"format":"restbend.marks/1","marks":[{"key":"a","at":"2026-11-20T09:31:00Z","pos":0,"kind":"correct","item":0,"field":"felt","to":["pulling"]}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := exchange.ReadMarks(bytes.NewReader(data), record.Bounds{Items: len(s.Items), Seconds: s.Seconds})
		if err == nil {
			record.Replay(s, m.Date, m.Marks)
		}
	})
}

// Whatever comes in as a score, what is read can be replayed with nothing marked.
func FuzzReadScore(f *testing.F) {
	f.Add(document(f, "score.json"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if s, err := exchange.ReadScore(bytes.NewReader(data)); err == nil {
			record.Replay(s, trade.MustDay("2026-11-20"), nil)
		}
	})
}
