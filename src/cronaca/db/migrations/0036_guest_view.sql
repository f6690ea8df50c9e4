-- Whether people who are not signed in may look.

CREATE TABLE guest_view (
    only_one BOOLEAN      NOT NULL DEFAULT TRUE PRIMARY KEY COMMENT 'there is one row',
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    enabled  BOOLEAN      NOT NULL,
    CONSTRAINT one_guest_view CHECK (only_one)
) ENGINE = InnoDB;

INSERT INTO guest_view (enabled) VALUES (FALSE);
