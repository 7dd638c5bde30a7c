-- +goose Up
-- Whether a delivery that was stopped is to go on some time.
alter table deliveries add column paused boolean not null default false;

-- +goose Down
alter table deliveries drop column paused;
