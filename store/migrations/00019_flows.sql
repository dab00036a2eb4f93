-- +goose Up
-- Flows are written as texts, several of them, each with an owner and the entries at which it meets customers.
ALTER TABLE flows ADD COLUMN name text NOT NULL DEFAULT '';
ALTER TABLE flows ADD COLUMN language text NOT NULL DEFAULT 'en';
ALTER TABLE flows ADD COLUMN owner_id bigint REFERENCES staff;
ALTER TABLE flows ADD COLUMN text_id bigint REFERENCES texts;
ALTER TABLE flows ADD COLUMN draft text NOT NULL DEFAULT '';
ALTER TABLE flows ADD COLUMN version int NOT NULL DEFAULT 1;
ALTER TABLE flows ADD COLUMN base int NOT NULL DEFAULT 0;
ALTER TABLE flows ADD COLUMN writer_id bigint REFERENCES staff;
ALTER TABLE flows ADD COLUMN written_at timestamptz;
ALTER TABLE flows ADD COLUMN ended_at timestamptz;
ALTER TABLE flows ADD COLUMN faults int NOT NULL DEFAULT 0;
ALTER TABLE flows ADD COLUMN faults_since timestamptz;
ALTER TABLE flow_versions ADD COLUMN source text NOT NULL DEFAULT '';
ALTER TABLE flow_versions ADD COLUMN note text NOT NULL DEFAULT '';

-- +goose StatementBegin
DO $$
DECLARE
    f record;
    t bigint;
BEGIN
    FOR f IN SELECT flows.id, v.script, v.published_by, v.published_at, v.number
        FROM flows LEFT JOIN flow_versions v ON v.id = flows.live_version_id LOOP
        INSERT INTO texts (kind) VALUES ('flow') RETURNING id INTO t;
        UPDATE flows SET text_id = t, name = coalesce(nullif(f.script ->> 'name', ''), slug),
            language = coalesce(nullif(f.script ->> 'language', ''), 'en'), owner_id = f.published_by,
            writer_id = f.published_by, written_at = f.published_at, base = coalesce(f.number, 0) WHERE id = f.id;
    END LOOP;
END $$;
-- +goose StatementEnd

CREATE TABLE flow_entries (
    id bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY,
    flow_id bigint NOT NULL REFERENCES flows ON DELETE CASCADE,
    site_id bigint REFERENCES sites ON DELETE CASCADE,
    channel text NOT NULL DEFAULT 'chat',
    page text NOT NULL DEFAULT '',
    group_key text NOT NULL DEFAULT '',
    hours text NOT NULL DEFAULT ''
);
CREATE INDEX flow_entries_flow ON flow_entries (flow_id);
INSERT INTO flow_entries (flow_id) SELECT id FROM flows WHERE slug = 'front-door';

-- Every move of a conversation, without a word of the customer's; counted by day for the figures of a turn.
CREATE TABLE flow_moves (
    id bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY,
    conversation_id bigint NOT NULL,
    flow_version_id bigint NOT NULL,
    from_turn text NOT NULL,
    to_turn text NOT NULL,
    why text NOT NULL,
    at timestamptz NOT NULL
);
CREATE INDEX flow_moves_conversation ON flow_moves (conversation_id, id);
CREATE INDEX flow_moves_at ON flow_moves (at);
CREATE TABLE flow_move_days (
    flow_version_id bigint NOT NULL,
    day date NOT NULL,
    from_turn text NOT NULL,
    to_turn text NOT NULL,
    why text NOT NULL,
    moves bigint NOT NULL,
    PRIMARY KEY (flow_version_id, day, from_turn, to_turn, why)
);

-- When a team or a help centre is open. Neither a team nor a site: what holds for all.
CREATE TABLE opening_hours (
    id bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY,
    team_id bigint UNIQUE REFERENCES teams ON DELETE CASCADE,
    site_id bigint UNIQUE REFERENCES sites ON DELETE CASCADE,
    zone text NOT NULL DEFAULT '',
    always boolean NOT NULL DEFAULT true,
    week jsonb NOT NULL DEFAULT '[[],[],[],[],[],[],[]]',
    away_until timestamptz,
    away_words jsonb NOT NULL DEFAULT '{}',
    busy_words jsonb NOT NULL DEFAULT '{}',
    closed_words jsonb NOT NULL DEFAULT '{}',
    version int NOT NULL DEFAULT 1,
    CHECK (team_id IS NULL OR site_id IS NULL)
);
CREATE TABLE opening_days (
    id bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY,
    hours_id bigint REFERENCES opening_hours ON DELETE CASCADE,
    uid text NOT NULL,
    name text NOT NULL,
    begins text NOT NULL,
    ends text NOT NULL,
    rule text NOT NULL DEFAULT '',
    except_days text[] NOT NULL DEFAULT '{}',
    also_days text[] NOT NULL DEFAULT '{}',
    opens boolean NOT NULL DEFAULT false
);
CREATE UNIQUE INDEX opening_days_uid ON opening_days (coalesce(hours_id, 0), uid);

-- Everybody is here, and holds as many chats as come, until somebody says otherwise.
ALTER TABLE staff ADD COLUMN here boolean NOT NULL DEFAULT true;
ALTER TABLE staff ADD COLUMN chats int NOT NULL DEFAULT 0;

-- Where a chat goes on about another message than before it is kept with the message.
ALTER TABLE messages ADD COLUMN link jsonb;
ALTER TABLE conversations ADD COLUMN brief text NOT NULL DEFAULT '';
ALTER TABLE conversations ADD COLUMN language text NOT NULL DEFAULT '';

-- What counts contacts and returns as one need finds all it is split by in the index.
DROP INDEX questions_returned;
CREATE INDEX questions_returned ON questions (generation, closed_at)
    INCLUDE (returned_in, returned_at, channels, site, category, flow, language) WHERE outcome = 'returned';

-- +goose Down
DROP INDEX questions_returned;
CREATE INDEX questions_returned ON questions (generation, closed_at) INCLUDE (returned_in, returned_at)
    WHERE outcome = 'returned';
ALTER TABLE conversations DROP COLUMN language, DROP COLUMN brief;
ALTER TABLE messages DROP COLUMN link;
ALTER TABLE staff DROP COLUMN chats, DROP COLUMN here;
DROP TABLE opening_days;
DROP TABLE opening_hours;
DROP TABLE flow_move_days;
DROP TABLE flow_moves;
DROP TABLE flow_entries;
ALTER TABLE flow_versions DROP COLUMN note, DROP COLUMN source;
ALTER TABLE flows DROP COLUMN faults_since, DROP COLUMN faults, DROP COLUMN ended_at, DROP COLUMN written_at,
    DROP COLUMN writer_id, DROP COLUMN base, DROP COLUMN version, DROP COLUMN draft, DROP COLUMN text_id,
    DROP COLUMN owner_id, DROP COLUMN language, DROP COLUMN name;
