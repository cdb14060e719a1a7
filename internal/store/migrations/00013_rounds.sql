-- +goose Up
-- Approval rounds of a project, numbered from 1.
CREATE TABLE rounds (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  project BIGINT NOT NULL,
  number  INT NOT NULL,
  kind    VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  title   VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  due     DATE NULL,
  needs   BOOLEAN NOT NULL,          -- the one before approved
  anyway  TEXT NOT NULL DEFAULT '',  -- why it was begun before that
  version BIGINT NOT NULL DEFAULT 1,
  maker   BIGINT NOT NULL,
  created DATETIME(3) NOT NULL,
  UNIQUE KEY rounds_number (project, number),
  FOREIGN KEY (project) REFERENCES projects (id)
) CHARACTER SET utf8mb4;

-- Who has to answer in a round.
CREATE TABLE asked (
  round  BIGINT NOT NULL,
  person BIGINT NOT NULL,
  PRIMARY KEY (round, person),
  FOREIGN KEY (round) REFERENCES rounds (id) ON DELETE CASCADE,
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- What was put up in rounds, frozen: run, job and scene may be gone, so they are told by name.
CREATE TABLE proofs (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  round   BIGINT NOT NULL,
  number  INT NOT NULL,              -- within the round
  scene   VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  view    VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  run     BIGINT NOT NULL,
  sha256  CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  slug    TEXT NOT NULL,
  passes  TEXT NOT NULL CHECK (JSON_VALID(passes)),
  width   INT NOT NULL,
  height  INT NOT NULL,
  area    TEXT NOT NULL CHECK (JSON_VALID(area)), -- of the frame that was computed
  maker   BIGINT NOT NULL,
  created DATETIME(3) NOT NULL,
  UNIQUE KEY proofs_number (round, number),
  KEY proofs_sha256 (sha256),
  FOREIGN KEY (round) REFERENCES rounds (id)
) CHARACTER SET utf8mb4;

-- What people answered. Nothing here is ever changed or removed.
CREATE TABLE answers (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  proof   BIGINT NOT NULL,
  person  BIGINT NOT NULL,
  name    VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL, -- as it was then
  verdict VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  words   TEXT NOT NULL,
  sha256  CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created DATETIME(3) NOT NULL,
  KEY answers_proof (proof),
  FOREIGN KEY (proof) REFERENCES proofs (id),
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE answers;
DROP TABLE proofs;
DROP TABLE asked;
DROP TABLE rounds;
