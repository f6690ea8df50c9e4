-- Records: rows that triggered loggers take. Each such logger has a table record_N of its own (store/records.py).

ALTER TABLE logger ADD COLUMN trigger_facts JSON NULL COMMENT 'of a triggered logger: tag, edge, what is written back';

ALTER TABLE logger_member
    ADD COLUMN position    INT          NOT NULL DEFAULT 0,
    ADD COLUMN column_name VARCHAR(100) NOT NULL DEFAULT '' COMMENT 'of a record, empty: the name of the tag';

CREATE TABLE record_column (
    logger_id   INT          NOT NULL,
    column_no   INT          NOT NULL COMMENT 'cN and qN in the table of the logger, never used again',
    tag_id      INT          NOT NULL,
    value_type  TINYINT      NOT NULL,
    name        VARCHAR(200) NOT NULL COMMENT 'the one it had last',
    position    INT          NOT NULL DEFAULT 0,
    present     BOOLEAN      NOT NULL DEFAULT TRUE COMMENT 'still taken',
    PRIMARY KEY (logger_id, column_no)
) ENGINE = InnoDB;
