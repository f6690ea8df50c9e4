-- Internal tags that keep their value over a restart.

CREATE TABLE kept_value (
    tag_id      INT    NOT NULL PRIMARY KEY,
    value_type  TINYINT NOT NULL,
    bits        BIGINT NOT NULL COMMENT 'the 64 bits of the value',
    written_us  BIGINT NOT NULL
) ENGINE = InnoDB;
