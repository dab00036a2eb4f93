-- +goose Up

-- Questions lie by the month in which they closed, as evidence does by that in which it happened.
ALTER TABLE questions RENAME TO questions_before;
CREATE TABLE questions (LIKE questions_before INCLUDING DEFAULTS, PRIMARY KEY (generation, first_item, closed_at))
    PARTITION BY RANGE (closed_at);
-- +goose StatementBegin
DO $$
DECLARE month record;
BEGIN
    FOR month IN SELECT DISTINCT date_trunc('month', closed_at AT TIME ZONE 'UTC') AS first FROM questions_before LOOP
        EXECUTE format('CREATE TABLE %I PARTITION OF questions FOR VALUES FROM (%L) TO (%L)',
            'questions_' || to_char(month.first, 'YYYY_MM'),
            to_char(month.first, 'YYYY-MM-DD') || 'T00:00:00Z',
            to_char(month.first + interval '1 month', 'YYYY-MM-DD') || 'T00:00:00Z');
    END LOOP;
END $$;
-- +goose StatementEnd
CREATE TABLE questions_rest PARTITION OF questions DEFAULT;
INSERT INTO questions SELECT * FROM questions_before;
DROP TABLE questions_before;
CREATE INDEX questions_closed ON questions (generation, closed_at, first_item) INCLUDE (outcome);
CREATE INDEX questions_asker ON questions (asker_id, generation, began_at);
CREATE INDEX questions_article ON questions (generation, article, closed_at) WHERE article <> 0;
CREATE INDEX questions_contacts ON questions USING gin (contacts) WHERE contacts <> '{}';
CREATE INDEX questions_returned ON questions (generation, closed_at) INCLUDE (returned_in, returned_at)
    WHERE outcome = 'returned';
CREATE INDEX questions_returned_in ON questions (returned_in) WHERE returned_in <> 0;
CREATE INDEX questions_repeats ON questions (generation, closed_at)
    INCLUDE (asker_id, outcome, channels, site, category, flow, language) WHERE repeats;
-- One asker in sixteen, by whom it is estimated how askers repeat where many are counted.
CREATE INDEX questions_sample ON questions (generation, closed_at)
    INCLUDE (asker_id, outcome, channels, site, category, flow, language) WHERE repeats AND asker_id % 16 = 0;

-- Until when the questions of somebody are final, whose evidence reaches over the end of what was put aside.
ALTER TABLE askers ADD COLUMN final_to timestamptz;

-- +goose Down
ALTER TABLE askers DROP COLUMN final_to;
ALTER TABLE questions RENAME TO questions_months;
CREATE TABLE questions (LIKE questions_months INCLUDING DEFAULTS, PRIMARY KEY (generation, first_item));
INSERT INTO questions SELECT * FROM questions_months;
DROP TABLE questions_months;
CREATE INDEX questions_closed ON questions (generation, closed_at, first_item);
CREATE INDEX questions_asker ON questions (asker_id, generation, began_at);
CREATE INDEX questions_article ON questions (generation, article, closed_at) WHERE article <> 0;
CREATE INDEX questions_contacts ON questions USING gin (contacts) WHERE contacts <> '{}';
CREATE INDEX questions_returned ON questions (generation, closed_at) INCLUDE (returned_in, returned_at)
    WHERE outcome = 'returned';
CREATE INDEX questions_returned_in ON questions (returned_in) WHERE returned_in <> 0;
CREATE INDEX questions_repeats ON questions (generation, closed_at) INCLUDE (asker_id, outcome) WHERE repeats;
