-- How the recorder did, minute by minute, for the curves of its page.

CREATE TABLE recorder_minute (
    group_id   INT    NOT NULL,
    minute     BIGINT NOT NULL COMMENT 'number since 1970',
    samples    BIGINT NOT NULL,
    late_scans BIGINT NOT NULL,
    behind_us  BIGINT NOT NULL COMMENT 'the longest that what was known lay behind the clock at a commit',
    PRIMARY KEY (group_id, minute)
) ENGINE = InnoDB;
