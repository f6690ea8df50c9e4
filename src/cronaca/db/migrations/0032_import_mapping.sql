-- Which columns of a table of tags from elsewhere were which of ours: asked once, known the next time.

CREATE TABLE import_mapping (
    heading  CHAR(64)     NOT NULL PRIMARY KEY COMMENT 'SHA-256 of the names of the columns',
    mapping  MEDIUMTEXT   NOT NULL COMMENT 'by field, as JSON',
    person   VARCHAR(200) NOT NULL,
    saved_us BIGINT       NOT NULL
) ENGINE = InnoDB;
