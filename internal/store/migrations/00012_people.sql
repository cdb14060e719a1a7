-- +goose Up
-- People and what they are in projects. The first person takes over what was made before
-- there were others.
CREATE TABLE people (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  name    VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  folded  VARCHAR(400) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  created DATETIME(3) NOT NULL,
  UNIQUE KEY people_folded (folded)
) CHARACTER SET utf8mb4;
INSERT INTO people (id, name, folded, created) VALUES (1, 'Lead', 'lead', UTC_TIMESTAMP(3));

CREATE TABLE members (
  project BIGINT NOT NULL,
  person  BIGINT NOT NULL,
  role    VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (project, person),
  KEY members_person (person),
  FOREIGN KEY (project) REFERENCES projects (id) ON DELETE CASCADE,
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;
INSERT INTO members (project, person, role) SELECT id, 1, 'lead' FROM projects;

ALTER TABLE projects ADD COLUMN put_away BOOLEAN NOT NULL DEFAULT FALSE;

-- Who is signed in where; the table is that of the sessions package.
CREATE TABLE sessions (
  token  CHAR(43) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  data   BLOB NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  KEY sessions_expiry (expiry)
);

-- +goose Down
DROP TABLE sessions;
ALTER TABLE projects DROP COLUMN put_away;
DROP TABLE members;
DROP TABLE people;
