-- +goose Up
-- Every edit has an id made by its author; sent twice, it is applied once.
alter table edits
    add column edit_id text not null default '',
    add column base integer not null default 0,
    add column of_edit text not null default '',
    add column operation text not null default '',
    add column arguments jsonb,
    add column tab text not null default '',
    add column person text not null default '';
update edits set edit_id = 'before-sync-' || revision, base = revision - 1;
create unique index edits_once on edits (scene_id, edit_id);
create index edits_of_person on edits (scene_id, person, revision desc);

-- A layer is the scene itself ('') or an alternate.
alter table entities add column layer text not null default '';
alter table entities drop constraint entities_pkey;
alter table entities add primary key (scene_id, layer, collection, id);

-- States of a scene that have a name are kept whole.
create table versions (
    id text primary key,
    scene_id text not null references scenes (id) on delete cascade,
    revision integer not null,
    name text not null,
    author text not null,
    at timestamptz not null default now(),
    document jsonb not null,
    unique (scene_id, name)
);

-- +goose Down
drop table versions;
alter table entities drop constraint entities_pkey;
alter table entities drop column layer;
alter table entities add primary key (scene_id, collection, id);
drop index edits_of_person;
drop index edits_once;
alter table edits
    drop column edit_id, drop column base, drop column of_edit, drop column operation,
    drop column arguments, drop column tab, drop column person;
