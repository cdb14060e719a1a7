-- +goose Up
-- Passkeys of people. credential is what of it is kept to check who signs in by it: no secret.
CREATE TABLE passkeys (
  id         BIGINT PRIMARY KEY AUTO_INCREMENT,
  person     BIGINT NOT NULL,
  handle     VARBINARY(1023) NOT NULL, -- the authenticator's identity of it
  name       VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  site       VARCHAR(255) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, -- under which it is good
  credential TEXT NOT NULL CHECK (JSON_VALID(credential)),
  created    DATETIME(3) NOT NULL,
  used       DATETIME(3) NULL,
  UNIQUE KEY passkeys_handle (handle),
  FOREIGN KEY (person) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE passkeys;
