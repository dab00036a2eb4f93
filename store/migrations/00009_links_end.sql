-- +goose Up

-- For how many days after the last word the link to a conversation opens it.
ALTER TABLE sites ADD COLUMN link_days integer NOT NULL DEFAULT 30 CHECK (link_days BETWEEN 1 AND 365);

-- Lines of the trail whose note only administrators read: it names customers.
ALTER TABLE trail ADD COLUMN private boolean NOT NULL DEFAULT false;
UPDATE trail SET private = true WHERE action IN ('member added', 'member removed');

-- +goose Down
ALTER TABLE trail DROP COLUMN private;
ALTER TABLE sites DROP COLUMN link_days;
