-- +goose Up
CREATE TABLE sites (
    id              uuid PRIMARY KEY,
    name            text NOT NULL,
    hosts           text[] NOT NULL DEFAULT '{}',
    edition         integer NOT NULL DEFAULT 0,
    plan_version    bigint NOT NULL DEFAULT 0,
    editors_publish boolean NOT NULL DEFAULT false,
    own_work        boolean NOT NULL DEFAULT false
);

CREATE TABLE people (
    id            uuid PRIMARY KEY,
    site_id       uuid NOT NULL REFERENCES sites,
    login         text NOT NULL,
    name          text NOT NULL,
    role          text NOT NULL CHECK (role IN ('reader', 'editor', 'approver', 'site manager')),
    password_hash text NOT NULL,
    CONSTRAINT people_login UNIQUE (site_id, login)
);

CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE signin_failures (
    login text NOT NULL,
    host  text NOT NULL,
    at    timestamptz NOT NULL
);
CREATE INDEX signin_failures_login ON signin_failures (login, at);
CREATE INDEX signin_failures_host ON signin_failures (host, at);

CREATE TABLE templates (
    site_id    uuid NOT NULL REFERENCES sites,
    key        text NOT NULL,
    position   integer NOT NULL,
    definition jsonb NOT NULL,
    PRIMARY KEY (site_id, key)
);

-- An edition is immutable and numbered without gaps: its number is the site's
-- edition + 1, taken while the site row is locked.
CREATE TABLE editions (
    site_id      uuid NOT NULL REFERENCES sites,
    number       integer NOT NULL CHECK (number > 0),
    published_at timestamptz NOT NULL,
    person_id    uuid NOT NULL REFERENCES people,
    why          text NOT NULL CHECK (why <> ''),
    back_to      integer,
    told         jsonb NOT NULL,
    act_key      uuid NOT NULL,
    PRIMARY KEY (site_id, number),
    CONSTRAINT editions_act UNIQUE (site_id, act_key)
);

-- One row is what an entry is from an edition (inclusive) to an edition
-- (exclusive). Live has no end. A planned row has no beginning and stands for
-- the entry in Next; removed marks a planned end.
CREATE TABLE entry_rows (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id      uuid NOT NULL REFERENCES sites,
    entry_id     text NOT NULL,
    parent_id    text NOT NULL,
    rank         text COLLATE "C" NOT NULL,
    title        text NOT NULL,
    short        text NOT NULL,
    slug         text NOT NULL,
    slug_held    boolean NOT NULL,
    fixed        text NOT NULL,
    kind         text NOT NULL CHECK (kind IN ('page', 'carried', 'reference', 'outside', 'file', 'group')),
    target       text NOT NULL,
    source       text NOT NULL,
    template     text NOT NULL,
    owner        text NOT NULL,
    unlisted     boolean NOT NULL,
    topics       text NOT NULL,
    readership   text NOT NULL,
    review       text NOT NULL,
    notes        text NOT NULL,
    withdrawn    boolean NOT NULL,
    removed      boolean NOT NULL DEFAULT false,
    person_id    uuid REFERENCES people,
    changed_at   timestamptz NOT NULL,
    from_edition integer,
    to_edition   integer,
    CHECK (to_edition IS NULL OR from_edition IS NOT NULL AND to_edition > from_edition),
    CHECK (NOT removed OR from_edition IS NULL)
);
CREATE UNIQUE INDEX entry_rows_live ON entry_rows (site_id, entry_id) WHERE from_edition IS NOT NULL AND to_edition IS NULL;
CREATE UNIQUE INDEX entry_rows_planned ON entry_rows (site_id, entry_id) WHERE from_edition IS NULL;
CREATE UNIQUE INDEX entry_rows_live_slug ON entry_rows (site_id, parent_id, slug)
    WHERE from_edition IS NOT NULL AND to_edition IS NULL AND slug <> '' AND fixed = '' AND kind IN ('page', 'carried', 'group') AND NOT withdrawn;
CREATE INDEX entry_rows_history ON entry_rows (site_id, from_edition, to_edition);
CREATE INDEX entry_rows_title ON entry_rows USING gin (to_tsvector('english', title))
    WHERE from_edition IS NOT NULL AND to_edition IS NULL;

-- Every address that a page ever had, and from when to when.
CREATE TABLE addresses (
    site_id      uuid NOT NULL REFERENCES sites,
    address      text COLLATE "C" NOT NULL,
    entry_id     text NOT NULL,
    from_edition integer NOT NULL,
    to_edition   integer
);
CREATE UNIQUE INDEX addresses_live ON addresses (site_id, address) WHERE to_edition IS NULL;
CREATE INDEX addresses_entry ON addresses (site_id, entry_id);

CREATE TABLE redirects (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id      uuid NOT NULL REFERENCES sites,
    from_address text COLLATE "C" NOT NULL,
    match        text NOT NULL CHECK (match IN ('exact', 'prefix', 'branch')),
    to_entry     text NOT NULL,
    to_address   text NOT NULL,
    to_url       text NOT NULL,
    to_suffix    text NOT NULL,
    code         integer NOT NULL CHECK (code IN (301, 302, 307, 308, 410)),
    note         text NOT NULL,
    review       text NOT NULL,
    from_edition integer NOT NULL,
    to_edition   integer
);
CREATE UNIQUE INDEX redirects_live ON redirects (site_id, from_address, (match = 'exact')) WHERE to_edition IS NULL;

