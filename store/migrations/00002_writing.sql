-- +goose Up

-- Help centres ---------------------------------------------------------------

-- A help centre of its own over parts of one library, known by the host it is
-- asked for under; the main one answers every other host.
CREATE TABLE sites (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name          text NOT NULL UNIQUE,
    main          boolean NOT NULL DEFAULT false,
    hosts         text[] NOT NULL DEFAULT '{}',
    brand_colour  text NOT NULL DEFAULT '#1D5140',
    accent_colour text NOT NULL DEFAULT '#98301F',
    logo          text REFERENCES files,
    languages     text[] NOT NULL DEFAULT '{en}', -- the first is the source's
    avoided_words text[] NOT NULL DEFAULT '{}'    -- "word = instead", or a word alone
);
CREATE UNIQUE INDEX sites_main ON sites (main) WHERE main;

-- The categories a site shows, with everything below them; none means all.
CREATE TABLE site_categories (
    site_id     bigint NOT NULL REFERENCES sites ON DELETE CASCADE,
    category_id bigint NOT NULL REFERENCES categories ON DELETE CASCADE,
    PRIMARY KEY (site_id, category_id)
);

-- Writing ----------------------------------------------------------------------

CREATE TABLE templates (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text NOT NULL UNIQUE,
    kind       text NOT NULL,
    purpose    text NOT NULL DEFAULT '',
    sections   jsonb NOT NULL,
    retired_at timestamptz
);

CREATE TABLE known_problems (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name      text NOT NULL,
    opened_at timestamptz NOT NULL,
    solved_at timestamptz
);

ALTER TABLE categories ADD COLUMN picture text REFERENCES files;

ALTER TABLE articles
    ADD COLUMN key              text NOT NULL DEFAULT gen_random_uuid()::text, -- the same in every export
    ADD COLUMN sections         jsonb NOT NULL DEFAULT '[]', -- its template's, as they were when it was begun
    ADD COLUMN recheck_days     integer NOT NULL DEFAULT 180 CHECK (recheck_days BETWEEN 1 AND 3660),
    ADD COLUMN recheck_on       date NOT NULL DEFAULT (now() + interval '180 days')::date,
    ADD COLUMN interim_until    date,
    ADD COLUMN known_problem_id bigint REFERENCES known_problems;
CREATE UNIQUE INDEX articles_key ON articles (key);
CREATE INDEX articles_owner ON articles (owner_id);
CREATE INDEX articles_recheck ON articles (recheck_on);

ALTER TABLE editions
    ADD COLUMN named              text NOT NULL DEFAULT '', -- the title and the keywords, for finding
    ADD COLUMN text               text NOT NULL DEFAULT '', -- the words of the body, for finding
    ADD COLUMN source_revision_id bigint REFERENCES revisions; -- of the source, that this edition says the same as
ALTER TABLE editions
    ADD COLUMN found_by_name tsvector GENERATED ALWAYS AS (
        to_tsvector('simple', named)) STORED,
    ADD COLUMN found_by_text tsvector GENERATED ALWAYS AS (
        to_tsvector('simple', left(text, 400000))) STORED;
CREATE INDEX editions_by_name ON editions USING gin (found_by_name);
CREATE INDEX editions_by_text ON editions USING gin (found_by_text);
CREATE INDEX editions_written ON editions (written_at);
-- Lists look at these of every edition, and at the texts of none.
CREATE INDEX editions_listed ON editions (article_id, language) INCLUDE (state, live_revision_id, written_at, title);
UPDATE editions SET text = regexp_replace(body, '<[^>]+>', ' ', 'g'), named = title || E'\n' || array_to_string(keywords, E'\n');

ALTER TABLE revisions ADD COLUMN note text NOT NULL DEFAULT ''; -- why it was made, where nobody submitted it

-- The saves of a working copy, thinned as they age and dropped after 30 days.
CREATE TABLE autosaves (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    edition_id bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    at         timestamptz NOT NULL,
    staff_id   bigint NOT NULL REFERENCES staff,
    title      text NOT NULL,
    body       text NOT NULL
);
CREATE INDEX autosaves_edition ON autosaves (edition_id, at);

-- The browser tabs in which somebody is writing an edition.
CREATE TABLE holds (
    edition_id bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    tab        text NOT NULL,
    staff_id   bigint NOT NULL REFERENCES staff,
    since      timestamptz NOT NULL,
    seen_at    timestamptz NOT NULL,
    PRIMARY KEY (edition_id, tab)
);

-- What the margin said of a text and its writer set aside, with the reason.
CREATE TABLE dismissals (
    edition_id bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    key        text NOT NULL,
    reason     text NOT NULL,
    staff_id   bigint NOT NULL REFERENCES staff,
    at         timestamptz NOT NULL,
    PRIMARY KEY (edition_id, key)
);

-- Which articles a working copy points to.
CREATE TABLE links (
    edition_id bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    number     integer NOT NULL, -- of the article pointed to, whether it is there or not
    PRIMARY KEY (edition_id, number)
);
CREATE INDEX links_number ON links (number);
INSERT INTO links
    SELECT DISTINCT e.id, m[1]::integer
    FROM editions e, regexp_matches(e.body, '/help/articles/A-(\d{4,9})', 'g') m ON CONFLICT DO NOTHING;

-- Smaller copies of pictures.
CREATE TABLE file_widths (
    file_hash text NOT NULL REFERENCES files,
    width     integer NOT NULL,
    bytes     bytea NOT NULL,
    PRIMARY KEY (file_hash, width)
);

-- Work on many articles at once, taken by whichever instance is free.
CREATE TABLE jobs (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind       text NOT NULL,
    staff_id   bigint NOT NULL REFERENCES staff,
    asked_at   timestamptz NOT NULL,
    input      jsonb NOT NULL,
    file       bytea,
    state      text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'done', 'failed')),
    total      integer NOT NULL DEFAULT 0,
    done       integer NOT NULL DEFAULT 0,
    result     jsonb NOT NULL DEFAULT '{}',
    ended_at   timestamptz
);
CREATE INDEX jobs_waiting ON jobs (id) WHERE state IN ('waiting', 'running');

-- What a job changed of each article, so that it can be undone.
CREATE TABLE job_changes (
    job_id     bigint NOT NULL REFERENCES jobs,
    article_id bigint NOT NULL REFERENCES articles,
    before     jsonb NOT NULL,
    after      jsonb NOT NULL,
    undone     boolean NOT NULL DEFAULT false,
    PRIMARY KEY (job_id, article_id)
);

CREATE INDEX evidence_opened ON evidence (ref) WHERE kind = 'opened';
CREATE INDEX votes_revision ON votes (revision_id);

-- +goose Down
DROP INDEX votes_revision, evidence_opened;
DROP TABLE job_changes, jobs, file_widths, links, dismissals, holds, autosaves;
ALTER TABLE revisions DROP COLUMN note;
DROP INDEX editions_written, editions_listed;
ALTER TABLE editions DROP COLUMN found_by_text, DROP COLUMN found_by_name, DROP COLUMN source_revision_id, DROP COLUMN text, DROP COLUMN named;
ALTER TABLE articles DROP COLUMN known_problem_id, DROP COLUMN interim_until, DROP COLUMN recheck_on, DROP COLUMN recheck_days,
    DROP COLUMN sections, DROP COLUMN key;
ALTER TABLE categories DROP COLUMN picture;
DROP TABLE known_problems, templates, site_categories, sites;
