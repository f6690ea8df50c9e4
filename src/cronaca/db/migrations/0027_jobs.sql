-- Long work is done by the worker: what is asked of it, how far it is, and what came of it.

CREATE TABLE job (
    job_id     BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid        CHAR(36)     NOT NULL UNIQUE,
    queue      VARCHAR(16)  NOT NULL COMMENT 'who waits for it: recorder, people',
    kind       VARCHAR(32)  NOT NULL,
    content    MEDIUMTEXT   NOT NULL COMMENT 'what is asked, as JSON',
    payload    LONGBLOB     NULL COMMENT 'samples that belong to it',
    name       VARCHAR(200) NOT NULL DEFAULT '' COMMENT 'of the file that is made, without its ending',
    person     VARCHAR(200) NOT NULL,
    permission VARCHAR(32)  NOT NULL COMMENT 'with which it was asked for, and which it needs when it runs',
    created_us BIGINT       NOT NULL,
    begun_us   BIGINT       NULL,
    ended_us   BIGINT       NULL,
    state      VARCHAR(16)  NOT NULL DEFAULT 'waiting' COMMENT 'core.jobs.JobState, or removed',
    share      DOUBLE       NOT NULL DEFAULT 0 COMMENT 'of the work that is done, 0 to 1',
    problem    VARCHAR(500) NOT NULL DEFAULT '',
    answer     LONGBLOB     NULL,
    file_name  VARCHAR(220) NOT NULL DEFAULT '',
    file_bytes BIGINT       NOT NULL DEFAULT 0,
    attempts   SMALLINT     NOT NULL DEFAULT 0,
    holder     VARCHAR(200) NOT NULL DEFAULT '' COMMENT 'who works on it',
    seen_at    DATETIME(6)  NULL COMMENT 'last sign of life of who works on it',
    KEY by_queue (queue, state, job_id)
) ENGINE = InnoDB;

CREATE TABLE job_file (
    job_id  BIGINT     NOT NULL,
    part_no INT        NOT NULL,
    content MEDIUMBLOB NOT NULL,
    PRIMARY KEY (job_id, part_no)
) ENGINE = InnoDB;
