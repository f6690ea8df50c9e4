-- How often each kind of thing has changed: servers follow the counts and tell their pages what to read anew.

CREATE TABLE topic_change (
    topic   VARCHAR(32) NOT NULL PRIMARY KEY COMMENT 'core.topics.Topic',
    changes BIGINT      NOT NULL
) ENGINE = InnoDB;

INSERT INTO topic_change (topic, changes) VALUES
    ('plant', 1), ('source', 1), ('tag', 1), ('archive', 1), ('logger', 1), ('run', 1), ('equipment_class', 1),
    ('equipment', 1), ('coverage', 1), ('history', 1), ('records', 1), ('runs', 1), ('notes', 1), ('sheets', 1),
    ('reports', 1), ('jobs', 1);
