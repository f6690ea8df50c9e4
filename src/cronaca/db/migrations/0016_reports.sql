-- Reports of shifts, days and runs, and those that were made.

CREATE TABLE report (
    report_id  INT          NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid        CHAR(36)     NOT NULL UNIQUE,
    name       VARCHAR(100) NOT NULL UNIQUE,
    facts      MEDIUMTEXT   NOT NULL COMMENT 'kind, figures, period as JSON',
    since_us   BIGINT       NOT NULL COMMENT 'periods that begin before are not reported',
    person     VARCHAR(200) NOT NULL,
    made_us    BIGINT       NOT NULL,
    revision   INT          NOT NULL DEFAULT 1
) ENGINE = InnoDB;

CREATE TABLE report_issue (
    issue_id    BIGINT        NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid         CHAR(36)      NOT NULL UNIQUE,
    report_uid  CHAR(36)      NOT NULL COMMENT 'stays when the report is removed',
    name        VARCHAR(100)  NOT NULL,
    period      VARCHAR(300)  NOT NULL,
    start_us    BIGINT        NOT NULL,
    end_us      BIGINT        NOT NULL,
    made_us     BIGINT        NOT NULL,
    late        BOOLEAN       NOT NULL,
    covered     DOUBLE        NULL COMMENT 'percent of the window',
    good        DOUBLE        NULL COMMENT 'percent of the window',
    html        MEDIUMBLOB    NOT NULL,
    pdf         MEDIUMBLOB    NOT NULL,
    csv         MEDIUMBLOB    NOT NULL,
    xlsx        MEDIUMBLOB    NOT NULL,
    UNIQUE KEY once (report_uid, start_us, end_us),
    KEY newest (end_us)
) ENGINE = InnoDB;
