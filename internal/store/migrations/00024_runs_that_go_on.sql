-- +goose Up
-- A run may go on from the films of another, to a stricter target or in an area: until it is begun,
-- that one has its samples.
ALTER TABLE runs
	ADD COLUMN goes_on BIGINT NULL,
	ADD CONSTRAINT runs_go_on FOREIGN KEY (goes_on) REFERENCES runs (id) ON DELETE SET NULL;

-- +goose Down
ALTER TABLE runs DROP FOREIGN KEY runs_go_on, DROP COLUMN goes_on;
