-- +goose Up

-- Review paths -------------------------------------------------------------------

CREATE TABLE paths (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text NOT NULL UNIQUE,
    gates      jsonb NOT NULL,
    standard   boolean NOT NULL DEFAULT false, -- of every category that names none
    retired_at timestamptz
);
CREATE UNIQUE INDEX paths_standard ON paths (standard) WHERE standard;

ALTER TABLE categories
    ADD COLUMN path_id    bigint REFERENCES paths, -- none: its parent's
    ADD COLUMN steward_id bigint REFERENCES staff; -- likewise

-- One round of an edition through the path it entered, as the path was then.
CREATE TABLE reviews (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    edition_id  bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    path_id     bigint REFERENCES paths,
    path        jsonb NOT NULL,                 -- its name and gates
    passed      bigint[] NOT NULL DEFAULT '{}', -- who let it pass, in the order of the gates
    authors     bigint[] NOT NULL DEFAULT '{}',
    gate        text NOT NULL DEFAULT '',       -- the name of the one it stands before, '' past all
    gate_since  timestamptz NOT NULL,
    overdue_at  timestamptz,
    assignee_id bigint REFERENCES staff,
    began_by    bigint NOT NULL REFERENCES staff,
    began_at    timestamptz NOT NULL,
    stuck_told  boolean NOT NULL DEFAULT false, -- administrators know that nobody can pass its gate
    ended_at    timestamptz
);
CREATE UNIQUE INDEX reviews_open ON reviews (edition_id) WHERE ended_at IS NULL;
CREATE INDEX reviews_edition ON reviews (edition_id, id);

-- What was decided at its gates; a change to the text clears what was passed before.
CREATE TABLE decisions (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    review_id  bigint NOT NULL REFERENCES reviews ON DELETE CASCADE,
    gate       text NOT NULL,
    staff_id   bigint NOT NULL REFERENCES staff,
    at         timestamptz NOT NULL,
    action     text NOT NULL CHECK (action IN ('approve', 'send_back', 'hand_on')),
    revision   integer NOT NULL,
    note       text NOT NULL DEFAULT '',
    cleared_at timestamptz
);
CREATE INDEX decisions_review ON decisions (review_id, id);

-- What was in review or approved before paths were configurable passed one reviewer.
INSERT INTO reviews (edition_id, path, passed, authors, gate, gate_since, began_by, began_at)
    SELECT id, '{"name": "One reviewer", "gates": [{"name": "Review", "roles": ["reviewer"], "team": "", "people": [], "steward": false, "own": false, "other": false, "note": false, "overdue_hours": 48}]}',
        CASE state WHEN 'approved' THEN ARRAY[0::bigint] ELSE '{}' END, ARRAY[writer_id, coalesce(submitter_id, writer_id)],
        CASE state WHEN 'approved' THEN '' ELSE 'Review' END, coalesce(submitted_at, written_at), coalesce(submitter_id, writer_id), coalesce(submitted_at, written_at)
    FROM editions WHERE state IN ('in_review', 'approved');

-- Publishing ------------------------------------------------------------------------

CREATE TABLE batches (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name      text NOT NULL,
    note      text NOT NULL DEFAULT '', -- for the change log
    made_by   bigint NOT NULL REFERENCES staff,
    made_at   timestamptz NOT NULL,
    state     text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'scheduled', 'published', 'undone', 'given_up')),
    ended_by  bigint REFERENCES staff,
    ended_at  timestamptz
);

CREATE TABLE batch_members (
    batch_id    bigint NOT NULL REFERENCES batches ON DELETE CASCADE,
    edition_id  bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    before_id   bigint REFERENCES revisions, -- what was live when it was published
    before_when timestamptz,                 -- since when that had been live
    after_id    bigint REFERENCES revisions, -- what became live
    PRIMARY KEY (batch_id, edition_id)
);
CREATE INDEX batch_members_edition ON batch_members (edition_id);

ALTER TABLE editions ADD COLUMN batch_id bigint REFERENCES batches;

