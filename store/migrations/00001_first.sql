-- +goose Up

-- People -------------------------------------------------------------------

CREATE TABLE teams (
    id   bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name text NOT NULL UNIQUE
);

CREATE TABLE staff (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    email         text NOT NULL,
    name          text NOT NULL,
    password_hash text NOT NULL,
    roles         text[] NOT NULL DEFAULT '{}',
    team_id       bigint REFERENCES teams,
    disabled_at   timestamptz,
    created_at    timestamptz NOT NULL
);
CREATE UNIQUE INDEX staff_email ON staff (lower(email));

CREATE TABLE customers (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    email         text NOT NULL,
    name          text NOT NULL,
    password_hash text NOT NULL,
    created_at    timestamptz NOT NULL
);
CREATE UNIQUE INDEX customers_email ON customers (lower(email));

-- A session is known by the hash of its token; the token itself is kept nowhere.
CREATE TABLE sessions (
    token_hash  bytea PRIMARY KEY,
    staff_id    bigint REFERENCES staff,
    customer_id bigint REFERENCES customers,
    created_at  timestamptz NOT NULL,
    expires_at  timestamptz NOT NULL,
    CHECK (num_nonnulls(staff_id, customer_id) = 1)
);

CREATE TABLE sign_in_failures (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    subject text NOT NULL, -- a mail address or a network address
    at      timestamptz NOT NULL
);
CREATE INDEX sign_in_failures_recent ON sign_in_failures (subject, at);

-- The library --------------------------------------------------------------

CREATE TABLE categories (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    parent_id   bigint REFERENCES categories,
    name        text NOT NULL,
    description text NOT NULL DEFAULT '',
    audience    text NOT NULL DEFAULT 'everyone', -- what new articles in it start with
    position    integer NOT NULL DEFAULT 0
);
CREATE INDEX categories_parent ON categories (parent_id, position);

CREATE TABLE articles (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number        integer NOT NULL UNIQUE,
    category_id   bigint NOT NULL REFERENCES categories,
    owner_id      bigint NOT NULL REFERENCES staff,
    kind          text NOT NULL DEFAULT 'how-to',
    audience      text NOT NULL DEFAULT 'everyone',
    position      integer NOT NULL DEFAULT 0,
    last_revision integer NOT NULL DEFAULT 0, -- the highest revision number given out
    created_at    timestamptz NOT NULL
);
CREATE INDEX articles_category ON articles (category_id, position);
CREATE SEQUENCE article_numbers AS integer;

-- One edition for each language an article is written in, holding its working copy.
CREATE TABLE editions (
    id                 bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    article_id         bigint NOT NULL REFERENCES articles,
    language           text NOT NULL,
    title              text NOT NULL DEFAULT '',
    body               text NOT NULL DEFAULT '',
    keywords           text[] NOT NULL DEFAULT '{}',
    search_title       text NOT NULL DEFAULT '',
    search_description text NOT NULL DEFAULT '',
    state              text NOT NULL DEFAULT 'drafting',
    version            integer NOT NULL DEFAULT 1, -- rises with every save
    writer_id          bigint NOT NULL REFERENCES staff,
    written_at         timestamptz NOT NULL,
    submitter_id       bigint REFERENCES staff,
    submitted_at       timestamptz,
    submitted_revision integer,
    decision_note      text NOT NULL DEFAULT '',
    live_revision_id   bigint,
    live_since         timestamptz,
    UNIQUE (article_id, language)
);
CREATE INDEX editions_state ON editions (state, submitted_at);

CREATE TABLE revisions (
    id                 bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    edition_id         bigint NOT NULL REFERENCES editions,
    number             integer NOT NULL, -- counted per article, over all its editions
    title              text NOT NULL,
    body               text NOT NULL,
    keywords           text[] NOT NULL,
    search_title       text NOT NULL,
    search_description text NOT NULL,
    words              integer NOT NULL,
    made_by            bigint NOT NULL REFERENCES staff,
    made_at            timestamptz NOT NULL,
    UNIQUE (edition_id, number)
);
ALTER TABLE editions ADD FOREIGN KEY (live_revision_id) REFERENCES revisions;

CREATE TABLE files (
    hash       text PRIMARY KEY, -- SHA-256 of the bytes, in hexadecimal
    media_type text NOT NULL,
    width      integer NOT NULL,
    height     integer NOT NULL,
    bytes      bytea NOT NULL,
    added_by   bigint NOT NULL REFERENCES staff,
    added_at   timestamptz NOT NULL
);

-- Which live revisions show a file: what decides who may fetch it.
CREATE TABLE revision_files (
    revision_id bigint NOT NULL REFERENCES revisions,
    file_hash   text NOT NULL REFERENCES files,
    PRIMARY KEY (revision_id, file_hash)
);
CREATE INDEX revision_files_file ON revision_files (file_hash);

