-- +goose Up
-- People come and go; sessions that began before sessions_since are over.
ALTER TABLE people
    ADD COLUMN active boolean NOT NULL DEFAULT true,
    ADD COLUMN sessions_since timestamptz NOT NULL DEFAULT 'epoch';

-- A link by which somebody gives themselves a password, once.
CREATE TABLE password_links (
    token_hash bytea PRIMARY KEY,
    site_id    uuid NOT NULL REFERENCES sites,
    person_id  uuid NOT NULL REFERENCES people,
    ends       timestamptz NOT NULL
);

-- Browsers in which somebody signed in before: others' wrong tries do not slow
-- them down.
CREATE TABLE known_browsers (
    token_hash bytea NOT NULL,
    site_id    uuid NOT NULL REFERENCES sites,
    person_id  uuid NOT NULL REFERENCES people,
    seen       timestamptz NOT NULL,
    PRIMARY KEY (token_hash, person_id)
);

-- Tries to sign in that failed or still run.
DROP TABLE signin_failures;
CREATE TABLE signin_tries (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    login   text NOT NULL,
    host    text NOT NULL,
    browser bytea,
    at      timestamptz NOT NULL
);
CREATE INDEX signin_tries_login ON signin_tries (login, at);
CREATE INDEX signin_tries_host ON signin_tries (host, at);

-- Who opened a study, one a browser.
CREATE TABLE study_visits (
    study_id uuid NOT NULL REFERENCES studies ON DELETE CASCADE,
    visitor  uuid NOT NULL,
    host     text NOT NULL,
    at       timestamptz NOT NULL,
    PRIMARY KEY (study_id, visitor)
);
INSERT INTO study_visits (study_id, visitor, host, at) SELECT study_id, visitor, '', min(at) FROM study_tries GROUP BY study_id, visitor;
-- +goose Down
DROP TABLE study_visits;
DROP TABLE signin_tries;
CREATE TABLE signin_failures (login text NOT NULL, host text NOT NULL, at timestamptz NOT NULL);
CREATE INDEX signin_failures_login ON signin_failures (login, at);
CREATE INDEX signin_failures_host ON signin_failures (host, at);
DROP TABLE known_browsers, password_links;
ALTER TABLE people DROP COLUMN active, DROP COLUMN sessions_since;
