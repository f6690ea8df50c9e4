-- Saved trend sheets, and notes pinned to moments.

CREATE TABLE sheet (
    sheet_id  INT           NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid       CHAR(36)      NOT NULL UNIQUE,
    folder    VARCHAR(100)  NOT NULL DEFAULT '',
    name      VARCHAR(100)  NOT NULL,
    view      VARCHAR(8000) NOT NULL COMMENT 'the query of the link that shows it',
    person    VARCHAR(200)  NOT NULL,
    made_us   BIGINT        NOT NULL,
    revision  INT           NOT NULL DEFAULT 1,
    UNIQUE KEY by_name (folder, name)
) ENGINE = InnoDB;

CREATE TABLE note (
    note_id   BIGINT        NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid       CHAR(36)      NOT NULL UNIQUE,
    start_us  BIGINT        NOT NULL,
    end_us    BIGINT        NULL COMMENT 'NULL: a moment',
    tag_id    INT           NULL COMMENT 'NULL: of all tags',
    text      VARCHAR(2000) NOT NULL,
    person    VARCHAR(200)  NOT NULL,
    made_us   BIGINT        NOT NULL,
    removed   BOOLEAN       NOT NULL DEFAULT FALSE,
    KEY by_time (start_us)
) ENGINE = InnoDB;

CREATE TABLE note_edit (
    note_id   BIGINT        NOT NULL,
    edit_no   INT           NOT NULL,
    text      VARCHAR(2000) NOT NULL COMMENT 'what it said before',
    person    VARCHAR(200)  NOT NULL,
    made_us   BIGINT        NOT NULL,
    PRIMARY KEY (note_id, edit_no)
) ENGINE = InnoDB;
