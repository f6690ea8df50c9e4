-- Sheets of one person beside those that all share.

ALTER TABLE sheet
    ADD COLUMN owner VARCHAR(200) NOT NULL DEFAULT '' COMMENT 'empty: shared by all' AFTER name,
    DROP KEY by_name,
    ADD UNIQUE KEY by_name (owner, folder, name);
