-- +goose Up
-- What setting of the ticket a remark is about; empty for none.
ALTER TABLE remarks ADD COLUMN topic VARCHAR(400) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE remarks DROP COLUMN topic;