-- What is to happen by itself, once, on whichever instance finds it due first.
CREATE TABLE schedules (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind       text NOT NULL CHECK (kind IN ('publish', 'withdraw')),
    due_at     timestamptz NOT NULL,
    wall       text NOT NULL, -- as it was asked for, on the wall of that zone
    zone       text NOT NULL,
    edition_id bigint REFERENCES editions ON DELETE CASCADE,
    batch_id   bigint REFERENCES batches ON DELETE CASCADE,
    audience   text NOT NULL DEFAULT '',
    note       text NOT NULL DEFAULT '',
    staff_id   bigint NOT NULL REFERENCES staff,
    made_at    timestamptz NOT NULL,
    state      text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'done', 'failed', 'dropped')),
    ended_at   timestamptz,
    fault      text NOT NULL DEFAULT '',
    CHECK (num_nonnulls(edition_id, batch_id) = 1)
);
CREATE INDEX schedules_due ON schedules (due_at) WHERE state = 'waiting';
CREATE INDEX schedules_edition ON schedules (edition_id);

ALTER TABLE sites ADD COLUMN zone text NOT NULL DEFAULT ''; -- '' for the instance's

ALTER TABLE articles
    ADD COLUMN withdrawn_at     timestamptz,
    ADD COLUMN withdrawn_to     bigint REFERENCES articles, -- where its readers are sent
    ADD COLUMN withdrawn_notice text NOT NULL DEFAULT '',   -- or what they are told
    ADD COLUMN checked_on       date,                       -- when it was last confirmed true
    ADD COLUMN recheck_by_rule  boolean NOT NULL DEFAULT true, -- by kind and use; else as somebody set it
    ADD COLUMN recheck_fixed    boolean NOT NULL DEFAULT false; -- the next date was set by hand
UPDATE articles SET recheck_by_rule = recheck_days = 180;

-- What customers are told changed.
CREATE TABLE changes (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    edition_id  bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    revision_id bigint NOT NULL REFERENCES revisions,
    at          timestamptz NOT NULL,
    note        text NOT NULL DEFAULT ''
);
CREATE INDEX changes_edition ON changes (edition_id, id);
INSERT INTO changes (edition_id, revision_id, at) SELECT id, live_revision_id, live_since FROM editions WHERE live_revision_id IS NOT NULL;
UPDATE articles a SET checked_on = e.live_since::date FROM editions e WHERE e.article_id = a.id AND e.language = 'en' AND e.live_since IS NOT NULL;

-- What is said of a text -----------------------------------------------------------

CREATE TABLE comments (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    edition_id  bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    parent_id   bigint REFERENCES comments ON DELETE CASCADE,
    staff_id    bigint NOT NULL REFERENCES staff,
    at          timestamptz NOT NULL,
    text        text NOT NULL DEFAULT '',
    anchor      jsonb,      -- the passage; none for a reply
    suggestion  text,       -- other words for it
    accepted_at timestamptz,
    resolved_at timestamptz,
    resolved_by bigint REFERENCES staff
);
CREATE INDEX comments_edition ON comments (edition_id, id);

-- What readers said of a live text, open until somebody answered it.
CREATE TABLE feedback (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    revision_id bigint NOT NULL REFERENCES revisions,
    edition_id  bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    asker       text NOT NULL,
    customer_id bigint REFERENCES customers,
    at          timestamptz NOT NULL,
    helped      boolean NOT NULL,
    text        text NOT NULL,
    anchor      jsonb, -- the passage it is about, where the reader marked one
    answer      text NOT NULL DEFAULT '' CHECK (answer IN ('', 'mended', 'no_fault', 'passed_on')),
    answer_note text NOT NULL DEFAULT '', -- what the reader is told
    mended_in   integer,                  -- the revision
    for_id      bigint REFERENCES staff,  -- whose it is, when it was passed on
    answered_by bigint REFERENCES staff,
    answered_at timestamptz
);
CREATE INDEX feedback_edition ON feedback (edition_id, id);
CREATE UNIQUE INDEX feedback_open ON feedback (revision_id, asker) WHERE answer = '';
CREATE INDEX feedback_waiting ON feedback (edition_id) WHERE answer IN ('', 'passed_on');

