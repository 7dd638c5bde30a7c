-- +goose Up
-- How the outputs of a delivery are made, and what each of them shows.
alter table deliveries add column recipe jsonb not null default 'null';
alter table outputs
    add column subject text not null default '', -- what its versions are counted of
    add column item jsonb not null default 'null',
    add column print text not null default '', -- the same for outputs that are made of the same
    add column first boolean not null default false, -- before those that are not
    add column beside jsonb not null default '[]'; -- files besides the one that it is called by
update outputs o set subject = case o.kind
    when 'video' then 'shot ' || d.assembly || ' ' || o.shot_id || ' ' || coalesce(d.document -> 'settings' ->> 'format', '')
    else o.kind end
    from deliveries d where d.id = o.delivery_id;
drop index outputs_shot;
create index outputs_subject on outputs (subject, version);

-- +goose Down
drop index outputs_subject;
create index outputs_shot on outputs (shot_id, version);
alter table outputs drop column subject, drop column item, drop column print, drop column first, drop column beside;
alter table deliveries drop column recipe;
