-- +goose Up
-- Pictures that were taken in are one project's or, with 0, the whole studio's, under the name
-- that each gave them. Until now all saw them: what is there is the studio's.
ALTER TABLE pictures ADD COLUMN kind VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'finish' FIRST;
ALTER TABLE pictures ADD COLUMN project BIGINT NOT NULL DEFAULT 0 AFTER sha256;
ALTER TABLE pictures DROP PRIMARY KEY, ADD PRIMARY KEY (kind, sha256, project);
ALTER TABLE pictures ALTER COLUMN kind DROP DEFAULT;
INSERT INTO pictures (kind, sha256, project, maker, name, width, height, created)
  SELECT 'surround', sha256, 0, maker, name, width, height, created FROM surrounds;
DROP TABLE surrounds;

-- +goose Down
CREATE TABLE surrounds (
  sha256  CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  name    VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  width   INT          NOT NULL,
  height  INT          NOT NULL,
  created DATETIME(3)  NOT NULL,
  maker   BIGINT       NOT NULL DEFAULT 1
);
INSERT IGNORE INTO surrounds (sha256, name, width, height, created, maker)
  SELECT sha256, name, width, height, created, maker FROM pictures WHERE kind = 'surround' ORDER BY created DESC;
DELETE FROM pictures WHERE kind = 'surround' OR project <> 0;
ALTER TABLE pictures DROP PRIMARY KEY, ADD PRIMARY KEY (sha256);
ALTER TABLE pictures DROP COLUMN kind, DROP COLUMN project;
