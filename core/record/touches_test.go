package record_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/plantest"
)

// Every session of 45 minutes leaves room for what happens: with three events (a form lost, something too hard taken
// from its offers, a symptom answered) it needs at most 30 touches when it is led, and at most 3 when it flows. A led
// one of which every wait was answered in time is confirmed from end to end; where nobody answered for five minutes,
// what ran before that is not.
func TestTouches(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr, err := plantest.Load()
	require.NoError(t, err)
	ways, err := restbend.Ways()
	require.NoError(t, err)
	const events = 1 + 2 + 2
	made, fewer := 0, 0
	for seed := uint64(41000); made < 40; seed++ {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		r = r.For(nil).Lasting(45)
		p, err := propose.Quick(r)
		if err != nil || p.Seconds < 40*60 {
			continue
		}
		made++
		s, err := score.Build(p, score.Facts{Catalogue: tr.Cat, Client: r.Client, Log: r.Log, Ways: ways, Mover: r.Mover()})
		require.NoError(t, err)
		waits, flowing := 0, false
		for i := range s.Segments {
			switch g := &s.Segments[i]; g.Kind {
			case score.Setup, score.Rest, score.Change:
				assert.False(t, flowing && !g.Wait, "seed %d: two boundaries at %g flow", seed, g.Start)
				assert.True(t, g.Wait || g.Kind != score.Setup, "a set-up waits")
				flowing = !g.Wait
				if g.Wait {
					waits++
				} else {
					fewer++
				}
			}
		}
		assert.LessOrEqual(t, waits+events, 30, "seed %d", seed)
		got := record.Replay(s, day, led(s))
		for i := range got.Items {
			assert.Truef(t, got.Items[i].Confirmed != nil && *got.Items[i].Confirmed, "seed %d: %s", seed, got.Items[i].Version)
			assert.Equal(t, progress.ByTarget, got.Items[i].EndedBy, "seed %d: %s", seed, got.Items[i].Version)
		}
		// Somebody says go, leaves, and comes back five minutes after the clock stood still.
		for i := range s.Segments {
			g := &s.Segments[i]
			if g.Kind != score.Rest || g.Wait {
				continue
			}
			item := g.Item
			marks := led(s)
			for k := range marks {
				if marks[k].Pos > g.Start {
					marks[k].At = marks[k].At.Add(5 * time.Minute)
				}
			}
			away := record.Replay(s, day, marks)
			whole := true
			for k := range away.Items {
				if away.Items[k].Version == s.Items[item].Version {
					whole = whole && away.Items[k].Confirmed != nil && *away.Items[k].Confirmed
				}
			}
			assert.False(t, whole, "seed %d: %s ran with nobody there", seed, s.Items[item].Version)
			break
		}
	}
	assert.Positive(t, fewer, "some rests flow")
}
