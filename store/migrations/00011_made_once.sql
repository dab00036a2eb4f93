-- +goose Up

-- What was made under a key that its client made: the same again is not made again. Ends after two days.
CREATE TABLE made (
	key bytea PRIMARY KEY,
	at timestamptz NOT NULL,
	result jsonb
);
CREATE INDEX made_at ON made (at);

-- +goose Down
DROP TABLE made;