-- Where visitors of a page that is planned to go belong.
CREATE TABLE decisions (
    site_id    uuid NOT NULL REFERENCES sites,
    entry_id   text NOT NULL,
    to_entry   text NOT NULL,
    to_address text NOT NULL,
    to_url     text NOT NULL,
    to_suffix  text NOT NULL,
    code       integer NOT NULL,
    note       text NOT NULL,
    review     text NOT NULL,
    person_id  uuid NOT NULL REFERENCES people,
    PRIMARY KEY (site_id, entry_id)
);

-- Planned changes that are not to go out with the next edition unless somebody
-- ticks them: what a rollback took back.
CREATE TABLE left_out (
    site_id  uuid NOT NULL REFERENCES sites,
    entry_id text NOT NULL,
    aspect   text NOT NULL,
    PRIMARY KEY (site_id, entry_id, aspect)
);

-- The content of a page by validity, like entry_rows. A draft has no
-- beginning. body is the rendered article as readers get it, gzipped when the
-- draft is saved, so that publishing moves no text.
CREATE TABLE page_versions (
    id           uuid PRIMARY KEY,
    site_id      uuid NOT NULL REFERENCES sites,
    entry_id     text NOT NULL,
    content      jsonb NOT NULL,
    body         bytea NOT NULL,
    outline      jsonb NOT NULL,
    links        jsonb NOT NULL,
    excerpt      text NOT NULL,
    version      integer NOT NULL,
    person_id    uuid NOT NULL REFERENCES people,
    changed_at   timestamptz NOT NULL,
    from_edition integer,
    to_edition   integer,
    CHECK (to_edition IS NULL OR from_edition IS NOT NULL AND to_edition > from_edition)
);
ALTER TABLE page_versions ALTER COLUMN body SET STORAGE EXTERNAL;
CREATE UNIQUE INDEX page_versions_live ON page_versions (site_id, entry_id) WHERE from_edition IS NOT NULL AND to_edition IS NULL;
CREATE UNIQUE INDEX page_versions_draft ON page_versions (site_id, entry_id) WHERE from_edition IS NULL;
CREATE INDEX page_versions_entry ON page_versions (site_id, entry_id, from_edition);

-- The words of a version, kept apart so that publishing does not touch their index.
CREATE TABLE page_words (
    version_id uuid PRIMARY KEY REFERENCES page_versions ON DELETE CASCADE,
    plain      text NOT NULL,
    words      tsvector NOT NULL
);
CREATE INDEX page_words_words ON page_words USING gin (words);

-- The planning acts, for undo and redo and for telling who did what.
CREATE TABLE acts (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id   uuid NOT NULL REFERENCES sites,
    key       uuid NOT NULL,
    person_id uuid NOT NULL REFERENCES people,
    at        timestamptz NOT NULL,
    label     text NOT NULL,
    patches   jsonb NOT NULL,
    version   bigint NOT NULL,
    state     text NOT NULL DEFAULT 'done' CHECK (state IN ('done', 'undone', 'dropped', 'settled')),
    undone_at bigint,
    CONSTRAINT acts_key UNIQUE (site_id, key)
);
CREATE INDEX acts_version ON acts (site_id, version);
CREATE INDEX acts_person ON acts (site_id, person_id, state, id);

CREATE TABLE locks (
    site_id   uuid NOT NULL REFERENCES sites,
    entry_id  text NOT NULL,
    person_id uuid NOT NULL REFERENCES people,
    window_id uuid NOT NULL,
    taken_at  timestamptz NOT NULL,
    seen_at   timestamptz NOT NULL,
    PRIMARY KEY (site_id, entry_id)
);

-- Texts that met a newer version or a lost lock, kept until somebody chose.
CREATE TABLE kept_texts (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL REFERENCES sites,
    entry_id  text NOT NULL,
    person_id uuid NOT NULL REFERENCES people,
    content   jsonb NOT NULL,
    at        timestamptz NOT NULL
);
CREATE INDEX kept_texts_entry ON kept_texts (site_id, entry_id, person_id);

-- A file on its way in: read, previewed, and written when accepted.
CREATE TABLE bring_ins (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL REFERENCES sites,
    person_id uuid NOT NULL REFERENCES people,
    at        timestamptz NOT NULL,
    file_name text NOT NULL,
    data      bytea NOT NULL,
    state     text NOT NULL CHECK (state IN ('reading', 'ready', 'refused', 'writing', 'written', 'failed')),
    done      integer NOT NULL DEFAULT 0,
    total     integer NOT NULL DEFAULT 0,
    message   text NOT NULL DEFAULT '',
    way       text NOT NULL DEFAULT 'below',
    place     text NOT NULL DEFAULT ''
);
-- Ids of files brought in before, and the entries they became.
CREATE TABLE brought_ids (
    site_id  uuid NOT NULL REFERENCES sites,
    file_id  text NOT NULL,
    entry_id text NOT NULL,
    PRIMARY KEY (site_id, file_id)
);
-- +goose Down
DROP TABLE brought_ids, bring_ins, kept_texts, locks, acts, page_words, page_versions, left_out, decisions, redirects,
    addresses, entry_rows, editions, templates, signin_failures, sessions, people, sites;
