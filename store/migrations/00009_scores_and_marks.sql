-- +goose Up
-- A session is its score and the marks made in it; the log session is worked out from both.
-- A change on the spot gives a new revision of the score.
CREATE TABLE scores (
  taught_id INTEGER NOT NULL REFERENCES taught (id) ON DELETE CASCADE,
  rev INTEGER NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document)),
  plan TEXT NOT NULL DEFAULT '' , -- the plan before this revision, when it changed that too
  at TEXT NOT NULL,
  PRIMARY KEY (taught_id, rev)
) STRICT;

-- One row per acknowledged mark; the key makes a repeated send harmless.
CREATE TABLE marks (
  id INTEGER PRIMARY KEY,
  taught_id INTEGER NOT NULL REFERENCES taught (id) ON DELETE CASCADE,
  key TEXT NOT NULL,
  kind TEXT NOT NULL,
  who TEXT NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document)),
  at TEXT NOT NULL,
  UNIQUE (taught_id, key)
) STRICT;

-- The log session of a session without a score, as it was before what was marked since.
ALTER TABLE taught ADD COLUMN base TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(base));
UPDATE taught SET base = log;
-- Sessions that run together, each with a record of its own; the first of them leads.
ALTER TABLE taught ADD COLUMN class TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE taught DROP COLUMN class;
ALTER TABLE taught DROP COLUMN base;
DROP TABLE marks;
DROP TABLE scores;
