-- +goose Up
-- What the bot told word for word stands with its message; flows can go through a review path.
ALTER TABLE messages ADD COLUMN told jsonb;
ALTER TABLE flows DROP COLUMN base;
ALTER TABLE flows ADD COLUMN path_id bigint REFERENCES paths;
ALTER TABLE flows ADD COLUMN state text NOT NULL DEFAULT 'drafting';

-- +goose Down
ALTER TABLE flows DROP COLUMN state, DROP COLUMN path_id;
ALTER TABLE flows ADD COLUMN base int NOT NULL DEFAULT 0;
ALTER TABLE messages DROP COLUMN told;
