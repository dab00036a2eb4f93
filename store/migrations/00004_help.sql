-- +goose Up

-- What a help centre sets of its search -------------------------------------------

ALTER TABLE sites
    ADD COLUMN weights     real[] NOT NULL DEFAULT '{}', -- of title, keywords, headings, body; none for the standard
    ADD COLUMN reopen_days integer NOT NULL DEFAULT 14 CHECK (reopen_days BETWEEN 0 AND 365);

CREATE TABLE synonyms (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id bigint NOT NULL REFERENCES sites ON DELETE CASCADE,
    rule    text NOT NULL, -- "night rate, off-peak", or "app => member app"
    made_by bigint NOT NULL REFERENCES staff,
    made_at timestamptz NOT NULL,
    UNIQUE (site_id, rule)
);

CREATE TABLE pins (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    bigint NOT NULL REFERENCES sites ON DELETE CASCADE,
    words      text NOT NULL,
    article_id bigint NOT NULL REFERENCES articles ON DELETE CASCADE,
    bury       boolean NOT NULL DEFAULT false,
    until      date, -- the last day it holds; none for ever
    made_by    bigint NOT NULL REFERENCES staff,
    made_at    timestamptz NOT NULL
);
CREATE INDEX pins_site ON pins (site_id);

-- Questions of which it is known what answers them.
CREATE TABLE judged (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id  bigint NOT NULL REFERENCES sites ON DELETE CASCADE,
    question text NOT NULL,
    right_articles integer[] NOT NULL, -- their numbers
    source   text NOT NULL CHECK (source IN ('ledger', 'confirmed', 'by_hand')),
    made_by  bigint REFERENCES staff,
    made_at  timestamptz NOT NULL,
    dropped  boolean NOT NULL DEFAULT false, -- left out by hand: not gathered again
    UNIQUE (site_id, question)
);

-- How well the search did on the judged questions, whenever something went live.
CREATE TABLE search_reports (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id bigint NOT NULL REFERENCES sites ON DELETE CASCADE,
    at      timestamptz NOT NULL,
    why     text NOT NULL,
    quality jsonb NOT NULL,
    places  jsonb NOT NULL -- of the first right answer, by question
);
CREATE INDEX search_reports_site ON search_reports (site_id, id);

-- Requests ----------------------------------------------------------------------------

-- The kinds of request that a help centre's form offers, with their fields.
CREATE TABLE request_kinds (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id     bigint NOT NULL REFERENCES sites ON DELETE CASCADE,
    name        text NOT NULL,
    description text NOT NULL DEFAULT '',
    team        text NOT NULL DEFAULT '',
    fields      jsonb NOT NULL DEFAULT '[]',
    position    integer NOT NULL DEFAULT 0,
    retired_at  timestamptz,
    UNIQUE (site_id, name)
);

ALTER TABLE conversations
    ADD COLUMN site_id     bigint REFERENCES sites ON DELETE SET NULL,
    ADD COLUMN kind_name   text NOT NULL DEFAULT '', -- of the request, as it was called
    ADD COLUMN answers     jsonb NOT NULL DEFAULT '[]'; -- what the form's fields held
CREATE INDEX conversations_customer ON conversations (customer_id, id) WHERE customer_id IS NOT NULL;

-- What came with a request or a reply.
CREATE TABLE request_files (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    conversation_id bigint NOT NULL REFERENCES conversations ON DELETE CASCADE,
    message_id      bigint REFERENCES messages ON DELETE CASCADE,
    name            text NOT NULL,
    media_type      text NOT NULL,
    bytes           bytea NOT NULL,
    size            integer NOT NULL,
    at              timestamptz NOT NULL
);
CREATE INDEX request_files_conversation ON request_files (conversation_id, id);

-- Notices of known problems ---------------------------------------------------------

ALTER TABLE known_problems
    ADD COLUMN notice     text NOT NULL DEFAULT '', -- what customers are told; '' shows nothing
    ADD COLUMN audience   text NOT NULL DEFAULT 'everyone',
    ADD COLUMN article_id bigint REFERENCES articles ON DELETE SET NULL; -- that says more

-- Links in mail are signed with this.
CREATE TABLE secrets (
    name  text PRIMARY KEY,
    value bytea NOT NULL
);

CREATE INDEX evidence_asked ON evidence (at) WHERE kind = 'asked';

-- +goose Down
DROP INDEX evidence_asked;
DROP TABLE secrets;
ALTER TABLE known_problems DROP COLUMN article_id, DROP COLUMN audience, DROP COLUMN notice;
DROP TABLE request_files;
DROP INDEX conversations_customer;
ALTER TABLE conversations DROP COLUMN answers, DROP COLUMN kind_name, DROP COLUMN site_id;
DROP TABLE request_kinds, search_reports, judged, pins, synonyms;
ALTER TABLE sites DROP COLUMN reopen_days, DROP COLUMN weights;
