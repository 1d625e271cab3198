-- +goose Up
-- Tries to sign in are counted under hashed keys, and forgotten by when they were.
DELETE FROM sign_in_tries;
CREATE INDEX sign_in_tries_at ON sign_in_tries (at);

-- Devices somebody signed in with before: strangers cannot shut their owner out. Hashes alone; in no export and no
-- backup; at most 20 an account; they go with it.
CREATE TABLE known_devices (
  hash TEXT NOT NULL,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  seen_at TEXT NOT NULL,
  UNIQUE (hash, account_id)
) STRICT;
CREATE INDEX known_devices_account ON known_devices (account_id, seen_at);

-- +goose Down
DROP TABLE known_devices;
DROP INDEX sign_in_tries_at;
