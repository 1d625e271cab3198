package web_test

import (
	"context"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/demo"
)

// Own versions that an earlier program solved are solved again at the first start. One that
// no longer passes keeps its last measures, is marked and is left out of new plans; the
// next start does not look again.
func TestOwnVersionsAreCheckedAgain(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true)
	ctx := context.Background()
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	account, _, err := p.store.Account(ctx, demo.Name)
	require.NoError(t, err)
	keep := func(stem string, change func(*catalogue.Version)) int64 {
		base, _ := cat.Version(stem)
		o, err := p.store.CreateOwn(ctx, account, "own-"+stem, stem+", mine", func(slug string) (string, error) {
			v := base.Copy(slug, stem+", mine")
			change(v)
			data, err := v.YAML()
			return string(data), err
		})
		require.NoError(t, err)
		old := *base.Solved
		old.Key = "an earlier program"
		solved, err := json.Marshal(&old)
		require.NoError(t, err)
		require.NoError(t, p.store.UseOwn(ctx, account, o.ID, o.Name, o.Draft, string(solved), 1))
		return o.ID
	}
	sound := keep("heel-raise", func(*catalogue.Version) {})
	splayed := keep("squat-half", func(v *catalogue.Version) {
		v.Phases[0].Pose = strings.Replace(v.Phases[0].Pose, "hip abduction 3", "hip abduction 12", 1)
	})

	serverOn(t, p.store)
	good, err := p.store.OwnVersion(ctx, account, sound)
	require.NoError(t, err)
	assert.Empty(t, good.CheckAgain)
	assert.NotContains(t, good.Solved, "an earlier program", "solved again")
	bad, err := p.store.OwnVersion(ctx, account, splayed)
	require.NoError(t, err)
	assert.Contains(t, bad.CheckAgain, "feet are")
	assert.Contains(t, bad.Solved, "an earlier program", "the last measures stay")
	assert.Equal(t, 1, bad.Revision)

	// The same program does not look again; another does.
	require.NoError(t, p.store.MarkOwn(ctx, splayed, 1, "kept as found", bad.CheckedFor))
	serverOn(t, p.store)
	bad, err = p.store.OwnVersion(ctx, account, splayed)
	require.NoError(t, err)
	assert.Equal(t, "kept as found", bad.CheckAgain)
	require.NoError(t, p.store.MarkOwn(ctx, splayed, 1, "kept as found", "another program"))
	serverOn(t, p.store)
	bad, err = p.store.OwnVersion(ctx, account, splayed)
	require.NoError(t, err)
	assert.Contains(t, bad.CheckAgain, "feet are")

	p.signIn()
	_, page := p.do("GET", "/own", nil)
	assert.Contains(t, page, "check again")
	_, page = p.do("GET", "/library/"+bad.Slug, nil)
	assert.Contains(t, page, "left out of new plans")

	// Mending it takes the mark away.
	mended, _ := cat.Version("squat-half")
	text, err := mended.Copy(bad.Slug, bad.Name).YAML()
	require.NoError(t, err)
	require.NoError(t, p.store.UseOwn(ctx, account, splayed, bad.Name, string(text), "{}", 2))
	bad, err = p.store.OwnVersion(ctx, account, splayed)
	require.NoError(t, err)
	assert.Empty(t, bad.CheckAgain)
}
