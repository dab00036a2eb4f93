-- +goose Up

-- What an asker did last is looked up before anything is kept: by time, and of the same
-- instant by number.
DROP INDEX evidence_asker;
CREATE INDEX evidence_asker ON evidence (asker, at, id);

-- +goose Down
DROP INDEX evidence_asker;
CREATE INDEX evidence_asker ON evidence (asker, at);
