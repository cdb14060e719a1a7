-- +goose Up
-- How many samples the film of a run held when it was last begun: attempts that got on are
-- no attempts in vain.
ALTER TABLE runs ADD COLUMN reached BIGINT NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE runs DROP COLUMN reached;
