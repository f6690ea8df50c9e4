-- Tags that were added to be looked at: they go after a while, unless somebody keeps them or a logger records them.

CREATE TABLE temporary_tag (
    tag_id   INT          NOT NULL PRIMARY KEY,
    until_us BIGINT       NOT NULL,
    person   VARCHAR(200) NOT NULL,
    KEY by_end (until_us)
) ENGINE = InnoDB;
