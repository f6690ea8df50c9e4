-- Archives that a restart empties, and the disk that an archive lies on.

ALTER TABLE archive
    ADD COLUMN live_only BOOLEAN      NOT NULL DEFAULT FALSE COMMENT 'emptied when a recorder starts',
    ADD COLUMN directory VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'of its months on the host of the database, empty: where the database lies',
    ADD COLUMN mount     VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'the disk that the directory lay on when it was chosen';
