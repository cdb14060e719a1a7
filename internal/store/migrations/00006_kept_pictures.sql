-- +goose Up
-- Live pictures that were kept, each with all that it was made of, to go back to.
CREATE TABLE kept (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  scene BIGINT NOT NULL,
  width INT NOT NULL,
  height INT NOT NULL,
  samples INT NOT NULL,
  camera JSON NOT NULL,
  setup LONGTEXT NOT NULL CHECK (JSON_VALID(setup)),
  ticket LONGTEXT NOT NULL CHECK (JSON_VALID(ticket)),
  created DATETIME(3) NOT NULL,
  picture MEDIUMBLOB NOT NULL,
  INDEX (scene, id),
  FOREIGN KEY (scene) REFERENCES scenes (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE kept;
