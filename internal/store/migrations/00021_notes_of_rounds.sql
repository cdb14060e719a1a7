-- +goose Up
-- What whoever answers in a round is told beforehand: what is new, and what to look at.
ALTER TABLE rounds ADD COLUMN note TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE rounds DROP COLUMN note;
