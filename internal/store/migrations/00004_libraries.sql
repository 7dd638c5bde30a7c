-- +goose Up
-- What the scenes of a production share is a document beside them, and each scene
-- knows which revision of it it has taken.
alter table scenes
    add column library boolean not null default false,
    add column taken integer not null default -1;
drop index scenes_titles;
create unique index scenes_titles on scenes (production_id, title) where binned_at is null and not library;
create unique index libraries on scenes (production_id) where library;

-- +goose Down
delete from scenes where library;
drop index libraries;
drop index scenes_titles;
create unique index scenes_titles on scenes (production_id, title) where binned_at is null;
alter table scenes drop column library, drop column taken;
