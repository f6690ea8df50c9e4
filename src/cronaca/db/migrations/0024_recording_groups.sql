-- Recording groups: sources with a recorder, a lease and epochs of their own. All are in one, and every key says so.

CREATE TABLE recording_group (
    group_id  SMALLINT     NOT NULL PRIMARY KEY,
    uid       CHAR(36)     NOT NULL UNIQUE,
    name      VARCHAR(100) NOT NULL UNIQUE
) ENGINE = InnoDB;

INSERT INTO recording_group (group_id, uid, name) VALUES (1, '00000000-0000-0000-0000-000000000002', 'Whole plant');

ALTER TABLE source
    ADD COLUMN group_id SMALLINT NOT NULL DEFAULT 1,
    ADD CONSTRAINT source_group FOREIGN KEY (group_id) REFERENCES recording_group (group_id);

ALTER TABLE recorder_epoch
    ADD COLUMN group_id SMALLINT NOT NULL DEFAULT 1 COMMENT 'epochs are numbered through for all groups',
    ADD KEY by_group (group_id, epoch);

ALTER TABLE gap ADD COLUMN group_id SMALLINT NOT NULL DEFAULT 1 COMMENT 'whose sources have it, where it is not scoped';

ALTER TABLE recorder_request ADD COLUMN group_id SMALLINT NOT NULL DEFAULT 1 COMMENT 'to whose recorder it goes';

ALTER TABLE stage_state
    ADD COLUMN group_id SMALLINT NOT NULL DEFAULT 1 FIRST,
    DROP PRIMARY KEY,
    ADD PRIMARY KEY (group_id, stage);
