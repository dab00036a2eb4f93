-- +goose Up

-- Askers whose evidence was added to since it was folded last: kept in the transaction of adding it.
CREATE TABLE evidence_marks (
    id    bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    asker text NOT NULL, -- the key
    items bigint[] NOT NULL,
    since timestamptz NOT NULL -- the earliest of the items
);

-- Everybody of whom there is evidence, under all keys that are linked.
CREATE TABLE askers (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name      text NOT NULL, -- the alphabetically first of the keys
    named     boolean NOT NULL DEFAULT false, -- has a key other than that of a browser
    looked    boolean NOT NULL DEFAULT false,
    reached   boolean NOT NULL DEFAULT false,
    traced_at timestamptz -- of the first trace of self-service
);
CREATE TABLE asker_keys (
    key      text PRIMARY KEY,
    asker_id bigint NOT NULL REFERENCES askers ON DELETE CASCADE
);
CREATE INDEX asker_keys_asker ON asker_keys (asker_id);

-- The fold of the evidence, a row for each question. A generation is counted with one return window and zone; the
-- live one stands until the next is whole.
CREATE TABLE questions (
    generation   integer NOT NULL,
    first_item   bigint NOT NULL, -- names it
    asker_id     bigint NOT NULL,
    sitting_at   timestamptz NOT NULL, -- when the sitting began in which it did
    began_at     timestamptz NOT NULL,
    last_at      timestamptz NOT NULL,
    closed_at    timestamptz NOT NULL, -- or will close, if nothing more happens
    outcome      text NOT NULL, -- as it is when everything has settled
    asked_again  boolean NOT NULL,
    returned_by  bigint NOT NULL, -- the contact that made it Returned; 0 for none
    returned_in  bigint NOT NULL, -- the first item of that contact's question
    returned_at  timestamptz, -- when that was
    contacts     text[] NOT NULL, -- references of contacts made in it
    refs         text[] NOT NULL, -- of contacts and threads that belong to it
    traced       boolean NOT NULL, -- there was a trace of self-service before its contact
    repeats      boolean NOT NULL, -- its asker has others
    answered_at  timestamptz, -- by an agent, first
    items        bigint[] NOT NULL, -- in order
    answers      bigint[] NOT NULL, -- of agents, that joined
    label_item   bigint NOT NULL, -- whose words it is called by
    typed_item   bigint NOT NULL, -- what was put in words last
    channels     text[] NOT NULL,
    site         text NOT NULL,
    language     text NOT NULL,
    groups       text[] NOT NULL,
    flow         text NOT NULL,
    category     text NOT NULL,
    team         text NOT NULL,
    article      integer NOT NULL, -- read last, else opened last; 0 for none
    helped_by    integer NOT NULL, -- of which they said last that it helped
    opened       integer[] NOT NULL,
    PRIMARY KEY (generation, first_item)
);
CREATE INDEX questions_closed ON questions (generation, closed_at, first_item);
CREATE INDEX questions_asker ON questions (asker_id, generation, began_at);
CREATE INDEX questions_article ON questions (generation, article, closed_at) WHERE article <> 0;
CREATE INDEX questions_contacts ON questions USING gin (contacts) WHERE contacts <> '{}';
CREATE INDEX questions_opened ON questions USING gin (opened) WHERE opened <> '{}';
CREATE INDEX questions_returned ON questions (generation, closed_at) INCLUDE (returned_in, returned_at)
    WHERE outcome = 'returned';
CREATE INDEX questions_returned_in ON questions (returned_in) WHERE returned_in <> 0;
CREATE INDEX questions_repeats ON questions (generation, closed_at) INCLUDE (asker_id, outcome) WHERE repeats;

-- How many there are of each kind, by the day on which they closed.
CREATE TABLE question_days (
    generation integer NOT NULL,
    day        date NOT NULL,
    outcome    text NOT NULL,
    site       text NOT NULL,
    channels   text NOT NULL, -- apart by commas
    category   text NOT NULL,
    flow       text NOT NULL,
    language   text NOT NULL,
    questions  integer NOT NULL,
    asked_again integer NOT NULL,
    traced      integer NOT NULL, -- contacts before which there was a trace of self-service
    PRIMARY KEY (generation, day, outcome, site, channels, category, flow, language)
);
CREATE TABLE article_days (
    generation integer NOT NULL,
    article    integer NOT NULL,
    day        date NOT NULL,
    outcome    text NOT NULL,
    questions  integer NOT NULL,
    PRIMARY KEY (generation, article, day, outcome)
);
CREATE TABLE article_outcomes (
    generation integer NOT NULL,
    article    integer NOT NULL,
    outcome    text NOT NULL,
    questions  integer NOT NULL,
    PRIMARY KEY (generation, article, outcome)
);
-- How often an article was opened and read, by day.
CREATE TABLE article_uses (
    article integer NOT NULL,
    day     date NOT NULL,
    opened  integer NOT NULL,
    read    integer NOT NULL,
    PRIMARY KEY (article, day)
);
CREATE INDEX article_uses_day ON article_uses (day);

-- What stands, and what is being counted.
CREATE TABLE question_counts (
    generation   integer PRIMARY KEY,
    window_hours integer NOT NULL,
    zone         text NOT NULL, -- in which its days begin
    live         boolean NOT NULL,
    done_to      bigint NOT NULL, -- the last asker that is counted in it
    begun_at     timestamptz NOT NULL
);
CREATE INDEX evidence_answers ON evidence (contact) WHERE kind = 'agent_answered' AND contact <> '';
-- What there was before is marked, to be folded.
INSERT INTO evidence_marks (asker, items, since)
SELECT asker, array_agg(id ORDER BY id), min(at) FROM evidence GROUP BY asker ORDER BY min(id);

-- +goose Down
DROP INDEX evidence_answers;
DROP TABLE question_counts, article_uses, article_outcomes, article_days, question_days, questions, asker_keys, askers,
    evidence_marks;
