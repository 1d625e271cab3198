-- +goose Up
-- What a plan was made with besides the client's limits: a fingerprint of the log.
ALTER TABLE plans ADD COLUMN basis TEXT NOT NULL DEFAULT '';
-- The day a session is planned for; empty when it is not decided.
ALTER TABLE plans ADD COLUMN day TEXT NOT NULL DEFAULT '';
-- 1 while only a quick plan stands and the best is still to be worked out.
ALTER TABLE plans ADD COLUMN quick INTEGER NOT NULL DEFAULT 0;
-- Where the plan is among its steps: undo goes back, redo forward.
ALTER TABLE plans ADD COLUMN step INTEGER NOT NULL DEFAULT 0;

CREATE TABLE plan_steps (
  plan_id INTEGER NOT NULL REFERENCES plans (id) ON DELETE CASCADE,
  n INTEGER NOT NULL,
  what TEXT NOT NULL DEFAULT '',
  document TEXT NOT NULL CHECK (json_valid(document)),
  at TEXT NOT NULL,
  PRIMARY KEY (plan_id, n)
) STRICT;
INSERT INTO plan_steps (plan_id, n, what, document, at) SELECT id, 0, 'planned', document, created_at FROM plans;

-- The practice's own kinds of session, and its changes of the delivered ones.
CREATE TABLE templates (
  slug TEXT PRIMARY KEY,
  document TEXT NOT NULL CHECK (json_valid(document)),
  who TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE templates;
DROP TABLE plan_steps;
ALTER TABLE plans DROP COLUMN step;
ALTER TABLE plans DROP COLUMN quick;
ALTER TABLE plans DROP COLUMN day;
ALTER TABLE plans DROP COLUMN basis;
