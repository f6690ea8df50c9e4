-- What a logger follows beside a person, and what one around a trigger records.

ALTER TABLE logger
    ADD COLUMN when_facts JSON   NULL COMMENT 'tag, spans of the week, tag of the interval, NULL: always',
    ADD COLUMN before_us  BIGINT NOT NULL DEFAULT 0,
    ADD COLUMN after_us   BIGINT NOT NULL DEFAULT 0;
