-- +goose Up
-- Remarks on proofs, numbered from 1 within a project, so that one keeps its number in later rounds.
CREATE TABLE remarks (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  project BIGINT NOT NULL,
  proof   BIGINT NOT NULL,
  number  INT NOT NULL,
  mark    TEXT NOT NULL CHECK (JSON_VALID(mark)),
  place   TEXT NULL CHECK (place IS NULL OR JSON_VALID(place)), -- on a part; none where none is seen
  state   VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  maker   BIGINT NOT NULL,
  UNIQUE KEY remarks_number (project, number),
  KEY remarks_proof (proof),
  FOREIGN KEY (project) REFERENCES projects (id),
  FOREIGN KEY (proof) REFERENCES proofs (id), -- what is remarked on stays
  FOREIGN KEY (maker) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- What is said in a remark, the remark itself first; state says what it was brought to by that.
-- Lines are only ever added.
CREATE TABLE remark_lines (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  remark  BIGINT NOT NULL,
  person  BIGINT NOT NULL,
  name    VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL, -- as it was then
  words   TEXT NOT NULL,
  state   VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  created DATETIME(3) NOT NULL,
  KEY remark_lines_remark (remark),
  FOREIGN KEY (remark) REFERENCES remarks (id),
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE remark_lines;
DROP TABLE remarks;
