-- History by month: partitions, summaries, corrections, imports, coverage, retention, reports.

ALTER TABLE segment
    ADD COLUMN bytes INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'length of the payload' AFTER bad_us,
    DROP KEY by_time;
UPDATE segment SET bytes = LENGTH(payload);

SET @partitions = (SELECT GROUP_CONCAT('PARTITION p', archive_id, '_', month, ' VALUES IN ((', archive_id, ', ', month, '))'
    SEPARATOR ', ') FROM (SELECT DISTINCT archive_id, month FROM segment UNION SELECT 0, 0) AS places);
SET @command = CONCAT('ALTER TABLE segment PARTITION BY LIST COLUMNS (archive_id, month) (', @partitions, ')');
EXECUTE IMMEDIATE @command;

-- One row per history and month. A writer of segments keeps it in the same transaction.
CREATE TABLE history_month (
    archive_id    SMALLINT     NOT NULL,
    month         INT          NOT NULL,
    tag_id        INT          NOT NULL,
    version       SMALLINT     NOT NULL,
    first_us      BIGINT       NULL COMMENT 'first sample',
    last_us       BIGINT       NULL COMMENT 'last sample',
    sample_count  BIGINT       NOT NULL DEFAULT 0,
    bytes         BIGINT       NOT NULL DEFAULT 0,
    segments      INT          NOT NULL DEFAULT 0,
    generation    BIGINT       NOT NULL DEFAULT 0 COMMENT 'of the newest segment',
    tail          BLOB         NOT NULL DEFAULT '' COMMENT 'extents of the newest segments',
    days_present  INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'bit d - 1: day d (UTC) may have samples',
    days_built    INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'bit d - 1: the summaries of day d agree with the segments',
    base_us       BIGINT       NOT NULL DEFAULT 0 COMMENT 'width of the finest kept rollup, 0 none',
    thinned       BOOLEAN      NOT NULL DEFAULT FALSE COMMENT 'samples dropped by retention, summaries kept',
    changes       BIGINT       NOT NULL DEFAULT 0 COMMENT 'counts every change, for builders and caches',
    PRIMARY KEY (tag_id, archive_id, version, month),
    KEY by_month (archive_id, month)
) ENGINE = InnoDB;

INSERT INTO history_month (archive_id, month, tag_id, version, first_us, last_us, sample_count, bytes, segments,
    generation, days_present)
SELECT archive_id, month, tag_id, version, MIN(start_us), MAX(end_us), SUM(sample_count), SUM(bytes), COUNT(*),
    MAX(generation), 2147483647
FROM segment GROUP BY archive_id, month, tag_id, version;

CREATE TABLE writer_turn (
    name  VARCHAR(32) NOT NULL PRIMARY KEY,
    turn  BIGINT      NOT NULL
) ENGINE = InnoDB COMMENT 'a row that writers of segments change first: they take turns, on a cluster too';
INSERT INTO writer_turn (name, turn) VALUES ('segments', 0);

CREATE TABLE rollup (
    archive_id    SMALLINT   NOT NULL,
    month         INT        NOT NULL,
    tag_id        INT        NOT NULL,
    version       SMALLINT   NOT NULL,
    width_us      BIGINT     NOT NULL,
    bucket_count  INT        NOT NULL,
    shape         MEDIUMBLOB NOT NULL,
    figures       MEDIUMBLOB NOT NULL,
    PRIMARY KEY (archive_id, month, tag_id, version, width_us)
) ENGINE = InnoDB
PARTITION BY LIST COLUMNS (archive_id, month) (PARTITION p0_0 VALUES IN ((0, 0)));

CREATE TABLE summary_hour (
    archive_id    SMALLINT NOT NULL,
    month         INT      NOT NULL,
    tag_id        INT      NOT NULL,
    version       SMALLINT NOT NULL,
    start_us      BIGINT   NOT NULL,
    end_us        BIGINT   NOT NULL,
    sample_count  INT      NOT NULL,
    good_us       BIGINT   NOT NULL,
    uncertain_us  BIGINT   NOT NULL,
    bad_us        BIGINT   NOT NULL,
    low           DOUBLE   NULL,
    low_us        BIGINT   NULL,
    high          DOUBLE   NULL,
    high_us       BIGINT   NULL,
    mean          DOUBLE   NULL COMMENT 'weighted by time over usable stretches',
    last_value    DOUBLE   NULL,
    transitions   INT      NOT NULL,
    PRIMARY KEY (archive_id, month, tag_id, version, start_us)
) ENGINE = InnoDB
PARTITION BY LIST COLUMNS (archive_id, month) (PARTITION p0_0 VALUES IN ((0, 0)));

