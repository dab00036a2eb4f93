-- +goose Up

-- What a mail is for (so that confirmations to an address can be counted), and when it was given up.
ALTER TABLE mails ADD COLUMN kind text NOT NULL DEFAULT '', ADD COLUMN failed_at timestamptz;
UPDATE mails SET failed_at = next_at WHERE sent_at IS NULL AND tries >= 12;
CREATE INDEX mails_address ON mails (lower(address), made_at);

-- +goose Down
DROP INDEX mails_address;
ALTER TABLE mails DROP COLUMN failed_at, DROP COLUMN kind;
