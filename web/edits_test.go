package web

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
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
	pg := &planPage{At: 2, Plan: &plan.Plan{Items: []plan.Item{{Version: "a", Role: "open"}, {Version: "b"}, {Version: "sweep", Role: "reset"}, {Version: "c"}, {Version: "d", Role: "close"}}}}
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
		{plan.Item{Eases: []string{"fists"}}, []string{"With an ease: on the fists so the wrist stays straight."}},
		{plan.Item{Eases: []string{"fists-knees-padded"}}, []string{"With an ease: on the fists so the wrist stays straight, and something soft under the knees and shins."}},
		{plan.Item{Eases: []string{"wings"}}, nil},
		{plan.Item{Watch: []string{"few passes", "small"}}, []string{"Mind: few passes.", "Mind: small."}},
		{plan.Item{Eases: []string{"fists"}, Override: &intake.Override{Reason: "agreed with the surgeon", Until: trade.MustDay("2026-12-24")}},
			[]string{"With an ease: on the fists so the wrist stays straight.", "Left out for this client; overridden until 2026-12-24: agreed with the surgeon"}},
	} {
		assert.Equal(t, row.want, minds(&row.item, v))
	}
}
