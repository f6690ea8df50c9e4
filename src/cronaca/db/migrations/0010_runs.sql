-- Runs: named stretches of time, and the rules by which the recorder finds them.

CREATE TABLE run_rule (
    rule_id    INT          NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid        CHAR(36)     NOT NULL UNIQUE,
    name       VARCHAR(100) NOT NULL UNIQUE,
    origin     VARCHAR(16)  NOT NULL COMMENT 'logger, tag (while it is not zero), change (from one value to the next)',
    tag_id     INT          NULL,
    logger_id  INT          NULL,
    facts      JSON         NOT NULL COMMENT 'numbers of the tags whose values are kept at start and end',
    enabled    BOOLEAN      NOT NULL DEFAULT TRUE,
    revision   INT          NOT NULL DEFAULT 1
) ENGINE = InnoDB;

CREATE TABLE run (
    run_id       BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid          CHAR(36)     NOT NULL UNIQUE,
    rule_id      INT          NULL COMMENT 'NULL: marked by a person',
    origin       VARCHAR(16)  NOT NULL,
    name         VARCHAR(200) NOT NULL,
    start_us     BIGINT       NOT NULL,
    end_us       BIGINT       NULL COMMENT 'NULL while it lasts',
    cut          BOOLEAN      NOT NULL DEFAULT FALSE COMMENT 'it ended with the recorder, not by itself',
    epoch        INT          NULL,
    start_facts  JSON         NULL,
    end_facts    JSON         NULL,
    person       VARCHAR(200) NOT NULL DEFAULT '',
    KEY by_time (start_us),
    KEY by_rule (rule_id, start_us)
) ENGINE = InnoDB;
