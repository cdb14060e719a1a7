-- +goose Up
-- Links by which somebody who has no account looks at one round and answers in it, as one of
-- those who are asked. token is the SHA-256 of what is in the link, phrase argon2id in PHC form.
CREATE TABLE links (
  id        BIGINT PRIMARY KEY AUTO_INCREMENT,
  round     BIGINT NOT NULL,
  person    BIGINT NOT NULL,
  token     CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  phrase    VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  originals VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  maker     BIGINT NOT NULL,
  created   DATETIME(3) NOT NULL,
  until     DATETIME(3) NOT NULL,
  revoked   DATETIME(3) NULL,
  UNIQUE KEY links_token (token),
  FOREIGN KEY (round) REFERENCES rounds (id) ON DELETE CASCADE,
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- Each time a link was opened, with the name that was given; session is the SHA-256 of what the
-- page keeps for as long as it is open.
CREATE TABLE visits (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  link    BIGINT NOT NULL,
  name    VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  session CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created DATETIME(3) NOT NULL,
  until   DATETIME(3) NOT NULL,
  UNIQUE KEY visits_session (session),
  KEY visits_link (link),
  FOREIGN KEY (link) REFERENCES links (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE visits;
DROP TABLE links;
