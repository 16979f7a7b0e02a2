-- +goose Up
-- To whom a review was passed on, by whoever the row names: a person's id, "group:" and a role, or "anybody" who may publish.
ALTER TABLE change_history ADD COLUMN passed_to text NOT NULL DEFAULT '';
-- Remarks on what went out stay in the history of the thing and are no part of its next review.
ALTER TABLE remarks ADD COLUMN over boolean NOT NULL DEFAULT false;
DROP INDEX remarks_change;
CREATE INDEX remarks_change ON remarks (site_id, change_id, over, id);
-- +goose Down
DROP INDEX remarks_change;
DELETE FROM remarks WHERE over;
CREATE INDEX remarks_change ON remarks (site_id, change_id);
ALTER TABLE remarks DROP COLUMN over;
ALTER TABLE change_history DROP COLUMN passed_to;
