package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/plantest"
)

// A slot keeps two minutes to arrive, two after and a tenth for talk.
func TestASlotKeepsTimeToArriveAndToTalk(t *testing.T) {
	for slot, work := range map[int]int{60: 50, 45: 36, 30: 23, 15: 9, 5: 2} {
		assert.Equal(t, work, plan.WorkIn(slot), "%d minutes", slot)
	}
	assert.Equal(t, 60*60, plan.SlotFor(50*60))
	r := plantest.For(t, plantest.Able(), nil, 30).InSlot(45)
	p, err := propose.Build(r)
	require.NoError(t, err)
	assert.Equal(t, 36, p.Minutes)
	assert.Equal(t, 45*60, p.SlotS)
	assert.Equal(t, 45, p.MinutesAsked())
	assert.LessOrEqual(t, p.Seconds, 36*60)
	assert.LessOrEqual(t, p.Slot(), 45*60)
	again, err := edit.Rebuild(r, p)
	require.NoError(t, err)
	assert.Equal(t, 45*60, again.SlotS, "it stays what was meant")
	_, err = propose.Build(plantest.For(t, plantest.Able(), nil, 30).InSlot(61))
	assert.ErrorContains(t, err, "allowed: 2 to 60")
}
