-- Reports are made in the background: why one cannot be made is on record for whoever lists them.

ALTER TABLE report ADD COLUMN problem VARCHAR(500) NOT NULL DEFAULT '' COMMENT 'why it cannot be made';
