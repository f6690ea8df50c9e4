-- Equipment classes, and the pieces of equipment that follow them.

CREATE TABLE equipment_class (
    class_id  INT           NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid       CHAR(36)      NOT NULL UNIQUE,
    name      VARCHAR(100)  NOT NULL UNIQUE,
    facts     MEDIUMTEXT    NOT NULL COMMENT 'members, loggers, limits, trend and card as JSON, in patterns',
    revision  INT           NOT NULL DEFAULT 1
) ENGINE = InnoDB;

CREATE TABLE equipment (
    equipment_id  INT           NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid           CHAR(36)      NOT NULL UNIQUE,
    name          VARCHAR(100)  NOT NULL UNIQUE,
    class_uid     CHAR(36)      NOT NULL,
    facts         MEDIUMTEXT    NOT NULL COMMENT 'sources, parameters and what is its own as JSON',
    revision      INT           NOT NULL DEFAULT 1,
    KEY by_class (class_uid)
) ENGINE = InnoDB;
