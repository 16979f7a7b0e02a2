-- +goose Up
-- Menus that editors took over, and trails. One row is what such a way is from an
-- edition (inclusive) to an edition (exclusive), as in entry_rows: live has no
-- end, a planned row has no beginning, and removed marks a planned end.
CREATE TABLE way_rows (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id      uuid NOT NULL REFERENCES sites,
    way_id       text NOT NULL,
    way          jsonb NOT NULL,
    removed      boolean NOT NULL DEFAULT false,
    person_id    uuid REFERENCES people,
    changed_at   timestamptz NOT NULL,
    from_edition integer,
    to_edition   integer,
    CHECK (to_edition IS NULL OR from_edition IS NOT NULL AND to_edition > from_edition),
    CHECK (NOT removed OR from_edition IS NULL)
);
CREATE UNIQUE INDEX way_rows_live ON way_rows (site_id, way_id) WHERE from_edition IS NOT NULL AND to_edition IS NULL;
CREATE UNIQUE INDEX way_rows_planned ON way_rows (site_id, way_id) WHERE from_edition IS NULL;

ALTER TABLE acts ADD COLUMN ways jsonb NOT NULL DEFAULT '[]';

-- +goose Down
ALTER TABLE acts DROP COLUMN ways;
DROP TABLE way_rows;
