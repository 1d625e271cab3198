-- +goose Up
-- What the program found when it solved an own version again: '' while nothing is wrong,
-- else why its poses must be checked, and for which program that was found.
ALTER TABLE own_versions ADD COLUMN check_again TEXT NOT NULL DEFAULT '';
ALTER TABLE own_versions ADD COLUMN checked_for TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE own_versions DROP COLUMN checked_for;
ALTER TABLE own_versions DROP COLUMN check_again;
