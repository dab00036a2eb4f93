-- +goose Up
-- What the bot told word for word stands with its message; flows can go through a review path.
ALTER TABLE messages ADD COLUMN told jsonb;
ALTER TABLE flows DROP COLUMN base;
ALTER TABLE conversations DROP COLUMN language; -- the state of the conversation has it
ALTER TABLE flows ADD COLUMN path_id bigint REFERENCES paths;
ALTER TABLE flows ADD COLUMN state text NOT NULL DEFAULT 'drafting';
-- Those who come at once from one network do not wait for each other to be counted.
ALTER TABLE newcomers ADD COLUMN part integer NOT NULL DEFAULT 0;
ALTER TABLE newcomers DROP CONSTRAINT newcomers_pkey, ADD PRIMARY KEY (network, hour, part);

-- +goose Down
DELETE FROM newcomers;
ALTER TABLE newcomers DROP CONSTRAINT newcomers_pkey, DROP COLUMN part, ADD PRIMARY KEY (network, hour);
ALTER TABLE flows DROP COLUMN state, DROP COLUMN path_id;
ALTER TABLE flows ADD COLUMN base int NOT NULL DEFAULT 0;
ALTER TABLE conversations ADD COLUMN language text NOT NULL DEFAULT '';
ALTER TABLE messages DROP COLUMN told;
