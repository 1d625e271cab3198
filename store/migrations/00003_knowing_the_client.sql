-- +goose Up
-- One database is one practice. The first account keeps the practice: it adds accounts
-- and changes the practice's limits.
ALTER TABLE accounts ADD COLUMN keeper INTEGER NOT NULL DEFAULT 0;
UPDATE accounts SET keeper = 1 WHERE id = (SELECT min(id) FROM accounts);

-- An intake is resumed at this step; empty when it is complete.
ALTER TABLE clients ADD COLUMN intake TEXT NOT NULL DEFAULT '';

CREATE TABLE client_shares (
  client_id INTEGER NOT NULL REFERENCES clients (id) ON DELETE CASCADE,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  shared_at TEXT NOT NULL,
  PRIMARY KEY (client_id, account_id)
) STRICT;

-- Who changed what a client's verdicts depend on, when and why.
CREATE TABLE client_history (
  id INTEGER PRIMARY KEY,
  client_id INTEGER NOT NULL REFERENCES clients (id) ON DELETE CASCADE,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  field TEXT NOT NULL,
  before TEXT NOT NULL DEFAULT '',
  after TEXT NOT NULL DEFAULT '',
  why TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX client_history_client ON client_history (client_id, id);

CREATE TABLE test_results (
  id INTEGER PRIMARY KEY,
  client_id INTEGER NOT NULL REFERENCES clients (id) ON DELETE CASCADE,
  day TEXT NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document)),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX test_results_client ON test_results (client_id, day);

-- The practice's changes of limits; the newest row of a limit counts, a row without a
-- value takes it back to the default.
CREATE TABLE limit_changes (
  id INTEGER PRIMARY KEY,
  key TEXT NOT NULL,
  value REAL,
  reason TEXT NOT NULL,
  source TEXT NOT NULL DEFAULT '',
  who TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX limit_changes_key ON limit_changes (key, id);

-- +goose Down
DROP TABLE limit_changes;
DROP TABLE test_results;
DROP TABLE client_history;
DROP TABLE client_shares;
ALTER TABLE clients DROP COLUMN intake;
ALTER TABLE accounts DROP COLUMN keeper;
