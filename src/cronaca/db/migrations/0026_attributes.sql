-- What runs say of themselves are attributes, and what people set up has a spec.
ALTER TABLE run RENAME COLUMN start_facts TO start_attributes, RENAME COLUMN end_facts TO end_attributes;
ALTER TABLE run_rule RENAME COLUMN facts TO attributes;
ALTER TABLE equipment_class RENAME COLUMN facts TO spec;
ALTER TABLE equipment RENAME COLUMN facts TO spec;
ALTER TABLE report RENAME COLUMN facts TO spec;
ALTER TABLE recorder_request RENAME COLUMN facts TO content
