-- +goose Up
-- Tasks put to colleagues: where in the bare hierarchy would something be?
CREATE TABLE studies (
    id         uuid PRIMARY KEY,
    site_id    uuid NOT NULL REFERENCES sites,
    title      text NOT NULL,
    hierarchy  jsonb NOT NULL,
    tasks      jsonb NOT NULL,
    source     text NOT NULL,
    secret     text NOT NULL UNIQUE,
    ends       date NOT NULL,
    person_id  uuid NOT NULL REFERENCES people,
    at         timestamptz NOT NULL
);
CREATE INDEX studies_site ON studies (site_id, at);
-- What somebody did with one task. A visitor is a number made for one visit.
CREATE TABLE study_tries (
    study_id uuid NOT NULL REFERENCES studies ON DELETE CASCADE,
    task     integer NOT NULL,
    visitor  uuid NOT NULL,
    opened   jsonb NOT NULL,
    chosen   text NOT NULL,
    took_ms  bigint NOT NULL,
    at       timestamptz NOT NULL,
    PRIMARY KEY (study_id, task, visitor)
);
-- +goose Down
DROP TABLE study_tries, studies;
