-- +goose Up
-- The output of the same delivery whose frames an output has, when they were made once for
-- both; '' for what was made for itself.
alter table outputs add column same text not null default '';

-- +goose Down
alter table outputs drop column same;
