-- Tokens for programs: each acts for an account, with some of its permissions, until its end. Kept as hashes alone.

CREATE TABLE program_token (
    token_hash  BINARY(32)   NOT NULL PRIMARY KEY COMMENT 'SHA-256 of a random token',
    uid         CHAR(36)     NOT NULL,
    account_id  INT UNSIGNED NOT NULL,
    name        VARCHAR(100) NOT NULL,
    permissions VARCHAR(400) NOT NULL COMMENT 'with commas, never more than its account has',
    created_us  BIGINT       NOT NULL,
    ends_us     BIGINT       NOT NULL,
    used_us     BIGINT       NULL,
    address     VARCHAR(45)  NOT NULL COMMENT 'from where it was used last',
    UNIQUE KEY by_uid (uid),
    KEY by_account (account_id),
    CONSTRAINT program_token_of FOREIGN KEY (account_id) REFERENCES account (account_id)
) ENGINE = InnoDB;
