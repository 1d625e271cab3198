-- +goose Up
-- What each step of a plan was made with, so that going back to it is marked when the
-- client's limits or log have changed since. Steps of before count as older.
ALTER TABLE plan_steps ADD COLUMN client_revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE plan_steps ADD COLUMN basis TEXT NOT NULL DEFAULT 'before';
UPDATE plan_steps SET client_revision = (SELECT p.client_revision FROM plans p WHERE p.id = plan_id), basis = (SELECT p.basis FROM plans p WHERE p.id = plan_id)
  WHERE n = (SELECT p.step FROM plans p WHERE p.id = plan_id);

-- +goose Down
ALTER TABLE plan_steps DROP COLUMN basis;
ALTER TABLE plan_steps DROP COLUMN client_revision;
