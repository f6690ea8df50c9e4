-- The plant's day, cut into shifts.

CREATE TABLE plant_shift (
    plant_id      TINYINT     NOT NULL,
    start_minute  SMALLINT    NOT NULL COMMENT 'minute of the local day at which it starts',
    name          VARCHAR(50) NOT NULL,
    PRIMARY KEY (plant_id, start_minute)
) ENGINE = InnoDB;
