-- +goose Up
-- Passwords are argon2id in PHC form; NULL for who has none. stamp grows with each new one:
-- whoever was signed in by an earlier one is no longer.
ALTER TABLE people ADD COLUMN password VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NULL,
                   ADD COLUMN stamp    BIGINT NOT NULL DEFAULT 0;

-- Links by which people set a password, each once; token is the SHA-256 of what is in the link.
CREATE TABLE invitations (
  token   CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  person  BIGINT NOT NULL,
  maker   BIGINT NOT NULL,
  until   DATETIME(3) NOT NULL,
  used    DATETIME(3) NULL,
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- Who did what to which, when, from where. Nothing here is ever changed or removed.
CREATE TABLE audit (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  created DATETIME(3) NOT NULL,
  person  BIGINT NOT NULL,   -- 0: nobody was signed in
  name    VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL, -- as it was then
  did     VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,  -- operation of the interface
  kind    VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,  -- of the thing it was done to
  thing   BIGINT NOT NULL,   -- 0: none
  project BIGINT NOT NULL,   -- 0: the studio's
  status  INT NOT NULL,      -- of the answer, as HTTP
  address VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  KEY audit_project (project, id)
) CHARACTER SET utf8mb4;
-- +goose StatementBegin
CREATE TRIGGER audit_stays BEFORE UPDATE ON audit FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the audit trail is not changed';
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER audit_keeps BEFORE DELETE ON audit FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is removed from the audit trail';
-- +goose StatementEnd

-- +goose Down
DROP TABLE audit;
DROP TABLE invitations;
ALTER TABLE people DROP COLUMN password, DROP COLUMN stamp;
