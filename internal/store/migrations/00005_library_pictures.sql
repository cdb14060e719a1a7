-- +goose Up
-- What an entry looks like, a small PNG; there is none for those that show nothing.
ALTER TABLE library ADD COLUMN picture MEDIUMBLOB NULL;

-- +goose Down
ALTER TABLE library DROP COLUMN picture;
