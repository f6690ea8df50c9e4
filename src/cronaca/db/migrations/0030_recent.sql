-- What unrecorded tags were in the last minutes: every server draws it, also after a page or a recorder begins anew.

CREATE TABLE recent_reading (
    block   INT        NOT NULL COMMENT 'of 256 tags',
    period  BIGINT     NOT NULL COMMENT 'number of 10 s since 1970',
    payload MEDIUMBLOB NOT NULL COMMENT 'frames, one after the other',
    PRIMARY KEY (block, period),
    KEY by_period (period)
) ENGINE = InnoDB;
