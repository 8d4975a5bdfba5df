-- People: their accounts, what they may do in which study, how they come in, and what was tried. Secrets are kept as SHA-256 hashes only,
-- passwords by argon2id; nobody is ever deleted, for the ledger names them.
CREATE TABLE account (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(200) NOT NULL,
    email      VARCHAR(200) NOT NULL,
    password   VARCHAR(200) CHARACTER SET ascii NULL,
    code_key   VARCHAR(64) CHARACTER SET ascii NULL,
    code_used  BIGINT UNSIGNED NOT NULL DEFAULT 0,
    roles      SET ('reader', 'analyst', 'reviewer', 'administrator') NOT NULL DEFAULT '',
    closed_at  DATETIME(6) NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT account_has_name CHECK (CHAR_LENGTH(name) > 0),
    CONSTRAINT account_named_once UNIQUE (name),
    CONSTRAINT account_written_to_once UNIQUE (email)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE account_study (
    account_id BIGINT UNSIGNED NOT NULL,
    study_id   BIGINT UNSIGNED NOT NULL,
    roles      SET ('reader', 'analyst', 'reviewer') NOT NULL,
    PRIMARY KEY (account_id, study_id),
    CONSTRAINT right_of_account FOREIGN KEY (account_id) REFERENCES account (id),
    CONSTRAINT right_in_study FOREIGN KEY (study_id) REFERENCES study (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- A way in that works once: for the first administrator (of no account yet), a new person, or a forgotten password.
CREATE TABLE one_time_link (
    hash       BINARY(32) NOT NULL PRIMARY KEY,
    account_id BIGINT UNSIGNED NULL,
    ends_at    DATETIME(6) NOT NULL,
    used_at    DATETIME(6) NULL,
    CONSTRAINT link_of_account FOREIGN KEY (account_id) REFERENCES account (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE session (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    hash       BINARY(32) NOT NULL,
    account_id BIGINT UNSIGNED NOT NULL,
    page_key   CHAR(43) CHARACTER SET ascii NOT NULL,
    address    VARCHAR(64) NOT NULL,
    agent      VARCHAR(200) NOT NULL,
    made_at    DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    seen_at    DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    ended_at   DATETIME(6) NULL,
    CONSTRAINT session_by_hash UNIQUE (hash),
    CONSTRAINT session_of_account FOREIGN KEY (account_id) REFERENCES account (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- For scripts: what one may do, in one study or in all that its person may.
CREATE TABLE token (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    hash       BINARY(32) NOT NULL,
    account_id BIGINT UNSIGNED NOT NULL,
    name       VARCHAR(100) NOT NULL,
    scope      VARCHAR(10) NOT NULL,
    study_id   BIGINT UNSIGNED NULL,
    made_at    DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    seen_at    DATETIME(6) NULL,
    ends_at    DATETIME(6) NOT NULL,
    ended_at   DATETIME(6) NULL,
    CONSTRAINT token_by_hash UNIQUE (hash),
    CONSTRAINT token_scope CHECK (scope IN ('read', 'work')),
    CONSTRAINT token_of_account FOREIGN KEY (account_id) REFERENCES account (id),
    CONSTRAINT token_in_study FOREIGN KEY (study_id) REFERENCES study (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Sign-ins that were refused, to slow down who guesses.
CREATE TABLE refused_sign_in (
    id      BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    at      DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    email   VARCHAR(200) NOT NULL,
    address VARCHAR(64) NOT NULL,
    KEY refused_by_email (email, at),
    KEY refused_by_address (address, at)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Who sent a file in pieces: nobody else sees it until a run is made of it.
ALTER TABLE file ADD COLUMN author VARCHAR(200) NOT NULL DEFAULT '';

ALTER TABLE ledger ADD KEY ledger_by_author (author, id), ADD KEY ledger_by_time (at);
