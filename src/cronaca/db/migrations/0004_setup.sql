-- The set-up is edited while it is at work: revisions, who changed what, rules, requests to the recorder.

ALTER TABLE source
    ADD COLUMN revision   INT    NOT NULL DEFAULT 1,
    ADD COLUMN removed_us BIGINT NULL COMMENT 'NULL while it is there',
    ADD COLUMN live_name  VARCHAR(100) AS (IF(removed_us IS NULL, name, NULL)) VIRTUAL COMMENT 'unique among those that are there',
    DROP KEY name,
    ADD UNIQUE KEY live_name (live_name);

ALTER TABLE tag
    ADD COLUMN colour     VARCHAR(7)    NOT NULL DEFAULT '',
    ADD COLUMN states     VARCHAR(4000) NOT NULL DEFAULT '' COMMENT 'names of values as JSON',
    ADD COLUMN revision   INT    NOT NULL DEFAULT 1,
    ADD COLUMN removed_us BIGINT NULL COMMENT 'NULL while it is there (its history stays)',
    ADD COLUMN live_name  VARCHAR(200) AS (IF(removed_us IS NULL, name, NULL)) VIRTUAL COMMENT 'unique among those that are there',
    DROP KEY name,
    ADD UNIQUE KEY live_name (live_name),
    ADD KEY by_name (name);

ALTER TABLE archive ADD COLUMN revision INT NOT NULL DEFAULT 1;

ALTER TABLE logger
    ADD COLUMN phase_us       BIGINT  NOT NULL DEFAULT 0,
    ADD COLUMN rule           JSON    NOT NULL DEFAULT '{}',
    ADD COLUMN wanted         BOOLEAN NOT NULL DEFAULT TRUE,
    ADD COLUMN inhibit_tag_id INT     NULL,
    ADD COLUMN revision       INT     NOT NULL DEFAULT 1,
    ADD CONSTRAINT logger_inhibit FOREIGN KEY (inhibit_tag_id) REFERENCES tag (tag_id);

ALTER TABLE logger_member ADD COLUMN rule JSON NULL COMMENT 'overrides that of the logger';

CREATE TABLE setup_state (
    setup_id  TINYINT NOT NULL PRIMARY KEY,
    revision  BIGINT  NOT NULL COMMENT 'counts every change'
) ENGINE = InnoDB;
INSERT INTO setup_state (setup_id, revision) VALUES (1, 1);

CREATE TABLE setup_change (
    change_id     BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    revision      BIGINT       NOT NULL,
    kind          VARCHAR(16)  NOT NULL COMMENT 'plant, source, tag, archive, logger',
    uid           CHAR(36)     NOT NULL,
    name          VARCHAR(200) NOT NULL,
    action        VARCHAR(16)  NOT NULL COMMENT 'added, changed, removed',
    made_us       BIGINT       NOT NULL,
    person        VARCHAR(200) NOT NULL,
    facts_before  JSON         NULL,
    facts_after   JSON         NULL,
    KEY by_object (uid, change_id),
    KEY by_revision (revision)
) ENGINE = InnoDB;

CREATE TABLE recorder_request (
    request_id  BIGINT      NOT NULL AUTO_INCREMENT PRIMARY KEY,
    kind        VARCHAR(32) NOT NULL,
    facts       JSON        NOT NULL,
    asked_at    DATETIME(6) NOT NULL COMMENT 'by the clock of the database',
    taken       BOOLEAN     NOT NULL DEFAULT FALSE,
    answer      JSON        NULL
) ENGINE = InnoDB;
