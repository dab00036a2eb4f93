-- +goose Up

-- Who wrote any of an edition's text since it was last published: they are its authors, whoever saved last.
CREATE TABLE writers (
	edition_id bigint NOT NULL REFERENCES editions ON DELETE CASCADE,
	staff_id bigint NOT NULL REFERENCES staff,
	since timestamptz NOT NULL,
	PRIMARY KEY (edition_id, staff_id)
);

-- An earlier state that is restored brings its authors with it.
ALTER TABLE revisions ADD COLUMN authors bigint[] NOT NULL DEFAULT '{}';
ALTER TABLE autosaves ADD COLUMN authors bigint[] NOT NULL DEFAULT '{}';

-- Texts from before: their autosaves were thinned, so who wrote since the last publication cannot be known
-- for sure. Everyone who touched a text counts, save for texts that are live as they are.
INSERT INTO writers
SELECT edition_id, staff_id, min(at) FROM (
	SELECT edition_id, staff_id, at FROM autosaves
	UNION ALL SELECT edition_id, made_by, made_at FROM revisions
	UNION ALL SELECT edition_id, began_by, began_at FROM reviews
	UNION ALL SELECT edition_id, unnest(authors), began_at FROM reviews
	UNION ALL SELECT id, writer_id, written_at FROM editions
	UNION ALL SELECT id, submitter_id, submitted_at FROM editions WHERE submitter_id IS NOT NULL
) touched JOIN editions e ON e.id = edition_id WHERE e.state <> 'published' GROUP BY edition_id, staff_id;

-- Revisions cannot be changed: but for what was not kept before.
ALTER TABLE revisions DISABLE TRIGGER USER;
UPDATE revisions r SET authors = ARRAY(
	SELECT made_by FROM revisions b WHERE b.edition_id = r.edition_id AND b.id <= r.id
	UNION SELECT staff_id FROM autosaves v WHERE v.edition_id = r.edition_id AND v.at <= r.made_at
	UNION SELECT unnest(authors) FROM reviews w WHERE w.edition_id = r.edition_id AND w.began_at <= r.made_at);
ALTER TABLE revisions ENABLE TRIGGER USER;
UPDATE autosaves v SET authors = ARRAY(
	SELECT staff_id FROM autosaves b WHERE b.edition_id = v.edition_id AND b.id <= v.id
	UNION SELECT made_by FROM revisions r WHERE r.edition_id = v.edition_id AND r.made_at <= v.at);

-- A round that is under way looks at such a text too.
UPDATE reviews r SET authors = ARRAY(SELECT unnest(r.authors) UNION SELECT staff_id FROM writers w WHERE w.edition_id = r.edition_id ORDER BY 1)
WHERE ended_at IS NULL;

-- +goose Down
ALTER TABLE autosaves DROP COLUMN authors;
ALTER TABLE revisions DROP COLUMN authors;
DROP TABLE writers;
