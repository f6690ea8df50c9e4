-- What a logger by the clock keeps of each interval.

ALTER TABLE logger ADD COLUMN keeps VARCHAR(8) NOT NULL DEFAULT 'value' COMMENT 'value, mean, low, high';
