-- +goose Up
-- An output is worked on by one job, which says that it lives; what was lost is given
-- to another job. Parts lie in the store until the output is finished.
alter table outputs
    add column beat_at timestamptz,
    add column losses integer not null default 0,
    add column parts boolean not null default true,
    add column kind text not null default 'video';
create index outputs_unfinished on outputs (state) where state in ('waiting', 'rendering');
create index outputs_parts on outputs (id) where parts and state = 'done';
create index outputs_shot on outputs (shot_id, version);

-- Whether the list of what was delivered lies beside the files.
alter table deliveries add column manifest boolean not null default false;
create index deliveries_unlisted on deliveries (id) where not manifest;

-- +goose Down
drop index deliveries_unlisted;
alter table deliveries drop column manifest;
drop index outputs_shot;
drop index outputs_parts;
drop index outputs_unfinished;
alter table outputs drop column beat_at, drop column losses, drop column parts, drop column kind;
