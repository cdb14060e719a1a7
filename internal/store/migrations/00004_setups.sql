-- +goose Up
-- What was changed on the bench over a scene: every state that was saved, the newest being
-- the one that holds.
CREATE TABLE setups (
  scene BIGINT NOT NULL,
  version INT NOT NULL,
  body LONGTEXT NOT NULL CHECK (JSON_VALID(body)),
  created DATETIME(3) NOT NULL,
  PRIMARY KEY (scene, version),
  FOREIGN KEY (scene) REFERENCES scenes (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE setups;
