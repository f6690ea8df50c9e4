-- What people did that keeps no trail of its own: sheets, notes, runs, reports, values written, records asked for.

CREATE TABLE person_action (
    action_id     BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    created_us    BIGINT       NOT NULL,
    person        VARCHAR(200) NOT NULL,
    permission    VARCHAR(32)  NOT NULL COMMENT 'with which it was done',
    kind          VARCHAR(16)  NOT NULL,
    uid           VARCHAR(36)  NOT NULL,
    name          VARCHAR(200) NOT NULL,
    action        VARCHAR(16)  NOT NULL COMMENT 'added, changed, removed, asked',
    facts_before  LONGTEXT     NULL,
    facts_after   LONGTEXT     NULL,
    outcome       VARCHAR(500) NOT NULL COMMENT 'of what is no one transaction',
    KEY by_time (created_us),
    KEY by_object (kind, uid)
) ENGINE = InnoDB;

ALTER TABLE recorder_request
    ADD COLUMN person VARCHAR(200) NOT NULL DEFAULT '' COMMENT 'who asks';
