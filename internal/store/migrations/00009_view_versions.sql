-- +goose Up
-- A view is changed over the version that it was seen in.
ALTER TABLE views ADD COLUMN version BIGINT NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE views DROP COLUMN version;
