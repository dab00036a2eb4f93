-- +goose Up

-- Who declined to be followed from page to page is counted, and marked.
ALTER TABLE evidence ADD COLUMN not_followed boolean NOT NULL DEFAULT false;
ALTER TABLE questions ADD COLUMN not_followed boolean NOT NULL DEFAULT false;
ALTER TABLE question_days ADD COLUMN not_followed integer NOT NULL DEFAULT 0;

-- A help centre may ask before it keeps a key; its words by language, none for the usual ones.
ALTER TABLE sites ADD COLUMN asks_to_follow boolean NOT NULL DEFAULT false;
ALTER TABLE sites ADD COLUMN follow_words jsonb NOT NULL DEFAULT '{}';

-- Whether a link was proved, by signing in or by opening what was mailed, or an address merely typed.
ALTER TABLE evidence_links ADD COLUMN proved boolean NOT NULL DEFAULT false;
UPDATE evidence_links SET proved = true WHERE linked_to LIKE 'customer:%';
CREATE INDEX asker_keys_forgotten ON asker_keys (asker_id) WHERE key LIKE 'forgotten:%';

-- Links in mails that show whoever has an address what is kept of them.
CREATE TABLE own_links (
    token_hash bytea PRIMARY KEY,
    address    text NOT NULL,
    made_at    timestamptz NOT NULL,
    expires_at timestamptz NOT NULL
);
CREATE INDEX own_links_address ON own_links (lower(address), made_at);

CREATE INDEX conversations_address ON conversations (lower(address)) WHERE address <> '';

-- The figures of many articles of some days, and what there are questions of, are found by an index; what was opened in
-- a question is not looked for any more.
CREATE INDEX article_days_day ON article_days (generation, day);
CREATE INDEX question_days_site ON question_days (generation, site);
CREATE INDEX question_days_category ON question_days (generation, category);
CREATE INDEX question_days_flow ON question_days (generation, flow);
CREATE INDEX question_days_language ON question_days (generation, language);
DROP INDEX questions_opened;

-- What is kept may not be changed, but for forgetting somebody: then evidence gets another key, and links and names go.
-- +goose StatementBegin
CREATE FUNCTION refuse_change_but_forgetting() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF current_setting('hermeneus.forgetting', true) = 'on' THEN
        IF TG_OP = 'DELETE' AND TG_TABLE_NAME LIKE 'evidence%' AND to_jsonb(OLD) ->> 'kind' = 'linked' THEN
            RETURN OLD;
        END IF;
        IF TG_OP = 'UPDATE' AND to_jsonb(NEW) - '{asker,linked_to,note}'::text[]
            = to_jsonb(OLD) - '{asker,linked_to,note}'::text[] THEN
            RETURN NEW;
        END IF;
    END IF;
    RAISE EXCEPTION '% cannot be changed or removed', TG_TABLE_NAME;
END $$;
-- +goose StatementEnd
DROP TRIGGER evidence_immutable ON evidence;
CREATE TRIGGER evidence_immutable BEFORE UPDATE OR DELETE ON evidence
    FOR EACH ROW EXECUTE FUNCTION refuse_change_but_forgetting();
DROP TRIGGER trail_immutable ON trail;
CREATE TRIGGER trail_immutable BEFORE UPDATE OR DELETE ON trail
    FOR EACH ROW EXECUTE FUNCTION refuse_change_but_forgetting();

-- +goose Down
DROP TRIGGER trail_immutable ON trail;
CREATE TRIGGER trail_immutable BEFORE UPDATE OR DELETE ON trail FOR EACH ROW EXECUTE FUNCTION refuse_change();
DROP TRIGGER evidence_immutable ON evidence;
CREATE TRIGGER evidence_immutable BEFORE UPDATE OR DELETE ON evidence FOR EACH ROW EXECUTE FUNCTION refuse_change();
DROP FUNCTION refuse_change_but_forgetting;
CREATE INDEX questions_opened ON questions USING gin (opened) WHERE opened <> '{}';
DROP INDEX article_days_day, question_days_site, question_days_category, question_days_flow, question_days_language;
DROP INDEX conversations_address;
DROP TABLE own_links;
DROP INDEX asker_keys_forgotten;
ALTER TABLE evidence_links DROP COLUMN proved;
ALTER TABLE sites DROP COLUMN asks_to_follow, DROP COLUMN follow_words;
ALTER TABLE question_days DROP COLUMN not_followed;
ALTER TABLE questions DROP COLUMN not_followed;
ALTER TABLE evidence DROP COLUMN not_followed;
