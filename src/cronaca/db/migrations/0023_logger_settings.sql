-- A logger's settings are one value, and those of a member another: a new field needs no migration.

ALTER TABLE logger ADD COLUMN settings JSON NOT NULL DEFAULT '{}' COMMENT 'all but name, archive, mode, wanted, tags by number';

UPDATE logger SET settings = JSON_OBJECT(
    'interval_us', interval_us,
    'phase_us', phase_us,
    'rule', JSON_EXTRACT(rule, '$'),
    'inhibit_tag', inhibit_tag_id,
    'trigger', IF(trigger_facts IS NULL, NULL, JSON_OBJECT(
        'tag', JSON_EXTRACT(trigger_facts, '$.tag_id'),
        'edge', JSON_EXTRACT(trigger_facts, '$.edge'),
        'number_tag', JSON_EXTRACT(trigger_facts, '$.number_tag_id'),
        'reset', JSON_EXTRACT(trigger_facts, '$.reset'))),
    'keeps', keeps,
    'when', IF(when_facts IS NULL, JSON_OBJECT(), JSON_OBJECT(
        'tag', JSON_EXTRACT(when_facts, '$.tag_id'),
        'spans', JSON_EXTRACT(when_facts, '$.spans'),
        'interval_tag', JSON_EXTRACT(when_facts, '$.interval_tag_id'))),
    'before_us', before_us,
    'after_us', after_us,
    'late_us', late_us);

ALTER TABLE logger DROP FOREIGN KEY logger_inhibit;

ALTER TABLE logger
    DROP COLUMN interval_us, DROP COLUMN phase_us, DROP COLUMN rule, DROP COLUMN inhibit_tag_id,
    DROP COLUMN trigger_facts, DROP COLUMN keeps, DROP COLUMN when_facts, DROP COLUMN before_us,
    DROP COLUMN after_us, DROP COLUMN late_us;

ALTER TABLE logger_member ADD COLUMN settings JSON NULL COMMENT 'what is the member''s own';

UPDATE logger_member SET settings = IF(rule IS NULL,
    IF(column_name = '', NULL, JSON_OBJECT('columns', column_name)),
    IF(column_name = '', JSON_OBJECT('overrides', JSON_EXTRACT(rule, '$')),
        JSON_OBJECT('overrides', JSON_EXTRACT(rule, '$'), 'columns', column_name)));

ALTER TABLE logger_member DROP COLUMN rule, DROP COLUMN column_name;