CREATE TABLE trail (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at         timestamptz NOT NULL,
    staff_id   bigint NOT NULL REFERENCES staff,
    article_id bigint REFERENCES articles,
    subject    text NOT NULL, -- A-0042, or what else it is about
    action     text NOT NULL,
    from_state text NOT NULL DEFAULT '',
    to_state   text NOT NULL DEFAULT '',
    note       text NOT NULL DEFAULT ''
);
CREATE INDEX trail_article ON trail (article_id, id);

-- Flows and conversations --------------------------------------------------

CREATE TABLE flows (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    slug            text NOT NULL UNIQUE,
    live_version_id bigint
);

CREATE TABLE flow_versions (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    flow_id      bigint NOT NULL REFERENCES flows,
    number       integer NOT NULL,
    script       jsonb NOT NULL,
    published_by bigint NOT NULL REFERENCES staff,
    published_at timestamptz NOT NULL,
    UNIQUE (flow_id, number)
);
ALTER TABLE flows ADD FOREIGN KEY (live_version_id) REFERENCES flow_versions;

-- A conversation with the bot, or a request; both can be passed to a person.
CREATE TABLE conversations (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    token_hash      bytea NOT NULL UNIQUE, -- what the customer holds
    kind            text NOT NULL CHECK (kind IN ('chat', 'request')),
    asker           text NOT NULL,
    customer_id     bigint REFERENCES customers,
    flow_version_id bigint REFERENCES flow_versions,
    state           jsonb,
    status          text NOT NULL CHECK (status IN ('bot', 'waiting', 'with_agent', 'closed')),
    reference       text UNIQUE, -- H-0012 or R-0012, from when a person is asked for
    subject         text NOT NULL DEFAULT '',
    address         text NOT NULL DEFAULT '',
    team            text NOT NULL DEFAULT '',
    began_at        timestamptz NOT NULL,
    waiting_since   timestamptz,
    agent_id        bigint REFERENCES staff,
    accepted_at     timestamptz,
    answered_at     timestamptz,
    closed_at       timestamptz,
    rehearsal       boolean NOT NULL DEFAULT false -- by staff: never counted, never in a queue
);
CREATE INDEX conversations_waiting ON conversations (status, waiting_since);
CREATE SEQUENCE contact_numbers AS integer;

CREATE TABLE messages (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    conversation_id bigint NOT NULL REFERENCES conversations,
    at              timestamptz NOT NULL,
    speaker         text NOT NULL CHECK (speaker IN ('customer', 'bot', 'agent', 'notice')),
    staff_id        bigint REFERENCES staff,
    text            text NOT NULL,
    cards           jsonb, -- articles shown with it
    choices         text[]
);
CREATE INDEX messages_conversation ON messages (conversation_id, id);

-- Evidence -----------------------------------------------------------------

CREATE TABLE evidence (
    id      bigint GENERATED ALWAYS AS IDENTITY,
    at      timestamptz NOT NULL,
    asker   text NOT NULL,
    channel text NOT NULL,
    kind    text NOT NULL,
    text    text NOT NULL DEFAULT '',
    ref     text NOT NULL DEFAULT '',
    refs    text[] NOT NULL DEFAULT '{}',
    source  text NOT NULL DEFAULT '',
    PRIMARY KEY (id, at)
) PARTITION BY RANGE (at);
CREATE INDEX evidence_asker ON evidence (asker, at);
CREATE INDEX evidence_at ON evidence (at);
CREATE TABLE evidence_rest PARTITION OF evidence DEFAULT;

CREATE TABLE votes (
    revision_id bigint NOT NULL REFERENCES revisions,
    asker       text NOT NULL,
    helped      boolean NOT NULL,
    comment     text NOT NULL DEFAULT '',
    at          timestamptz NOT NULL,
    PRIMARY KEY (revision_id, asker)
);

CREATE TABLE settings (
    name  text PRIMARY KEY,
    value jsonb NOT NULL
);

-- What may never change ----------------------------------------------------

-- +goose StatementBegin
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% cannot be changed or removed', TG_TABLE_NAME;
END $$;
-- +goose StatementEnd
CREATE TRIGGER revisions_immutable BEFORE UPDATE OR DELETE ON revisions FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER trail_immutable BEFORE UPDATE OR DELETE ON trail FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER evidence_immutable BEFORE UPDATE OR DELETE ON evidence FOR EACH ROW EXECUTE FUNCTION refuse_change();

-- +goose Down
DROP TABLE settings, votes, evidence, messages, conversations, flow_versions, flows, trail, revision_files,
    files, revisions, editions, articles, categories, sign_in_failures, sessions, customers, staff, teams CASCADE;
DROP SEQUENCE article_numbers, contact_numbers;
DROP FUNCTION refuse_change;
