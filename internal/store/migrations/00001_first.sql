-- +goose Up
create table productions (
    id text primary key,
    name text not null unique,
    created_at timestamptz not null default now()
);

create table scenes (
    id text primary key,
    production_id text not null references productions (id),
    title text not null,
    revision integer not null default 0,
    created_at timestamptz not null default now(),
    unique (production_id, title)
);

create table entities (
    scene_id text not null references scenes (id) on delete cascade,
    collection text not null,
    id text not null,
    body jsonb not null,
    primary key (scene_id, collection, id)
);

create table edits (
    scene_id text not null references scenes (id) on delete cascade,
    revision integer not null,
    kind text not null,
    label text not null,
    author text not null,
    at timestamptz not null default now(),
    patch jsonb not null,
    primary key (scene_id, revision)
);

create table deliveries (
    id text primary key,
    scene_id text not null references scenes (id) on delete cascade,
    number integer not null,
    revision integer not null,
    assembly text not null,
    width integer not null,
    height integer not null,
    quality text not null,
    rate text not null,
    folder text not null,
    document jsonb not null,
    at timestamptz not null default now(),
    unique (scene_id, number)
);

create table outputs (
    id text primary key,
    delivery_id text not null references deliveries (id) on delete cascade,
    position integer not null,
    shot_id text not null,
    shot_number text not null,
    camera_number integer not null,
    camera_name text not null,
    version integer not null,
    file text not null unique,
    state text not null,
    error text not null default '',
    frames integer not null,
    frames_done integer not null default 0,
    seconds double precision not null default 0,
    sha256 text not null default '',
    bytes bigint not null default 0,
    picture bytea,
    job_id bigint not null default 0
);
create index outputs_delivery on outputs (delivery_id, position);

-- +goose Down
drop table outputs;
drop table deliveries;
drop table edits;
drop table entities;
drop table scenes;
drop table productions;
