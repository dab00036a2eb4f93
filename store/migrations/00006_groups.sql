-- +goose Up

-- Named groups of customers. An article for one has the audience group:key.
CREATE TABLE customer_groups (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    key     text NOT NULL UNIQUE CHECK (key ~ '^[a-z0-9][a-z0-9-]{0,39}$'),
    name    text NOT NULL CHECK (name <> ''),
    made_at timestamptz NOT NULL
);
CREATE UNIQUE INDEX customer_groups_name ON customer_groups (lower(name));

CREATE TABLE customer_group_members (
    group_id    bigint NOT NULL REFERENCES customer_groups ON DELETE CASCADE,
    customer_id bigint NOT NULL REFERENCES customers ON DELETE CASCADE,
    PRIMARY KEY (group_id, customer_id)
);
CREATE INDEX customer_group_members_customer ON customer_group_members (customer_id);

-- +goose Down
DROP TABLE customer_group_members, customer_groups;
