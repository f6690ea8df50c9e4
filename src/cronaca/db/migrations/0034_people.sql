-- People: accounts, who is signed in, and wrong passwords. Passwords and tokens are kept as hashes alone.

CREATE TABLE account (
    account_id    INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    uid           CHAR(36)     NOT NULL,
    revision      INT UNSIGNED NOT NULL DEFAULT 1,
    name          VARCHAR(100) NOT NULL COMMENT 'typed to sign in',
    full_name     VARCHAR(200) NOT NULL,
    password_hash VARCHAR(200) NOT NULL COMMENT 'Argon2id',
    role          VARCHAR(32)  NOT NULL,
    must_change   BOOLEAN      NOT NULL COMMENT 'the password, before anything else',
    enabled       BOOLEAN      NOT NULL,
    created_us    BIGINT       NOT NULL,
    removed_us    BIGINT       NULL,
    present       BOOLEAN GENERATED ALWAYS AS (IF(removed_us IS NULL, TRUE, NULL)) STORED,
    UNIQUE KEY by_uid (uid),
    UNIQUE KEY by_name (name, present)
) ENGINE = InnoDB;

CREATE TABLE session (
    token_hash BINARY(32)   NOT NULL PRIMARY KEY COMMENT 'SHA-256 of a random token',
    uid        CHAR(36)     NOT NULL,
    account_id INT UNSIGNED NOT NULL,
    created_us BIGINT       NOT NULL,
    seen_us    BIGINT       NOT NULL,
    address    VARCHAR(45)  NOT NULL,
    agent      VARCHAR(200) NOT NULL COMMENT 'what the browser calls itself',
    UNIQUE KEY by_uid (uid),
    KEY by_account (account_id),
    KEY by_use (seen_us),
    CONSTRAINT session_of FOREIGN KEY (account_id) REFERENCES account (account_id)
) ENGINE = InnoDB;

CREATE TABLE sign_in_attempt (
    attempt_id BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    at_us      BIGINT       NOT NULL,
    name_hash  BINARY(32)   NOT NULL COMMENT 'SHA-256 of the name: people type passwords into that field',
    address    VARCHAR(45)  NOT NULL,
    succeeded  BOOLEAN      NOT NULL,
    KEY by_name (name_hash, at_us),
    KEY by_time (at_us)
) ENGINE = InnoDB;
