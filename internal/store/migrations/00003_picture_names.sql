-- +goose Up
-- Pictures whose names differ by case, accent or a space at the end are different ones.
ALTER TABLE surrounds MODIFY name VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;

-- +goose Down
ALTER TABLE surrounds MODIFY name VARCHAR(200) CHARACTER SET utf8mb4 NOT NULL;
