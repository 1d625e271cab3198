-- +goose Up
-- A taught session keeps its log session as a document: what was done, felt and said
-- afterwards. Sessions of before are folded once by the program when it starts.
ALTER TABLE taught ADD COLUMN log TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(log));

-- What the practice as a whole has set, its time zone first.
CREATE TABLE settings (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;

-- A recorded pain has the day it was asked: the last day it changed in the client's history,
-- else the day of this change. After a week it no longer counts as pain now.
UPDATE clients SET document = json_set(document, '$.pain.on',
  coalesce((SELECT substr(max(h.at), 1, 10) FROM client_history h WHERE h.client_id = clients.id AND h.field = 'pain'), date('now')))
WHERE json_type(document, '$.pain') = 'object' AND json_extract(document, '$.pain.on') IS NULL;

-- +goose Down
UPDATE clients SET document = json_remove(document, '$.pain.on') WHERE json_type(document, '$.pain') = 'object';
DROP TABLE settings;
ALTER TABLE taught DROP COLUMN log;
