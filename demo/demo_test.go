package demo_test

import (
	"bytes"
	"context"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/archive"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/exchange"
	"restbend/store"
)

// The demo's clients are valid documents of the format, each with sessions in the past.
func TestDemoClientsAreValid(t *testing.T) {
	ctx := context.Background()
	st, err := store.Open(ctx, filepath.Join(t.TempDir(), "x.db"))
	require.NoError(t, err)
	defer st.Close()
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	require.NoError(t, demo.Fill(ctx, st, cat, rules, trade.DayOf(time.Now(), time.Local)))
	clients, err := st.Clients(ctx, 1)
	require.NoError(t, err)
	require.Len(t, clients, 4)
	for _, c := range clients {
		_, err := exchange.ReadClient(bytes.NewReader(c.Document), cat, rules, trade.DayOf(time.Now(), time.Local))
		assert.NoError(t, err, c.Name)
		assert.GreaterOrEqual(t, c.Sessions, 2, c.Name)
		assert.True(t, c.LastDay.Before(trade.DayOf(time.Now(), time.Local)), c.Name)
		taught, err := st.TaughtSessions(ctx, c.ID, 99)
		require.NoError(t, err)
		for _, s := range taught {
			assert.NotEqual(t, "{}", string(s.Log), "%s on %s", c.Name, s.Day)
			assert.NotEmpty(t, s.Notes)
		}
	}
	shared, err := st.Clients(ctx, 2)
	require.NoError(t, err)
	require.Len(t, shared, 1, "one client is shared with the second instructor")
	assert.Equal(t, "Imre Sollow", shared[0].Name)
	problems, _, err := archive.Examine(ctx, st, cat, rules, trade.DayOf(time.Now(), time.Local))
	require.NoError(t, err)
	assert.Empty(t, problems)
	assert.Error(t, demo.Fill(ctx, st, cat, rules, trade.DayOf(time.Now(), time.Local)), "a filled practice is not filled twice")
}
