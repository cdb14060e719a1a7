-- +goose Up
-- Names are told apart as they are written: by case, accent and script. What
-- file systems take for one is a matter of file names, not of rows.
ALTER TABLE projects MODIFY name VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE views MODIFY name VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;

ALTER TABLE scenes ADD COLUMN put_away BOOLEAN NOT NULL DEFAULT FALSE;

-- What a list of jobs shows, so that it need not read tickets.
ALTER TABLE jobs
  ADD COLUMN put_away BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN last_run BIGINT NULL,
  ADD COLUMN view VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '',
  ADD COLUMN width INT NOT NULL DEFAULT 0,
  ADD COLUMN height INT NOT NULL DEFAULT 0,
  ADD COLUMN surface VARCHAR(16) NOT NULL DEFAULT 'own',
  ADD COLUMN preset VARCHAR(64) NOT NULL DEFAULT 'own',
  ADD COLUMN target DOUBLE NOT NULL DEFAULT 0,
  ADD KEY jobs_changed (put_away, changed, id);
UPDATE jobs SET
  view = JSON_VALUE(ticket, '$.view.name'),
  width = GREATEST(1, ROUND(CAST(JSON_VALUE(ticket, '$.view.width') AS DECIMAL(10)) * CAST(COALESCE(JSON_VALUE(ticket, '$.view.scale'), 100) AS DECIMAL(10)) / 100)),
  height = GREATEST(1, ROUND(CAST(JSON_VALUE(ticket, '$.view.height') AS DECIMAL(10)) * CAST(COALESCE(JSON_VALUE(ticket, '$.view.scale'), 100) AS DECIMAL(10)) / 100)),
  surface = COALESCE(JSON_VALUE(ticket, '$.surface.mode'), 'own'),
  preset = COALESCE(JSON_VALUE(ticket, '$.quality.preset'), 'own'),
  target = COALESCE(JSON_VALUE(ticket, '$.quality.noise'), 0);

ALTER TABLE runs
  MODIFY elements LONGTEXT NOT NULL CHECK (JSON_VALID(elements)),
  -- Identity of the film: what changes its sums. Films of before are kept under the fingerprint.
  ADD COLUMN film CHAR(64) NOT NULL DEFAULT '',
  -- What is to become of a run that is being stopped or delivered.
  ADD COLUMN intent VARCHAR(16) NOT NULL DEFAULT '',
  -- How often it was begun without coming to an orderly end.
  ADD COLUMN attempts INT NOT NULL DEFAULT 0,
  ADD COLUMN place DOUBLE NOT NULL DEFAULT 0,
  ADD COLUMN background BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN frames INT NOT NULL DEFAULT 1,
  -- Samples of the pixel that has fewest.
  ADD COLUMN least INT NOT NULL DEFAULT 0,
  ADD COLUMN view VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '',
  ADD COLUMN width INT NOT NULL DEFAULT 0,
  ADD COLUMN height INT NOT NULL DEFAULT 0,
  ADD COLUMN surface VARCHAR(16) NOT NULL DEFAULT 'own',
  ADD COLUMN preset VARCHAR(64) NOT NULL DEFAULT 'own',
  ADD COLUMN target DOUBLE NOT NULL DEFAULT 0,
  ADD KEY runs_queue (state, background, place),
  ADD KEY runs_job (job, id);
UPDATE runs SET
  film = fingerprint,
  place = id,
  least = IF(samples >= 1, 1, 0),
  view = JSON_VALUE(resolved, '$.ticket.view.name'),
  width = GREATEST(1, ROUND(CAST(JSON_VALUE(resolved, '$.ticket.view.width') AS DECIMAL(10)) * CAST(COALESCE(JSON_VALUE(resolved, '$.ticket.view.scale'), 100) AS DECIMAL(10)) / 100)),
  height = GREATEST(1, ROUND(CAST(JSON_VALUE(resolved, '$.ticket.view.height') AS DECIMAL(10)) * CAST(COALESCE(JSON_VALUE(resolved, '$.ticket.view.scale'), 100) AS DECIMAL(10)) / 100)),
  surface = COALESCE(JSON_VALUE(resolved, '$.ticket.surface.mode'), 'own'),
  preset = COALESCE(JSON_VALUE(resolved, '$.ticket.quality.preset'), 'own'),
  target = COALESCE(JSON_VALUE(resolved, '$.ticket.quality.noise'), 0);
UPDATE jobs SET last_run = (SELECT MAX(id) FROM runs WHERE runs.job = jobs.id);

-- A run has frames; a still is frame 0.
CREATE TABLE frames (
  run BIGINT NOT NULL,
  number INT NOT NULL,
  seconds DOUBLE NOT NULL DEFAULT 0,
  samples DOUBLE NOT NULL DEFAULT 0,
  least INT NOT NULL DEFAULT 0,
  noise DOUBLE NULL,
  share DOUBLE NOT NULL DEFAULT 0,
  PRIMARY KEY (run, number),
  FOREIGN KEY (run) REFERENCES runs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;
INSERT INTO frames (run, number, seconds, samples, least, noise, share) SELECT id, 0, seconds, samples, least, noise, share FROM runs;

-- Deliveries of a run are numbered from 1 and never overwritten.
CREATE TABLE deliveries (
  run BIGINT NOT NULL,
  number INT NOT NULL,
  complete BOOLEAN NOT NULL,
  created DATETIME(3) NOT NULL,
  PRIMARY KEY (run, number),
  FOREIGN KEY (run) REFERENCES runs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4;
INSERT INTO deliveries (run, number, complete, created) SELECT id, 1, state = 'done', COALESCE(finished, queued) FROM runs WHERE state IN ('done', 'kept');

-- Presets and plans, every version of each.
CREATE TABLE library (
  id BIGINT PRIMARY KEY AUTO_INCREMENT,
  kind VARCHAR(32) NOT NULL,
  slug VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  version INT NOT NULL,
  name VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  body LONGTEXT NOT NULL CHECK (JSON_VALID(body)),
  project BIGINT NULL,
  put_away BOOLEAN NOT NULL DEFAULT FALSE,
  created DATETIME(3) NOT NULL,
  UNIQUE KEY library_version (kind, slug, version),
  FOREIGN KEY (project) REFERENCES projects (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE library;
DROP TABLE deliveries;
DROP TABLE frames;
ALTER TABLE runs DROP KEY runs_queue, DROP KEY runs_job, DROP COLUMN film, DROP COLUMN intent, DROP COLUMN attempts, DROP COLUMN place, DROP COLUMN background, DROP COLUMN frames, DROP COLUMN least,
  DROP COLUMN view, DROP COLUMN width, DROP COLUMN height, DROP COLUMN surface, DROP COLUMN preset, DROP COLUMN target;
ALTER TABLE jobs DROP KEY jobs_changed, DROP COLUMN put_away, DROP COLUMN last_run, DROP COLUMN view, DROP COLUMN width, DROP COLUMN height, DROP COLUMN surface, DROP COLUMN preset, DROP COLUMN target;
ALTER TABLE scenes DROP COLUMN put_away;