CREATE TABLE summary_day (
    archive_id    SMALLINT NOT NULL,
    month         INT      NOT NULL COMMENT 'UTC month of the start',
    tag_id        INT      NOT NULL,
    version       SMALLINT NOT NULL,
    start_us      BIGINT   NOT NULL COMMENT 'midnight in the zone of the plant',
    end_us        BIGINT   NOT NULL,
    sample_count  INT      NOT NULL,
    good_us       BIGINT   NOT NULL,
    uncertain_us  BIGINT   NOT NULL,
    bad_us        BIGINT   NOT NULL,
    low           DOUBLE   NULL,
    low_us        BIGINT   NULL,
    high          DOUBLE   NULL,
    high_us       BIGINT   NULL,
    mean          DOUBLE   NULL COMMENT 'weighted by time over usable stretches',
    last_value    DOUBLE   NULL,
    transitions   INT      NOT NULL,
    PRIMARY KEY (archive_id, month, tag_id, version, start_us)
) ENGINE = InnoDB
PARTITION BY LIST COLUMNS (archive_id, month) (PARTITION p0_0 VALUES IN ((0, 0)));

CREATE TABLE history_edit (
    edit_id     BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    archive_id  SMALLINT     NOT NULL,
    tag_id      INT          NOT NULL,
    version     SMALLINT     NOT NULL,
    kind        VARCHAR(16)  NOT NULL COMMENT 'insert, replace, update, delete',
    start_us    BIGINT       NOT NULL,
    end_us      BIGINT       NOT NULL COMMENT 'exclusive',
    made_us     BIGINT       NOT NULL,
    person      VARCHAR(200) NOT NULL,
    reason      VARCHAR(500) NOT NULL,
    written     INT          NOT NULL COMMENT 'samples written',
    replaced    INT          NOT NULL COMMENT 'samples replaced or deleted: kept below',
    KEY by_history (tag_id, archive_id, version, end_us, start_us)
) ENGINE = InnoDB;

CREATE TABLE history_edit_part (
    edit_id  BIGINT     NOT NULL,
    part     INT        NOT NULL,
    payload  MEDIUMBLOB NOT NULL COMMENT 'what stood there before, as a segment',
    PRIMARY KEY (edit_id, part)
) ENGINE = InnoDB;

CREATE TABLE import_run (
    import_id   BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name        VARCHAR(300) NOT NULL,
    person      VARCHAR(200) NOT NULL,
    started_us  BIGINT       NOT NULL,
    state       VARCHAR(16)  NOT NULL COMMENT 'open, published, cancelled',
    samples     BIGINT       NOT NULL DEFAULT 0
) ENGINE = InnoDB;

CREATE TABLE import_segment (
    import_id     BIGINT     NOT NULL,
    archive_id    SMALLINT   NOT NULL,
    month         INT        NOT NULL,
    tag_id        INT        NOT NULL,
    version       SMALLINT   NOT NULL,
    generation    BIGINT     NOT NULL,
    start_us      BIGINT     NOT NULL,
    end_us        BIGINT     NOT NULL,
    sample_count  INT        NOT NULL,
    low           DOUBLE     NULL,
    high          DOUBLE     NULL,
    good_us       BIGINT     NOT NULL,
    uncertain_us  BIGINT     NOT NULL,
    bad_us        BIGINT     NOT NULL,
    bytes         INT UNSIGNED NOT NULL,
    payload       MEDIUMBLOB NOT NULL,
    days_present  INT UNSIGNED NOT NULL,
    PRIMARY KEY (import_id, archive_id, month, tag_id, version, generation)
) ENGINE = InnoDB;

-- The stretches in which a tag was being recorded, between them the reason of the one before.
CREATE TABLE coverage (
    archive_id  SMALLINT     NOT NULL,
    tag_id      INT          NOT NULL,
    version     SMALLINT     NOT NULL,
    start_us    BIGINT       NOT NULL,
    origin      VARCHAR(16)  NOT NULL DEFAULT 'logger' COMMENT 'logger, imported',
    end_us      BIGINT       NULL COMMENT 'NULL while it lasts',
    ended_by    VARCHAR(32)  NOT NULL DEFAULT '' COMMENT 'logger_stopped, logger_paused, logger_inhibited, not_recorded',
    PRIMARY KEY (tag_id, archive_id, version, start_us, origin)
) ENGINE = InnoDB;

