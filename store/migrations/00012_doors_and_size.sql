-- +goose Up
-- Events are about a client by number: a name stands in no event, so it goes with its client. Whether names are shown
-- is a setting of the practice.
ALTER TABLE events ADD COLUMN client INTEGER;
UPDATE events SET client = (SELECT c.id FROM clients c WHERE c.name = events.about)
  WHERE (what IN ('exported', 'removed a client', 'removed a plan') OR what LIKE 'shared with %' OR what LIKE 'ended sharing with %')
    AND (SELECT count(*) FROM clients c WHERE c.name = events.about) = 1;
UPDATE events SET about = ''
  WHERE what IN ('exported', 'removed a client', 'removed a plan') OR what LIKE 'shared with %' OR what LIKE 'ended sharing with %';
UPDATE events SET client = CAST(about AS INTEGER), about = '' WHERE what IN ('deleted a client', 'put back a client');

-- Sessions of before are looked for at every start.
CREATE INDEX taught_unfolded ON taught (id) WHERE log = '{}';
-- When somebody was taught last is asked for lists.
CREATE INDEX taught_days ON taught (client_id, day) WHERE ended_at IS NOT NULL;

-- +goose Down
DROP INDEX taught_days;
DROP INDEX taught_unfolded;
ALTER TABLE events DROP COLUMN client;
