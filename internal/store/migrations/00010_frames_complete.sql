-- +goose Up
-- A run goes through its frames; one that is at its target is not begun again.
ALTER TABLE frames ADD COLUMN complete BOOLEAN NOT NULL DEFAULT FALSE;
UPDATE frames JOIN runs ON runs.id = frames.run SET frames.complete = TRUE WHERE runs.state IN ('delivering', 'done') AND runs.share >= 1;

-- +goose Down
ALTER TABLE frames DROP COLUMN complete;
