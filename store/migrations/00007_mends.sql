-- +goose Up

-- The same save twice is one: an autosave knows the last save that it holds, and the version that it made.
ALTER TABLE autosaves ADD COLUMN save_key text NOT NULL DEFAULT '', ADD COLUMN version integer NOT NULL DEFAULT 0;

-- What a confirmation that an article is still true replaced, so that it can be taken back.
ALTER TABLE articles ADD COLUMN before_check jsonb;

-- A file that an agent chose for a reply stands without a message until the reply is sent.
ALTER TABLE request_files ADD COLUMN staff_id bigint REFERENCES staff;

-- An article that was made of a reply leads back to it.
ALTER TABLE articles ADD COLUMN conversation_id bigint REFERENCES conversations ON DELETE SET NULL;

-- Which version of a flow was running when somebody asked.
CREATE INDEX conversations_asker ON conversations (asker, began_at) WHERE flow_version_id IS NOT NULL;

-- Articles that were brought in with high numbers moved the numbering of all later ones: it goes on
-- from the highest that is meant, and what has more digits than a reference can have gets the next.
SELECT setval('article_numbers', (SELECT max(number) FROM articles WHERE number <= 999999))
WHERE (SELECT last_value FROM article_numbers) > 999999 AND EXISTS (SELECT 1 FROM articles WHERE number <= 999999);
UPDATE articles SET number = nextval('article_numbers') WHERE number > 999999999;

-- +goose Down
DROP INDEX conversations_asker;
ALTER TABLE articles DROP COLUMN conversation_id, DROP COLUMN before_check;
ALTER TABLE request_files DROP COLUMN staff_id;
ALTER TABLE autosaves DROP COLUMN save_key, DROP COLUMN version;
