-- +goose Up
-- An instructor's own versions. The document in use always has solved poses; a draft may
-- hold anything and is never used for clients.
CREATE TABLE own_versions (
  id INTEGER PRIMARY KEY,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  slug TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  revision INTEGER NOT NULL DEFAULT 0,
  document TEXT NOT NULL DEFAULT '', -- in use; empty while only a draft exists
  solved TEXT NOT NULL DEFAULT '',   -- its solved poses, JSON
  draft TEXT NOT NULL DEFAULT '',    -- not in use yet
  updated_at TEXT NOT NULL
) STRICT;
CREATE INDEX own_versions_account ON own_versions (account_id);

CREATE TABLE own_revisions (
  own_id INTEGER NOT NULL REFERENCES own_versions (id) ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  document TEXT NOT NULL,
  replaced_at TEXT NOT NULL,
  PRIMARY KEY (own_id, revision)
) STRICT;

-- +goose Down
DROP TABLE own_revisions;
DROP TABLE own_versions;
