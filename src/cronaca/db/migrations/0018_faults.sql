-- A fault belongs to the smallest thing that has it: gaps of single histories, knowledge by source, what
-- background processes say of themselves, journal rows that cannot be read.

ALTER TABLE gap
    ADD COLUMN scoped BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'TRUE: only the histories in gap_history have it',
    ADD KEY by_scope (scoped, end_us, start_us);

ALTER TABLE logger
    ADD COLUMN late_us BIGINT NOT NULL DEFAULT 0
        COMMENT 'ticks missed for no longer are Uncertain and no gap, 0: the usual tolerance';

CREATE TABLE removed_logger (
    logger_id  INT          NOT NULL PRIMARY KEY COMMENT 'its records stay in their table',
    uid        CHAR(36)     NOT NULL UNIQUE,
    name       VARCHAR(200) NOT NULL
) ENGINE = InnoDB;

CREATE TABLE gap_history (
    archive_id  SMALLINT NOT NULL,
    tag_id      INT      NOT NULL,
    version     SMALLINT NOT NULL,
    gap_id      BIGINT   NOT NULL,
    PRIMARY KEY (tag_id, archive_id, version, gap_id),
    KEY by_gap (gap_id)
) ENGINE = InnoDB;

CREATE OR REPLACE VIEW report_gaps AS
SELECT TIMESTAMPADD(MICROSECOND, start_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS start_utc,
    TIMESTAMPADD(MICROSECOND, end_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS end_utc, reason, detail
FROM gap WHERE NOT scoped;

ALTER TABLE recorder_epoch
    ADD COLUMN filled_seq BIGINT NOT NULL DEFAULT 0
        COMMENT 'flushes up to this one were filled in after the epoch was over';

CREATE TABLE source_knowledge (
    epoch           BIGINT NOT NULL,
    source_id       INT    NOT NULL,
    known_until_us  BIGINT NOT NULL COMMENT 'all samples of the source up to here are committed',
    PRIMARY KEY (epoch, source_id)
) ENGINE = InnoDB;

CREATE TABLE background_state (
    role      VARCHAR(32)   NOT NULL COMMENT 'compactor, reports',
    holder    VARCHAR(200)  NOT NULL,
    seen_at   DATETIME(6)   NOT NULL COMMENT 'by the clock of the database',
    failing   BOOLEAN       NOT NULL,
    detail    VARCHAR(1000) NOT NULL,
    PRIMARY KEY (role, holder)
) ENGINE = InnoDB;

CREATE TABLE journal_damaged (
    epoch         BIGINT       NOT NULL,
    seq           BIGINT       NOT NULL,
    received_us   BIGINT       NOT NULL,
    sample_count  INT          NOT NULL,
    payload       MEDIUMBLOB   NOT NULL,
    problem       VARCHAR(500) NOT NULL,
    gap_id        BIGINT       NOT NULL,
    PRIMARY KEY (epoch, seq)
) ENGINE = InnoDB;
