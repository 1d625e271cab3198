package store

import (
	"context"
	"database/sql"
	"errors"
)

// Setting is what the practice has set under a name, empty when nothing.
func (s *Store) Setting(ctx context.Context, name string) (value string, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT value FROM settings WHERE name = ?`, name).Scan(&value)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return value, err
}

// Set sets something for the practice.
func (s *Store) Set(ctx context.Context, name, value string) error {
	_, err := s.DB.ExecContext(
		ctx,
		`INSERT INTO settings (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value`,
		name,
		value,
	)
	return err
}
