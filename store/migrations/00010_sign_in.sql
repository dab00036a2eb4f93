-- +goose Up

-- Attempts to sign in that were not right, or are being looked at. They end after a day.
DROP TABLE sign_in_failures;
CREATE TABLE sign_in_failures (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	account text NOT NULL,
	network text NOT NULL,
	browser bytea,
	at timestamptz NOT NULL
);
CREATE INDEX sign_in_failures_account ON sign_in_failures (account, at);
CREATE INDEX sign_in_failures_network ON sign_in_failures (network, at);

-- Browsers that signed in to an account before: they wait for nobody but themselves.
CREATE TABLE known_browsers (
	token_hash bytea NOT NULL,
	account text NOT NULL,
	seen_at timestamptz NOT NULL,
	PRIMARY KEY (token_hash, account)
);

-- Links to set a new password, each for one use.
CREATE TABLE password_links (
	token_hash bytea PRIMARY KEY,
	staff_id bigint REFERENCES staff,
	customer_id bigint REFERENCES customers ON DELETE CASCADE,
	made_at timestamptz NOT NULL,
	expires_at timestamptz NOT NULL,
	CHECK ((staff_id IS NULL) <> (customer_id IS NULL))
);

ALTER TABLE customers ADD COLUMN disabled_at timestamptz;

-- +goose Down
ALTER TABLE customers DROP COLUMN disabled_at;
DROP TABLE password_links;
DROP TABLE known_browsers;
DROP TABLE sign_in_failures;
CREATE TABLE sign_in_failures (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	subject text NOT NULL,
	at timestamptz NOT NULL
);
CREATE INDEX sign_in_failures_recent ON sign_in_failures (subject, at);
