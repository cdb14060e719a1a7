-- +goose Up
-- What happened in projects, written together with what it tells of. It is told once: to
-- webhooks, by mail, and to pages that are open.
CREATE TABLE events (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  project BIGINT NOT NULL,
  kind    VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person  BIGINT NOT NULL,   -- who did it; 0: nobody, a run came to its end
  name    VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL, -- as it was then
  round   BIGINT NOT NULL DEFAULT 0, -- what it happened to, each 0 for none; it may be gone
  proof   BIGINT NOT NULL DEFAULT 0,
  remark  BIGINT NOT NULL DEFAULT 0,
  run     BIGINT NOT NULL DEFAULT 0,
  state   VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '', -- that it was brought to
  words   TEXT NOT NULL,
  created DATETIME(3) NOT NULL,
  told    BOOLEAN NOT NULL DEFAULT FALSE,
  KEY events_told (told, id),
  FOREIGN KEY (project) REFERENCES projects (id)
) CHARACTER SET utf8mb4;

-- Addresses of other programs that are told. The secret signs what they are sent.
CREATE TABLE webhooks (
  id      BIGINT PRIMARY KEY AUTO_INCREMENT,
  project BIGINT NOT NULL,
  url     TEXT NOT NULL,
  secret  VARCHAR(100) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kinds   TEXT NOT NULL CHECK (JSON_VALID(kinds)), -- of events that are told
  paused  BOOLEAN NOT NULL DEFAULT FALSE,
  maker   BIGINT NOT NULL,
  created DATETIME(3) NOT NULL,
  FOREIGN KEY (project) REFERENCES projects (id),
  FOREIGN KEY (maker) REFERENCES people (id)
) CHARACTER SET utf8mb4;

-- What goes out: mail, and what webhooks are sent. It is claimed before it is tried.
CREATE TABLE messages (
  id       BIGINT PRIMARY KEY AUTO_INCREMENT,
  project  BIGINT NOT NULL,
  webhook  BIGINT NULL,      -- NULL: mail
  event    BIGINT NOT NULL DEFAULT 0, -- that a webhook is told of
  address  TEXT NOT NULL,
  subject  VARCHAR(400) NOT NULL,
  body     MEDIUMTEXT NOT NULL,
  secret   BOOLEAN NOT NULL DEFAULT FALSE, -- its body holds a link that lets somebody in
  state    VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  attempts INT NOT NULL DEFAULT 0,
  due      DATETIME(3) NOT NULL, -- when it is tried next
  said     VARCHAR(400) NOT NULL DEFAULT '', -- what came of the last attempt
  created  DATETIME(3) NOT NULL,
  ended    DATETIME(3) NULL,
  KEY messages_due (state, due),
  KEY messages_project (project, id),
  FOREIGN KEY (project) REFERENCES projects (id),
  FOREIGN KEY (webhook) REFERENCES webhooks (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;

-- What people are still to be told by mail; several go into one.
CREATE TABLE notices (
  person  BIGINT NOT NULL,
  event   BIGINT NOT NULL,
  created DATETIME(3) NOT NULL,
  PRIMARY KEY (person, event),
  FOREIGN KEY (person) REFERENCES people (id),
  FOREIGN KEY (event) REFERENCES events (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;

-- Where mail reaches people, and of what they want some.
ALTER TABLE people ADD COLUMN mail  VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '',
                   ADD COLUMN wants VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'answers,remarks';

-- +goose Down
ALTER TABLE people DROP COLUMN mail, DROP COLUMN wants;
DROP TABLE notices;
DROP TABLE messages;
DROP TABLE webhooks;
DROP TABLE events;
