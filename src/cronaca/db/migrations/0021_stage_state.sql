-- What a stage of the recorder needs to know when its recorder begins again.

CREATE TABLE stage_state (
    stage  VARCHAR(64) NOT NULL PRIMARY KEY,
    epoch  BIGINT      NOT NULL COMMENT 'under which it was left',
    state  MEDIUMBLOB  NOT NULL
) ENGINE = InnoDB;
