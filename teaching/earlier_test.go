package teaching

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/dose"
	"restbend/core/plan"
	"restbend/core/progress"
)

// session is a falling set of the bridge and a held side plank.
var session = &plan.Plan{Items: []plan.Item{
	{Version: "bridge", Dose: dose.Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 5}},
	{Version: "side-plank", Side: "each", Dose: dose.Dose{Sets: 1, Reps: 1, HoldS: 20}},
}}

// What the player sent on the left, the log item it becomes on the right.
func TestFold(t *testing.T) {
	for name, c := range map[string]struct{ entries, item, notes string }{
		"done to the target": {`{"kind": "done", "ended_by": "target", "done": {"sets": 1, "reps": 12, "hold_s": 5}}`,
			`{"done": {"sets": 1, "reps": 12, "hold_s": 5}, "ended_by": "target"}`, ""},
		"a correction of what was done": {`{"kind": "done", "ended_by": "target", "done": {"reps": 12}}; {"kind": "done", "ended_by": "target", "done": {"reps": 8}}`,
			`{"done": {"reps": 8}, "ended_by": "target"}`, ""},
		"form lost": {`{"kind": "form", "s": 12.5}`,
			`{"ended_by": "form", "form_lost_s": 12.5, "fault": [{"code": "other", "s": 12.5}]}`, ""},
		"form lost twice: the first time counts": {`{"kind": "form", "s": 12}; {"kind": "form", "s": 8}; {"kind": "form", "s": 15}`,
			`{"ended_by": "form", "form_lost_s": 8, "fault": [{"code": "other", "s": 12}, {"code": "other", "s": 8}, {"code": "other", "s": 15}]}`, ""},
		"a symptom at a repetition": {`{"kind": "symptom", "rep": 4, "s": 30}`,
			`{"ended_by": "symptom", "symptom_at_rep": 4}`, ""},
		"two symptoms: the first counts, in whatever order they arrive": {`{"kind": "symptom", "rep": 5}; {"kind": "symptom", "rep": 3}; {"kind": "symptom", "rep": 4}`,
			`{"ended_by": "symptom", "symptom_at_rep": 3}`, ""},
		"a symptom in a hold": {`{"kind": "symptom", "s": 9}; {"kind": "symptom", "s": 14}`,
			`{"ended_by": "symptom", "symptom_at_s": 9}`, ""},
		"a symptom stays the reason, whatever is pressed after it": {`{"kind": "symptom", "rep": 4}; {"kind": "form", "s": 20}; {"kind": "skip"}; {"kind": "done", "ended_by": "target", "done": {"reps": 3}}`,
			`{"done": {"reps": 3}, "ended_by": "symptom", "symptom_at_rep": 4, "form_lost_s": 20, "fault": [{"code": "other", "s": 20}]}`, "skipped: bridge"},
		"a symptom after it was done": {`{"kind": "done", "ended_by": "target", "done": {"reps": 12}}; {"kind": "symptom", "rep": 12}`,
			`{"done": {"reps": 12}, "ended_by": "symptom", "symptom_at_rep": 12}`, ""},
		"form lost and then skipped": {`{"kind": "form", "s": 3}; {"kind": "skip"}`,
			`{"ended_by": "form", "form_lost_s": 3, "fault": [{"code": "other", "s": 3}]}`, "skipped: bridge"},
		"skipped":          {`{"kind": "skip"}`, `{"ended_by": "choice"}`, "skipped: bridge"},
		"eased, said once": {`{"kind": "ease"}; {"kind": "ease"}`, `{}`, "eased: bridge"},
		"the worst pain, and where": {`{"kind": "pain", "pain": 2, "where": "low back"}; {"kind": "pain", "pain": 4, "where": "hip"}; {"kind": "pain", "pain": 1, "where": "knee"}`,
			`{"felt": ["pain"], "pain": 4, "where": "hip"}`, ""},
		"what was felt, once each": {`{"kind": "felt", "felt": "tingling"}; {"kind": "felt", "felt": "tingling"}; {"kind": "felt", "felt": "dizziness"}`,
			`{"felt": ["tingling", "dizziness"]}`, ""},
	} {
		var entries []entry
		require.NoError(t, json.Unmarshal([]byte("["+strings.ReplaceAll(c.entries, ";", ",")+"]"), &entries), name)
		var want progress.Item
		require.NoError(t, json.Unmarshal([]byte(c.item), &want), name)
		items, notes := foldEntries(session, entries)
		require.Len(t, items, 1, name)
		want.Version, want.Target = "bridge", progress.Amount{Sets: 1, Reps: 12, HoldS: 5}
		assert.Equal(t, want, items[0], name)
		assert.Equal(t, c.notes, strings.Join(notes, "; "), name)
	}
}

// Sides are items of their own; an item that the plan does not have is none.
func TestFoldOfSides(t *testing.T) {
	items, _ := foldEntries(session, []entry{
		{Kind: "symptom", Item: 1, Side: "left", S: 9}, {Kind: "done", Item: 1, Side: "right", Ended: "target"}, {Kind: "done", Item: 7},
	})
	require.Len(t, items, 2)
	assert.Equal(t, progress.BySymptom, items[0].EndedBy)
	assert.Equal(t, "target", items[1].EndedBy)
	assert.Equal(t, progress.Amount{Sets: 1, Reps: 1, HoldS: 20}, items[1].Target)
}

// Where the sides are dosed apart each has its own target.
func TestFoldOfSidesApart(t *testing.T) {
	p := *session
	p.Items = append([]plan.Item{}, p.Items...)
	p.Items[1].Dose.Apart = &[2]dose.Dose{{Sets: 1, Reps: 4}, {Sets: 2, Reps: 3}}
	items, _ := foldEntries(&p, []entry{{Kind: "done", Item: 1, Side: "left"}, {Kind: "done", Item: 1, Side: "right"}})
	require.Len(t, items, 2)
	assert.Equal(t, 4, items[0].Target.Reps)
	assert.Equal(t, progress.Amount{Sets: 2, Reps: 3}, items[1].Target)
}
