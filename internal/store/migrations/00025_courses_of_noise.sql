-- +goose Up
-- How the noise of a run's frames fell over time.
CREATE TABLE noise_points (
  run     BIGINT NOT NULL,
  frame   INT    NOT NULL,
  seconds DOUBLE NOT NULL,
  samples DOUBLE NOT NULL,
  noise   DOUBLE NOT NULL,
  PRIMARY KEY (run, frame, samples),
  FOREIGN KEY (run) REFERENCES runs (id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE noise_points;
