-- +goose Up
-- What is shown of a scene without reading it, and where it is put.
alter table scenes
    add column shots integer not null default 0,
    add column frames integer not null default 0,
    add column rate text not null default '24',
    add column cast_count integer not null default 0,
    add column cameras integer not null default 0,
    add column edited_at timestamptz not null default now(),
    add column edited_by text not null default '',
    add column archived boolean not null default false,
    add column binned_at timestamptz,
    add column emptied boolean not null default false;
update scenes set
    edited_at = coalesce((select max(at) from edits where scene_id = scenes.id), created_at),
    rate = coalesce((select body ->> 'rate' from entities where scene_id = scenes.id and collection = 'settings'), '24'),
    cast_count = (select count(*) from entities where scene_id = scenes.id and collection = 'nodes' and body ->> 'kind' = 'cast'),
    cameras = (select count(*) from entities where scene_id = scenes.id and collection = 'nodes' and body ->> 'kind' = 'camera');
with first as (
    select distinct on (scene_id) scene_id, id from entities where collection = 'assemblies'
    order by scene_id, coalesce((body ->> 'order')::int, 0), id
), cut as (
    select f.scene_id, count(*) as shots, max((s.body ->> 'screenOut')::int) as frames
    from first f
    join entities l on l.scene_id = f.scene_id and l.collection = 'lanes' and l.body ->> 'assembly' = f.id and (l.body ->> 'main')::boolean
    join entities s on s.scene_id = f.scene_id and s.collection = 'shots' and s.body ->> 'lane' = l.id
    group by f.scene_id
)
update scenes set shots = cut.shots, frames = cut.frames from cut where cut.scene_id = scenes.id;

-- A title is free again when its scene lies in the bin.
alter table scenes drop constraint scenes_production_id_title_key;
create unique index scenes_titles on scenes (production_id, title) where binned_at is null;

-- The small picture of a scene, and the revision it was made of.
create table covers (
    scene_id text primary key references scenes (id) on delete cascade,
    revision integer not null,
    picture bytea not null
);

-- +goose Down
drop table covers;
drop index scenes_titles;
alter table scenes add constraint scenes_production_id_title_key unique (production_id, title);
alter table scenes
    drop column shots, drop column frames, drop column rate, drop column cast_count, drop column cameras,
    drop column edited_at, drop column edited_by, drop column archived, drop column binned_at, drop column emptied;
