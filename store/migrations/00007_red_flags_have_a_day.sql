-- +goose Up
-- A red flag keeps the day it was raised: the last day its list changed in the client's
-- history, else today. Only what was written on that day or later clears it.
UPDATE clients SET document = json_set(document, '$.red_flags', json((
  SELECT json_group_array(CASE WHEN f.type = 'text'
    THEN json_object('code', f.value, 'since', coalesce((SELECT substr(max(h.at), 1, 10) FROM client_history h WHERE h.client_id = clients.id AND h.field = 'red_flags'), date('now')))
    ELSE json(f.value) END)
  FROM json_each(clients.document, '$.red_flags') f)))
WHERE json_array_length(document, '$.red_flags') > 0;

-- +goose Down
UPDATE clients SET document = json_set(document, '$.red_flags', json((
  SELECT json_group_array(CASE WHEN f.type = 'object' THEN json_extract(f.value, '$.code') ELSE f.value END)
  FROM json_each(clients.document, '$.red_flags') f)))
WHERE json_array_length(document, '$.red_flags') > 0;
