-- +goose Up
-- In which alternate of its scene an edit was made, '' for the scene itself. Differences are
-- entities like others.
alter table edits add column alternate text not null default '';

-- +goose Down
alter table edits drop column alternate;
