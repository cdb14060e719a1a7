-- +goose Up
-- Pictures that finishes and backings show; the files lie beside the database.
CREATE TABLE pictures (
  sha256  CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  name    VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  width   INT          NOT NULL,
  height  INT          NOT NULL,
  created DATETIME(3)  NOT NULL
);

-- +goose Down
DROP TABLE pictures;