CREATE TABLE followers (
    article_id bigint NOT NULL REFERENCES articles ON DELETE CASCADE,
    staff_id   bigint NOT NULL REFERENCES staff,
    PRIMARY KEY (article_id, staff_id)
);

-- Addresses outside that texts point to, and whether they answer.
CREATE TABLE outside_links (
    address    text PRIMARY KEY,
    checked_at timestamptz,
    status     integer NOT NULL DEFAULT 0, -- of HTTP, 0 while unknown
    fault      text NOT NULL DEFAULT ''    -- in words; '' while it answers
);
CREATE TABLE outside_uses (
    edition_id bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
    address    text NOT NULL REFERENCES outside_links,
    PRIMARY KEY (edition_id, address)
);
CREATE INDEX outside_uses_address ON outside_uses (address);

-- Telling people -----------------------------------------------------------------------

CREATE TABLE news (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    staff_id   bigint NOT NULL REFERENCES staff,
    at         timestamptz NOT NULL,
    kind       text NOT NULL,
    text       text NOT NULL,
    path       text NOT NULL DEFAULT '', -- where in the staff interface it leads
    shown      boolean NOT NULL,         -- in the list of news
    by_mail    boolean NOT NULL,
    read_at    timestamptz,
    mailed_at  timestamptz
);
CREATE INDEX news_staff ON news (staff_id, id);
CREATE INDEX news_unread ON news (staff_id) WHERE read_at IS NULL AND shown;
CREATE INDEX news_to_mail ON news (staff_id, at) WHERE by_mail AND mailed_at IS NULL;

CREATE TABLE news_wishes (
    staff_id bigint PRIMARY KEY REFERENCES staff,
    off      text[] NOT NULL DEFAULT '{}',      -- kinds not shown
    no_mail  text[] NOT NULL DEFAULT '{}',      -- kinds not mailed
    rhythm   text NOT NULL DEFAULT 'soon' CHECK (rhythm IN ('soon', 'daily', 'never'))
);

-- Mail that is to be sent, once.
CREATE TABLE mails (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    made_at timestamptz NOT NULL,
    address text NOT NULL,
    subject text NOT NULL,
    body    text NOT NULL,
    sent_at timestamptz,
    tries   integer NOT NULL DEFAULT 0,
    next_at timestamptz NOT NULL,
    fault   text NOT NULL DEFAULT ''
);
CREATE INDEX mails_waiting ON mails (next_at) WHERE sent_at IS NULL;

-- When chores were last done, so that they are done once by all instances together.
CREATE TABLE chores (
    name    text PRIMARY KEY,
    done_at timestamptz NOT NULL
);

-- The trail --------------------------------------------------------------------------

ALTER TABLE trail
    ALTER COLUMN staff_id DROP NOT NULL,  -- nobody: the program, at a time that somebody set
    ADD COLUMN category_id bigint;        -- kept when the category is gone
CREATE INDEX trail_category ON trail (category_id, id) WHERE category_id IS NOT NULL;
CREATE INDEX trail_at ON trail (at);
CREATE TRIGGER revisions_whole BEFORE TRUNCATE ON revisions FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER trail_whole BEFORE TRUNCATE ON trail FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();

-- +goose Down
DROP TRIGGER trail_whole ON trail;
DROP TRIGGER revisions_whole ON revisions;
DROP INDEX trail_at, trail_category;
ALTER TABLE trail DROP COLUMN category_id;
DROP TABLE chores, mails, news_wishes, news, outside_uses, outside_links, followers, feedback, comments, changes, schedules;
ALTER TABLE articles DROP COLUMN recheck_fixed, DROP COLUMN recheck_by_rule, DROP COLUMN checked_on, DROP COLUMN withdrawn_notice,
    DROP COLUMN withdrawn_to, DROP COLUMN withdrawn_at;
ALTER TABLE sites DROP COLUMN zone;
ALTER TABLE editions DROP COLUMN batch_id;
DROP TABLE batch_members, batches, decisions, reviews;
ALTER TABLE categories DROP COLUMN steward_id, DROP COLUMN path_id;
DROP TABLE paths;
