-- Times are UTC microseconds since 1970 (BIGINT, names end in _us).

CREATE TABLE plant (
    plant_id       TINYINT      NOT NULL PRIMARY KEY,
    name           VARCHAR(100) NOT NULL,
    zone           VARCHAR(64)  NOT NULL COMMENT 'IANA time zone',
    first_weekday  TINYINT      NOT NULL COMMENT 'ISO 8601: 1 Monday to 7 Sunday'
) ENGINE = InnoDB;

CREATE TABLE source (
    source_id  INT          NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid        CHAR(36)     NOT NULL UNIQUE,
    name       VARCHAR(100) NOT NULL UNIQUE,
    protocol   VARCHAR(32)  NOT NULL,
    config     JSON         NOT NULL,
    enabled    BOOLEAN      NOT NULL DEFAULT TRUE
) ENGINE = InnoDB;

CREATE TABLE tag (
    tag_id       INT           NOT NULL AUTO_INCREMENT PRIMARY KEY COMMENT 'never reused',
    uid          CHAR(36)      NOT NULL UNIQUE,
    name         VARCHAR(200)  NOT NULL UNIQUE,
    description  VARCHAR(500)  NOT NULL,
    value_type   TINYINT       NOT NULL COMMENT '1 float64, 2 int64, 3 boolean, 4 state, 5 text',
    unit         VARCHAR(32)   NOT NULL,
    range_low    DOUBLE        NOT NULL,
    range_high   DOUBLE        NOT NULL,
    decimals     TINYINT       NOT NULL,
    stepped      BOOLEAN       NOT NULL,
    equipment    VARCHAR(200)  NOT NULL,
    source_id    INT           NOT NULL,
    address      JSON          NOT NULL,
    scan_us      BIGINT        NOT NULL,
    CONSTRAINT tag_source FOREIGN KEY (source_id) REFERENCES source (source_id)
) ENGINE = InnoDB;

CREATE TABLE archive (
    archive_id  SMALLINT     NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid         CHAR(36)     NOT NULL UNIQUE,
    name        VARCHAR(100) NOT NULL UNIQUE
) ENGINE = InnoDB;

CREATE TABLE logger (
    logger_id    INT          NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid          CHAR(36)     NOT NULL UNIQUE,
    name         VARCHAR(100) NOT NULL UNIQUE,
    archive_id   SMALLINT     NOT NULL,
    mode         VARCHAR(16)  NOT NULL,
    interval_us  BIGINT       NOT NULL COMMENT '0 unless periodic',
    CONSTRAINT logger_archive FOREIGN KEY (archive_id) REFERENCES archive (archive_id)
) ENGINE = InnoDB;

CREATE TABLE logger_member (
    logger_id  INT NOT NULL,
    tag_id     INT NOT NULL,
    PRIMARY KEY (logger_id, tag_id),
    CONSTRAINT member_logger FOREIGN KEY (logger_id) REFERENCES logger (logger_id),
    CONSTRAINT member_tag FOREIGN KEY (tag_id) REFERENCES tag (tag_id)
) ENGINE = InnoDB;

CREATE TABLE history (
    archive_id  SMALLINT    NOT NULL,
    tag_id      INT         NOT NULL,
    version     SMALLINT    NOT NULL COMMENT 'a change of type or unit opens a new one',
    value_type  TINYINT     NOT NULL,
    unit        VARCHAR(32) NOT NULL,
    since_us    BIGINT      NOT NULL,
    PRIMARY KEY (archive_id, tag_id, version),
    KEY by_tag (tag_id)
) ENGINE = InnoDB;

CREATE TABLE recorder_epoch (
    epoch           BIGINT       NOT NULL PRIMARY KEY,
    holder          VARCHAR(200) NOT NULL,
    state           VARCHAR(16)  NOT NULL COMMENT 'open, closed',
    opened_us       BIGINT       NOT NULL,
    known_until_us  BIGINT       NOT NULL COMMENT 'all samples up to here are committed',
    last_seq        BIGINT       NOT NULL,
    lease_until     DATETIME(6)  NOT NULL COMMENT 'by the clock of the database',
    reason          VARCHAR(32)  NOT NULL DEFAULT '',
    report          JSON         NULL
) ENGINE = InnoDB;

CREATE TABLE journal (
    epoch         BIGINT     NOT NULL,
    seq           BIGINT     NOT NULL,
    received_us   BIGINT     NOT NULL,
    sample_count  INT        NOT NULL,
    payload       MEDIUMBLOB NOT NULL,
    PRIMARY KEY (epoch, seq)
) ENGINE = InnoDB;

CREATE TABLE compaction_mark (
    epoch  BIGINT NOT NULL PRIMARY KEY,
    seq    BIGINT NOT NULL COMMENT 'journal rows up to here are in segments'
) ENGINE = InnoDB;

CREATE TABLE segment (
    archive_id    SMALLINT   NOT NULL,
    month         INT        NOT NULL COMMENT 'year * 100 + month of all its samples, UTC',
    tag_id        INT        NOT NULL,
    version       SMALLINT   NOT NULL,
    generation    BIGINT     NOT NULL COMMENT 'order in which segments were written',
    start_us      BIGINT     NOT NULL COMMENT 'first sample',
    end_us        BIGINT     NOT NULL COMMENT 'last sample',
    sample_count  INT        NOT NULL,
    low           DOUBLE     NULL,
    high          DOUBLE     NULL,
    good_us       BIGINT     NOT NULL,
    uncertain_us  BIGINT     NOT NULL,
    bad_us        BIGINT     NOT NULL,
    payload       MEDIUMBLOB NOT NULL,
    PRIMARY KEY (archive_id, month, tag_id, version, generation),
    KEY by_time (tag_id, archive_id, version, end_us, start_us)
) ENGINE = InnoDB;

CREATE TABLE current_value (
    block    INT        NOT NULL PRIMARY KEY COMMENT 'tag_id div 256',
    epoch    BIGINT     NOT NULL,
    seq      BIGINT     NOT NULL,
    payload  MEDIUMBLOB NOT NULL
) ENGINE = InnoDB;

CREATE TABLE gap (
    gap_id    BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    start_us  BIGINT       NOT NULL,
    end_us    BIGINT       NOT NULL,
    reason    VARCHAR(32)  NOT NULL,
    detail    VARCHAR(500) NOT NULL,
    KEY by_time (end_us, start_us)
) ENGINE = InnoDB;
