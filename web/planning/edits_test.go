package planning

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/dose"
	"restbend/core/edit"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/trade"
)

// What is wrong with a change is said without the name of the program's field, and nothing
// else is cut away.
func TestPlainly(t *testing.T) {
	for _, row := range []struct {
		err  error
		want string
	}{
		{&plan.Denied{Field: "with", Say: "choose an exercise first"}, "Choose an exercise first."},
		{&plan.Denied{Field: "side", Say: "the left does not suit"}, "The left does not suit."},
		{fmt.Errorf("again: %w", &plan.Denied{Field: "item", Say: "found 99, allowed: 0 to 12"}), "Found 99, allowed: 0 to 12."},
		{errors.New("no rule of the session is broken"), "No rule of the session is broken."},
		{errors.New("time: 31 of 30 minutes are too many"), "Time: 31 of 30 minutes are too many."},
	} {
		assert.Equal(t, row.want, plainly(row.err))
	}
}

// The item that was changed stays in view, also when it moved or is new; the list's ends hold.
func TestTheChangedItemStaysInView(t *testing.T) {
	pg := &PlanPage{At: 2, Plan: &plan.Plan{Items: []plan.Item{{Version: "a", Role: "open"}, {Version: "b"}, {Version: "sweep", Role: "reset"}, {Version: "c"}, {Version: "d", Role: "close"}}}}
	for _, row := range []struct {
		edit edit.Edit
		want int
	}{
		{edit.Edit{Op: "up", Item: 3}, 2},
		{edit.Edit{Op: "up", Item: 0}, 0},
		{edit.Edit{Op: "down", Item: 1}, 2},
		{edit.Edit{Op: "down", Item: 4}, 4},
		{edit.Edit{Op: "move", Item: 1, To: 3}, 3},
		{edit.Edit{Op: "add", With: "c"}, 3},
		{edit.Edit{Op: "add", With: "sweep"}, 0},
		{edit.Edit{Op: "begin", With: "a"}, 0},
		{edit.Edit{Op: "longer", Item: 1}, 1},
		{edit.Edit{Op: "remove", Item: 1}, 2},
		{edit.Edit{Op: "ban", Item: 4}, 2},
		{edit.Edit{Op: "rebuild"}, 2},
	} {
		assert.Equal(t, row.want, follow(pg, row.edit), "%+v", row.edit)
	}
}

// What an item needs to fit a client is said in whole sentences: the ease, what to mind, an
// override with its last day and reason.
func TestMinds(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	v, ok := cat.Version("bird-dog")
	require.True(t, ok)
	for _, row := range []struct {
		item plan.Item
		want []string
	}{
		{plan.Item{}, nil},
		{plan.Item{Eases: []string{"fists"}}, []string{"Eased: Make fists and stand on them, so the wrists stay straight."}},
		{plan.Item{Eases: []string{"fists-knees-padded"}}, []string{"Eased: Make fists and stand on them, so the wrists stay straight.", "Eased: Something soft lies under the knees and shins."}},
		{plan.Item{Eases: []string{"wings"}}, nil},
		{plan.Item{Watch: []string{"few passes", "small"}}, []string{"Mind: few passes.", "Mind: small."}},
		{plan.Item{Eases: []string{"fists"}, Override: &intake.Override{Reason: "agreed with the surgeon", Until: trade.MustDay("2026-12-24")}},
			[]string{"Eased: Make fists and stand on them, so the wrists stay straight.", "Left out for this client; overridden until 2026-12-24: agreed with the surgeon"}},
	} {
		assert.Equal(t, row.want, Minds(&row.item, v))
	}
}

func TestDoseInWords(t *testing.T) {
	for want, it := range map[string]plan.Item{
		"6-4-2 times, hold 10 s, each side":              {Side: "each", Dose: dose.Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10}},
		"2 x 8, hold 3 s":                                {Side: "none", Dose: dose.Dose{Sets: 2, Reps: 8, HoldS: 3}},
		"once, hold 5 breaths":                           {Side: "none", Dose: dose.Dose{Sets: 1, Reps: 1, HoldBreaths: 5}},
		"10 times, sides in turn":                        {Side: "alternate", Dose: dose.Dose{Sets: 1, Reps: 10}},
		"8 times, left only":                             {Side: "left", Dose: dose.Dose{Sets: 1, Reps: 8}},
		"6 times, hold 2 counts":                         {Side: "none", Dose: dose.Dose{Sets: 1, Reps: 6, HoldCounts: 2}},
		"once, hold 30 s, each side, extra on the right": {Side: "each", Dose: dose.Dose{Sets: 1, Reps: 1, HoldS: 30, Extra: &dose.Extra{Side: "right", Share: 0.5}}},
	} {
		assert.Equal(t, want, doseText(it))
	}
}
