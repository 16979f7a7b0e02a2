-- +goose Up
-- Servers that pass requests on without being trusted to say for whom: told at start and by candlepath check.
CREATE TABLE neighbours (
    address text PRIMARY KEY,
    seen_at timestamptz NOT NULL
);
-- +goose Down
DROP TABLE neighbours;
