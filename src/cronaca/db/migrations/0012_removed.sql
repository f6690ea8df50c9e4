-- Until when retention has deleted an archive's samples: what is missing there has its reason.

ALTER TABLE archive ADD COLUMN removed_until_us BIGINT NOT NULL DEFAULT 0;
