package record_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/dose"
	"restbend/core/record"
	"restbend/core/trade"
)

// In a class everybody has a log of their own: what all were marked with, what they were alone, in their own version,
// side and dose, never more than the host's window holds.
func TestAClass(t *testing.T) {
	s := example(t)
	c := &record.Class{Format: record.ClassFormat, Score: s, Members: []record.Member{
		{ID: "a", Name: "Ada"},
		{ID: "b", Name: "Bo", Items: map[string]record.MemberItem{"0": {Version: "blade-slide-wall", Dose: &dose.Dose{Sets: 1, Reps: 4, HoldS: 6}}, "1": {SideOrder: []trade.Side{trade.Right, trade.Left}}}},
		{ID: "c", Name: "Cy", Items: map[string]record.MemberItem{"0": {Dose: &dose.Dose{Sets: 5, Reps: 20, HoldS: 60}}}},
	}}
	require.Empty(t, c.Problem())
	marks := led(s)
	marks.add(record.Symptom, 125, marks[1].At.Sub(noon).Seconds()+41, on(0, trade.None), func(m *record.Mark) { m.Rep, m.Member = 3, "b" })
	marks.add(record.Felt, 300, marks[3].At.Sub(noon).Seconds()+15, on(1, trade.Right), func(m *record.Mark) { m.Felt = record.Words{"tiring"} })
	got := record.ReplayClass(c, day, marks)
	require.Len(t, got, 3)
	a, b, cy := got["a"], got["b"], got["c"]
	assert.Equal(t, "blade-set-prone none: 1 x 6 x 10 s, target", said(&a.Items[0]))
	assert.Equal(t, "blade-slide-wall none: 1 x 4 x 6 s, symptom, symptom at 3", said(&b.Items[0]))
	assert.Equal(t, "blade-set-prone none: 1 x 6 x 10 s, target", said(&cy.Items[0]), "never longer than the host's")
	for id, session := range got {
		assert.Equal(t, "done", session.Ended, id)
		assert.Contains(t, session.Items[2].Felt, "tiring", "what was said of all")
	}
	for _, bad := range []record.Class{{Score: s}, {Score: s, Members: make([]record.Member, 7)}, {Score: s, Members: []record.Member{{ID: "a"}, {ID: "a"}}}, {Score: s, Members: []record.Member{{ID: "a", Items: map[string]record.MemberItem{"9": {}}}}},
		{Score: s, Members: []record.Member{{ID: "a", Items: map[string]record.MemberItem{"0": {Dose: &dose.Dose{Reps: 1 << 30}}}}}}, {Score: s, Members: []record.Member{{ID: "a", Items: map[string]record.MemberItem{"0": {SideOrder: []trade.Side{"up"}}}}}}} {
		assert.NotEmpty(t, bad.Problem())
	}
}
