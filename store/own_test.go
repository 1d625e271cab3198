package store_test

import (
	"context"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/store"
)

func TestOwnVersionsFromDraftToRevision(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	other, err := st.CreateAccount(ctx, "two", "hash")
	require.NoError(t, err)
	o, err := st.CreateOwn(ctx, acc, "own-clam", "Clam, mine", func(slug string) (string, error) { return "draft of " + slug, nil })
	require.NoError(t, err)
	assert.Equal(t, "draft of "+o.Slug, o.Draft)
	got, err := st.OwnVersion(ctx, acc, o.ID)
	require.NoError(t, err)
	assert.Equal(t, o.Draft, got.Draft)
	assert.Empty(t, got.Document)
	assert.Zero(t, got.Revision)

	require.NoError(t, st.UseOwn(ctx, acc, o.ID, "Clam, mine", "first", "{}", 1))
	require.NoError(t, st.SaveOwnDraft(ctx, acc, o.ID, "Clam, mine", "half done"))
	got, _ = st.OwnVersion(ctx, acc, o.ID)
	assert.Equal(t, "first", got.Document, "a draft does not disturb what is in use")
	assert.Equal(t, "half done", got.Draft)
	require.NoError(t, st.UseOwn(ctx, acc, o.ID, "Clam, mine", "second", "{}", 2))
	got, _ = st.OwnVersion(ctx, acc, o.ID)
	assert.Equal(t, "second", got.Document)
	assert.Empty(t, got.Draft)
	old, err := st.OwnRevision(ctx, acc, o.Slug, 1)
	require.NoError(t, err)
	assert.Equal(t, "first", old)
	_, err = st.OwnRevision(ctx, acc, o.Slug, 7)
	assert.ErrorIs(t, err, store.ErrNotFound)

	// Two tabs: the second to save the same revision is told.
	assert.ErrorIs(t, st.UseOwn(ctx, acc, o.ID, "x", "late", "{}", 2), store.ErrChanged)
	got, _ = st.OwnVersion(ctx, acc, o.ID)
	assert.Equal(t, "second", got.Document)

	require.NoError(t, st.WithdrawOwn(ctx, acc, o.ID))
	got, _ = st.OwnVersion(ctx, acc, o.ID)
	assert.Empty(t, got.Document)
	assert.Equal(t, "second", got.Draft)
	assert.ErrorIs(t, st.WithdrawOwn(ctx, acc, o.ID), store.ErrNotFound, "nothing is in use any more")

	// Nobody else sees or changes it.
	rows, err := st.OwnVersions(ctx, other)
	require.NoError(t, err)
	assert.Empty(t, rows)
	_, err = st.OwnVersion(ctx, other, o.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, st.SaveOwnDraft(ctx, other, o.ID, "x", "y"), store.ErrNotFound)
	assert.Error(t, st.UseOwn(ctx, other, o.ID, "x", "y", "{}", 3))
	assert.ErrorIs(t, st.WithdrawOwn(ctx, other, o.ID), store.ErrNotFound)
	_, err = st.OwnRevision(ctx, other, o.Slug, 1)
	assert.ErrorIs(t, err, store.ErrNotFound)
	rows, err = st.OwnVersions(ctx, acc)
	require.NoError(t, err)
	assert.Len(t, rows, 1)
}

func TestAFailedCopyLeavesNothing(t *testing.T) {
	ctx := context.Background()
	st, acc := open(t)
	broken := errors.New("cannot be written")
	_, err := st.CreateOwn(ctx, acc, "own-clam", "x", func(string) (string, error) { return "", broken })
	assert.ErrorIs(t, err, broken)
	rows, err := st.OwnVersions(ctx, acc)
	require.NoError(t, err)
	assert.Empty(t, rows)
	a, err := st.CreateOwn(ctx, acc, "own-clam", "x", func(s string) (string, error) { return s, nil })
	require.NoError(t, err)
	b, err := st.CreateOwn(ctx, acc, "own-clam", "x", func(s string) (string, error) { return s, nil })
	require.NoError(t, err)
	assert.NotEqual(t, a.Slug, b.Slug)
}
