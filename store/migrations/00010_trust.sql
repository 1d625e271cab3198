-- +goose Up
-- Who is signed in, and where: each can be ended. The token of the session library is kept as a hash from here on.
CREATE TABLE sign_ins (
  id INTEGER PRIMARY KEY,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  key TEXT NOT NULL UNIQUE, -- what the session of the library knows it by
  place TEXT NOT NULL,
  device TEXT NOT NULL,
  at TEXT NOT NULL,
  seen_at TEXT NOT NULL
) STRICT;
CREATE INDEX sign_ins_account ON sign_ins (account_id);
DELETE FROM sessions;

-- How full the measure of a name, a place or everybody is with tries to sign in.
CREATE TABLE sign_in_tries (
  key TEXT PRIMARY KEY,
  level REAL NOT NULL,
  at REAL NOT NULL -- Unix seconds
) STRICT;

-- An account that was closed keeps its name in the history and signs in no more.
ALTER TABLE accounts ADD COLUMN closed_at TEXT;

-- A client is the same one wherever its document goes.
ALTER TABLE clients ADD COLUMN uid TEXT NOT NULL DEFAULT '';
UPDATE clients SET uid = lower(hex(randomblob(16)));
CREATE UNIQUE INDEX clients_uid ON clients (uid) WHERE uid <> '';

-- What is removed lies in a bin for a while.
ALTER TABLE clients ADD COLUMN removed_at TEXT;
ALTER TABLE plans ADD COLUMN removed_at TEXT;

-- History that came in with a document is not this practice's word.
ALTER TABLE client_history ADD COLUMN imported INTEGER NOT NULL DEFAULT 0;

-- What was read, exported, shared, removed, and who signed in.
CREATE TABLE events (
  id INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  what TEXT NOT NULL,
  about TEXT NOT NULL
) STRICT;

-- A session that is closed again keeps what it said before.
ALTER TABLE taught ADD COLUMN revision INTEGER NOT NULL DEFAULT 1;
CREATE INDEX taught_ended ON taught (client_id, ended_at, day, revision);
CREATE INDEX taught_open ON taught (client_id) WHERE ended_at IS NULL;
CREATE INDEX plans_day ON plans (day) WHERE day <> '';
CREATE INDEX taught_class ON taught (class) WHERE class <> '';
CREATE INDEX taught_plan ON taught (plan_id);
CREATE INDEX clients_account ON clients (account_id, name COLLATE NOCASE);

-- Counts the changes of a client's log, so that what follows from it need not be worked out again each time.
ALTER TABLE clients ADD COLUMN log_rev INTEGER NOT NULL DEFAULT 0;
-- +goose StatementBegin
CREATE TRIGGER taught_added AFTER INSERT ON taught BEGIN UPDATE clients SET log_rev = log_rev + 1 WHERE id = NEW.client_id; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER taught_changed AFTER UPDATE OF log, ended_at, day, client_id ON taught BEGIN UPDATE clients SET log_rev = log_rev + 1 WHERE id IN (NEW.client_id, OLD.client_id); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER taught_removed AFTER DELETE ON taught BEGIN UPDATE clients SET log_rev = log_rev + 1 WHERE id = OLD.client_id; END;
-- +goose StatementEnd

-- +goose Down
DROP TRIGGER taught_removed;
DROP TRIGGER taught_changed;
DROP TRIGGER taught_added;
ALTER TABLE clients DROP COLUMN log_rev;
DROP INDEX clients_account;
DROP INDEX taught_plan;
DROP INDEX taught_class;
DROP INDEX plans_day;
DROP INDEX taught_open;
DROP INDEX taught_ended;
ALTER TABLE taught DROP COLUMN revision;
DROP TABLE events;
ALTER TABLE client_history DROP COLUMN imported;
DELETE FROM plans WHERE removed_at IS NOT NULL;
ALTER TABLE plans DROP COLUMN removed_at;
DELETE FROM clients WHERE removed_at IS NOT NULL;
ALTER TABLE clients DROP COLUMN removed_at;
DROP INDEX clients_uid;
ALTER TABLE clients DROP COLUMN uid;
DELETE FROM accounts WHERE closed_at IS NOT NULL;
ALTER TABLE accounts DROP COLUMN closed_at;
DROP TABLE sign_in_tries;
DROP TABLE sign_ins;
