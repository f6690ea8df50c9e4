-- Statistics sheets are saved beside trend sheets.

ALTER TABLE sheet
    ADD COLUMN page VARCHAR(16) NOT NULL DEFAULT 'trends' COMMENT 'trends, statistics: the page that shows it' AFTER uid,
    DROP KEY by_name,
    ADD UNIQUE KEY by_name (page, owner, folder, name);
