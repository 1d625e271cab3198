package progress_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/progress"
	"restbend/core/trade"
)

// Days with a kind of work, not exercises of it, count: in the last 7 and the last 28 days.
func TestHowOftenEachKindOfWorkWasDone(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	day := trade.On(2026, 11, 20)
	log := &progress.Log{}
	did := func(ago int, versions ...string) {
		s := progress.Session{Date: day.AddDays(-ago)}
		for _, v := range versions {
			s.Items = append(s.Items, progress.Item{Version: v})
		}
		log.Sessions = append(log.Sessions, s)
	}
	did(0, "low-breath-chair", "cat-cow", "bridge")
	did(6, "bridge", "dead-bug-arm") // the last day of the week
	did(7, "bridge")                 // ... and the first that is not
	did(27, "one-leg-held")
	did(28, "one-leg-held") // too long ago
	did(-1, "bridge")       // a day to come is none
	did(3, "deep-core-find", "taken-out-since")
	fs := progress.Frequencies(cat, log, day)
	require.Len(t, fs, 3)
	assert.Equal(t, [2]int{2, 2}, [2]int{fs[0].Week, fs[0].FourWeeks}, "%s: the deep core is found by breathing", fs[0].Name)
	assert.Equal(t, [2]int{2, 4}, [2]int{fs[1].Week, fs[1].FourWeeks}, "%s: deep-core-find is effort 2", fs[1].Name)
	assert.Equal(t, [2]int{0, 1}, [2]int{fs[2].Week, fs[2].FourWeeks}, fs[2].Name)
	assert.True(t, fs[1].Short())
	did(1, "bridge")
	assert.False(t, progress.Frequencies(cat, log, day)[1].Short(), "three days are enough")
}
