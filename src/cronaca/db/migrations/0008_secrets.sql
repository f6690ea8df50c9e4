-- Passwords of sources: beside the set-up, so that no file, list of changes or answer of the API carries one.

CREATE TABLE source_secret (
    source_id INT          NOT NULL PRIMARY KEY,
    secret    VARCHAR(500) NOT NULL COMMENT 'the password for the user of the source',
    FOREIGN KEY (source_id) REFERENCES source (source_id)
) ENGINE = InnoDB COMMENT 'never part of files, changes or answers';
