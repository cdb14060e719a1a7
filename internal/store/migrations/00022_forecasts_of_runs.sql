-- +goose Up
-- How long a run was told to take when it was queued, in seconds with an 80 % bar: what the queue
-- says of it, and what later forecasts are corrected by.
ALTER TABLE runs
	ADD COLUMN forecast DOUBLE NULL,
	ADD COLUMN forecast_low DOUBLE NULL,
	ADD COLUMN forecast_high DOUBLE NULL;

-- +goose Down
ALTER TABLE runs DROP COLUMN forecast, DROP COLUMN forecast_low, DROP COLUMN forecast_high;
