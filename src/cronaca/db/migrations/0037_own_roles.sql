-- Roles of an installation's own, beside those that the program has. An account's role is the name of one of the
-- program's, or the uid of one of these.

CREATE TABLE own_role (
    uid         CHAR(36)     NOT NULL PRIMARY KEY,
    revision    INT UNSIGNED NOT NULL DEFAULT 1,
    name        VARCHAR(100) NOT NULL,
    permissions VARCHAR(400) NOT NULL COMMENT 'with commas',
    UNIQUE KEY by_name (name)
) ENGINE = InnoDB;

ALTER TABLE account MODIFY role VARCHAR(36) NOT NULL;

-- What was one permission is two.
UPDATE program_token SET permissions = REPLACE(permissions, 'operate', 'control_loggers,write_values')
WHERE FIND_IN_SET('operate', permissions);
