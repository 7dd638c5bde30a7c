-- +goose Up
-- The parts of an output that is being made, each of them one worker's, and which
-- version of the program makes it.
alter table outputs
    add column maker text not null default '',
    add column maker_at timestamptz; -- when that version was last at it
create table parts (
    output_id text not null references outputs on delete cascade,
    first int not null, -- frame
    frames int not null,
    maker text not null,
    job_id bigint not null,
    beat_at timestamptz not null,
    done boolean not null default false,
    primary key (output_id, first)
);
create index parts_job on parts (job_id) where not done;

-- +goose Down
drop table parts;
alter table outputs drop column maker, drop column maker_at;