INSERT INTO coverage (archive_id, tag_id, version, start_us)
SELECT h.archive_id, h.tag_id, h.version,
    LEAST(h.since_us, COALESCE((SELECT MIN(m.first_us) FROM history_month m
        WHERE m.tag_id = h.tag_id AND m.archive_id = h.archive_id AND m.version = h.version), h.since_us))
FROM history h;

ALTER TABLE archive
    ADD COLUMN keep_us    BIGINT  NULL COMMENT 'samples older than this go, NULL: kept for ever',
    ADD COLUMN keep_bytes BIGINT  NULL COMMENT 'the oldest months go while the archive is larger, NULL: no limit',
    ADD COLUMN thin       BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'summaries of what goes are kept';

CREATE TABLE retention_run (
    run_id      BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    archive_id  SMALLINT     NOT NULL,
    made_us     BIGINT       NOT NULL,
    month       INT          NOT NULL,
    before_us   BIGINT       NOT NULL COMMENT 'samples of the month before this went',
    samples     BIGINT       NOT NULL,
    bytes       BIGINT       NOT NULL,
    how         VARCHAR(16)  NOT NULL COMMENT 'dropped, thinned',
    KEY by_archive (archive_id, made_us)
) ENGINE = InnoDB;

CREATE TABLE text_value (
    code    BIGINT        NOT NULL AUTO_INCREMENT PRIMARY KEY,
    digest  BINARY(32)    NOT NULL UNIQUE COMMENT 'SHA-256 of the text',
    value   VARCHAR(4000) NOT NULL
) ENGINE = InnoDB;

CREATE VIEW report_tags AS
SELECT t.name AS tag, t.description, t.unit, t.equipment, a.name AS archive, h.version
FROM history h JOIN tag t ON t.tag_id = h.tag_id JOIN archive a ON a.archive_id = h.archive_id;

CREATE VIEW report_hours AS
SELECT t.name AS tag, h.unit, a.name AS archive,
    TIMESTAMPADD(MICROSECOND, s.start_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS start_utc,
    TIMESTAMPADD(MICROSECOND, s.end_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS end_utc,
    s.sample_count, s.low, TIMESTAMPADD(MICROSECOND, s.low_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS low_utc,
    s.high, TIMESTAMPADD(MICROSECOND, s.high_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS high_utc,
    s.mean, s.last_value, s.transitions, 100.0 * s.good_us / (s.end_us - s.start_us) AS percent_good,
    100.0 * s.uncertain_us / (s.end_us - s.start_us) AS percent_uncertain,
    100.0 * s.bad_us / (s.end_us - s.start_us) AS percent_bad
FROM summary_hour s
JOIN history h ON h.archive_id = s.archive_id AND h.tag_id = s.tag_id AND h.version = s.version
JOIN tag t ON t.tag_id = s.tag_id JOIN archive a ON a.archive_id = s.archive_id;

CREATE VIEW report_days AS
SELECT t.name AS tag, h.unit, a.name AS archive,
    TIMESTAMPADD(MICROSECOND, s.start_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS start_utc,
    TIMESTAMPADD(MICROSECOND, s.end_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS end_utc,
    s.sample_count, s.low, TIMESTAMPADD(MICROSECOND, s.low_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS low_utc,
    s.high, TIMESTAMPADD(MICROSECOND, s.high_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS high_utc,
    s.mean, s.last_value, s.transitions, 100.0 * s.good_us / (s.end_us - s.start_us) AS percent_good,
    100.0 * s.uncertain_us / (s.end_us - s.start_us) AS percent_uncertain,
    100.0 * s.bad_us / (s.end_us - s.start_us) AS percent_bad
FROM summary_day s
JOIN history h ON h.archive_id = s.archive_id AND h.tag_id = s.tag_id AND h.version = s.version
JOIN tag t ON t.tag_id = s.tag_id JOIN archive a ON a.archive_id = s.archive_id;

CREATE VIEW report_gaps AS
SELECT TIMESTAMPADD(MICROSECOND, start_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS start_utc,
    TIMESTAMPADD(MICROSECOND, end_us, TIMESTAMP'1970-01-01 00:00:00.000000') AS end_utc, reason, detail
FROM gap
