package store

import (
	"context"
	"database/sql"
	"fmt"
)

// Own is an instructor's own version: the document in use with its solved poses, and a
// draft. Either may be empty.
type Own struct {
	ID                      int64
	Slug, Name              string
	Revision                int
	Document, Solved, Draft string
	UpdatedAt               string
	CheckAgain, CheckedFor  string // why the poses in use must be checked, and for which program that was found
}

const ownColumns = `id, slug, name, revision, document, solved, draft, updated_at, check_again, checked_for`

func scanOwn(row interface{ Scan(...any) error }) (o Own, err error) {
	err = row.Scan(
		&o.ID,
		&o.Slug,
		&o.Name,
		&o.Revision,
		&o.Document,
		&o.Solved,
		&o.Draft,
		&o.UpdatedAt,
		&o.CheckAgain,
		&o.CheckedFor,
	)
	return o, found(err)
}

// OwnVersions lists an account's own versions by name.
func (s *Store) OwnVersions(ctx context.Context, account int64) ([]Own, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT `+ownColumns+` FROM own_versions WHERE account_id = ? ORDER BY name, id`,
		account,
	)
	return list(rows, err, func(r *sql.Rows, o *Own) (err error) {
		*o, err = scanOwn(r)
		return err
	})
}

// OwnVersion returns one of an account's own versions.
func (s *Store) OwnVersion(ctx context.Context, account, id int64) (Own, error) {
	return scanOwn(
		s.DB.QueryRowContext(ctx, `SELECT `+ownColumns+` FROM own_versions WHERE account_id = ? AND id = ?`, account, id),
	)
}

// CreateOwn makes a draft. The slug is derived from the base's slug and the row, so that
// it is unique over all accounts; draft writes the document once the slug is known.
func (s *Store) CreateOwn(
	ctx context.Context,
	account int64,
	stem, name string,
	draft func(slug string) (string, error),
) (o Own, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		row := tx.QueryRowContext(
			ctx,
			`INSERT INTO own_versions (account_id, slug, name, updated_at) VALUES (?, hex(randomblob(8)), ?, ?) RETURNING id`,
			account,
			name,
			now(),
		)
		if err := row.Scan(&o.ID); err != nil {
			return err
		}
		o.Slug, o.Name = fmt.Sprintf("%s-%d", stem, o.ID), name
		if o.Draft, err = draft(o.Slug); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE own_versions SET slug = ?, draft = ? WHERE id = ?`, o.Slug, o.Draft, o.ID)
		return err
	})
	return o, err
}

// SaveOwnDraft keeps an unfinished or unsound document beside the one in use.
func (s *Store) SaveOwnDraft(ctx context.Context, account, id int64, name, draft string) error {
	r, err := s.DB.ExecContext(
		ctx,
		`UPDATE own_versions SET draft = ?, name = ?, updated_at = ? WHERE id = ? AND account_id = ?`,
		draft,
		name,
		now(),
		id,
		account,
	)
	return touched(r, err, ErrNotFound)
}

// UseOwn puts a sound document with its solved poses in use; the one before is kept as a
// revision. The revision must be one more than the last.
func (s *Store) UseOwn(ctx context.Context, account, id int64, name, document, solved string, revision int) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `INSERT INTO own_revisions (own_id, revision, document, replaced_at)
			SELECT id, revision, document, ? FROM own_versions WHERE id = ? AND account_id = ?
				AND document <> ''`, now(), id, account)
		if err != nil {
			return err
		}
		r, err := tx.ExecContext(
			ctx,
			`UPDATE own_versions SET document = ?, solved = ?, draft = '', check_again = '', checked_for = '', name = ?,
				revision = ?, updated_at = ?
			WHERE id = ? AND account_id = ? AND revision = ?`,
			document,
			solved,
			name,
			revision,
			now(),
			id,
			account,
			revision-1,
		)
		return touched(r, err, ErrChanged)
	})
}

// SetOwnSolved replaces the solved poses of the document in use: the same text, solved by
// a newer program.
func (s *Store) SetOwnSolved(ctx context.Context, id int64, revision int, solved string) error {
	r, err := s.DB.ExecContext(
		ctx,
		`UPDATE own_versions SET solved = ?, check_again = '', checked_for = '' WHERE id = ? AND revision = ?
			AND document <> ''`,
		solved,
		id,
		revision,
	)
	return touched(r, err, ErrChanged)
}

// MarkOwn notes that the document in use no longer passes: it keeps its last measures.
// Program is the one that found it, so that the same program need not look again.
func (s *Store) MarkOwn(ctx context.Context, id int64, revision int, why, program string) error {
	r, err := s.DB.ExecContext(
		ctx,
		`UPDATE own_versions SET check_again = ?, checked_for = ? WHERE id = ? AND revision = ? AND document <> ''`,
		why,
		program,
		id,
		revision,
	)
	return touched(r, err, ErrChanged)
}

// AccountsWithOwn lists the accounts that have versions in use.
func (s *Store) AccountsWithOwn(ctx context.Context) ([]int64, error) {
	rows, err := s.DB.QueryContext(
		ctx,
		`SELECT DISTINCT account_id FROM own_versions WHERE document <> '' ORDER BY account_id`,
	)
	return list(rows, err, func(r *sql.Rows, id *int64) error { return r.Scan(id) })
}

// WithdrawOwn takes a version out of use; its text becomes the draft.
func (s *Store) WithdrawOwn(ctx context.Context, account, id int64) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `INSERT INTO own_revisions (own_id, revision, document, replaced_at)
			SELECT id, revision, document, ? FROM own_versions WHERE id = ? AND account_id = ?
				AND document <> ''`, now(), id, account)
		if err != nil {
			return err
		}
		r, err := tx.ExecContext(
			ctx,
			`UPDATE own_versions SET draft = document, document = '', solved = '', updated_at = ? WHERE id = ?
				AND account_id = ? AND document <> ''`,
			now(),
			id,
			account,
		)
		return touched(r, err, ErrNotFound)
	})
}

// OwnRevision returns the text an own version had at a revision.
func (s *Store) OwnRevision(ctx context.Context, account int64, slug string, revision int) (string, error) {
	var doc string
	err := s.DB.QueryRowContext(ctx, `SELECT r.document FROM own_revisions r JOIN own_versions o ON o.id = r.own_id
		WHERE o.account_id = ? AND o.slug = ? AND r.revision = ?`,
		account, slug, revision).
		Scan(&doc)
	return doc, found(err)
}

// AddOwnDraft keeps an own version that came with a document as a draft of an account, under its own name; when that
// name is given already, in this practice, nothing is added.
func (s *Store) AddOwnDraft(ctx context.Context, account int64, slug, name, draft string) error {
	_, err := s.DB.ExecContext(
		ctx,
		`INSERT INTO own_versions (account_id, slug, name, draft, updated_at) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`,
		account,
		slug,
		name,
		draft,
		now(),
	)
	return err
}
