-- +goose Up
-- The forecast of a run as it was measured, before earlier runs corrected it: what later ones are
-- corrected by. By what was corrected already, they would lose their correction again.
ALTER TABLE runs
	ADD COLUMN measured DOUBLE NULL,
	ADD COLUMN measured_low DOUBLE NULL,
	ADD COLUMN measured_high DOUBLE NULL;

-- +goose Down
ALTER TABLE runs DROP COLUMN measured, DROP COLUMN measured_low, DROP COLUMN measured_high;
