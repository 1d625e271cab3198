-- +goose Up
CREATE TABLE accounts (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  password_hash TEXT NOT NULL,
  created_at TEXT NOT NULL
) STRICT;

-- The shape the session library expects.
CREATE TABLE sessions (
  token TEXT PRIMARY KEY,
  data BLOB NOT NULL,
  expiry REAL NOT NULL
) STRICT;
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE clients (
  id INTEGER PRIMARY KEY,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document)),
  build TEXT NOT NULL DEFAULT 'ash',
  revision INTEGER NOT NULL DEFAULT 1, -- counts changes of the limits: older plans are stale
  updated_at TEXT NOT NULL
) STRICT;

CREATE TABLE plans (
  id INTEGER PRIMARY KEY,
  client_id INTEGER NOT NULL REFERENCES clients (id) ON DELETE CASCADE,
  document TEXT NOT NULL CHECK (json_valid(document)),
  client_revision INTEGER NOT NULL,
  version INTEGER NOT NULL DEFAULT 1, -- two tabs do not overwrite each other silently
  created_at TEXT NOT NULL
) STRICT;
CREATE INDEX plans_client ON plans (client_id);

CREATE TABLE taught (
  id INTEGER PRIMARY KEY,
  client_id INTEGER NOT NULL REFERENCES clients (id) ON DELETE CASCADE,
  plan_id INTEGER REFERENCES plans (id) ON DELETE SET NULL,
  day TEXT NOT NULL,
  plan TEXT NOT NULL CHECK (json_valid(plan)), -- as it was taught
  state TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(state)), -- where the player is
  pain_start REAL,
  pain_end REAL,
  soreness_peak REAL,
  soreness_settled_h REAL,
  notes TEXT NOT NULL DEFAULT '',
  red_flags TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(red_flags)),
  ended_at TEXT
) STRICT;
CREATE INDEX taught_client ON taught (client_id, day);

-- One row per acknowledged entry; the key makes a repeated send harmless.
CREATE TABLE entries (
  id INTEGER PRIMARY KEY,
  taught_id INTEGER NOT NULL REFERENCES taught (id) ON DELETE CASCADE,
  key TEXT NOT NULL,
  kind TEXT NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document)),
  at TEXT NOT NULL,
  UNIQUE (taught_id, key)
) STRICT;

-- +goose Down
DROP TABLE entries;
DROP TABLE taught;
DROP TABLE plans;
DROP TABLE clients;
DROP TABLE sessions;
DROP TABLE accounts;
