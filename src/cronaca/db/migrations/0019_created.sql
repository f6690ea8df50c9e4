-- When something was made is called so everywhere: created.

ALTER TABLE history_edit RENAME COLUMN made_us TO created_us;
ALTER TABLE retention_run RENAME COLUMN made_us TO created_us;
ALTER TABLE setup_change RENAME COLUMN made_us TO created_us;
ALTER TABLE sheet RENAME COLUMN made_us TO created_us;
ALTER TABLE note RENAME COLUMN made_us TO created_us;
ALTER TABLE note_edit RENAME COLUMN made_us TO created_us;
ALTER TABLE report RENAME COLUMN made_us TO created_us;
ALTER TABLE report_issue RENAME COLUMN made_us TO created_us;
