-- Studies, runs, their immutable readings, numbered revisions, the answers of the current one, and the ledger.

CREATE TABLE study (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(200) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT study_has_name CHECK (CHAR_LENGTH(name) > 0)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE run (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    study_id   BIGINT UNSIGNED NOT NULL,
    title      VARCHAR(200) NOT NULL,
    current    INT UNSIGNED NOT NULL DEFAULT 1,
    create_key CHAR(36) CHARACTER SET ascii NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT run_has_title CHECK (CHAR_LENGTH(title) > 0),
    CONSTRAINT run_made_once UNIQUE (create_key),
    CONSTRAINT run_in_study FOREIGN KEY (study_id) REFERENCES study (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Written once. `source` is the pasted text or the file's bytes, `choices` how a person corrected what was
-- understood, `cells` the readings; the three blobs are zlib-compressed, JSON where they are not bytes.
CREATE TABLE readings (
    run_id      BIGINT UNSIGNED NOT NULL PRIMARY KEY,
    source_name VARCHAR(200) NOT NULL,
    source      LONGBLOB NOT NULL,
    choices     LONGBLOB NOT NULL,
    cells       LONGBLOB NOT NULL,
    CONSTRAINT readings_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Appended, never overwritten. `origin` is the revision whose state this one equals (itself, unless made by undo
-- or redo); `undo_to` the origin it was made from; `redo_to` the revision that redo would bring back.
CREATE TABLE revision (
    run_id     BIGINT UNSIGNED NOT NULL,
    number     INT UNSIGNED NOT NULL,
    origin     INT UNSIGNED NOT NULL,
    undo_to    INT UNSIGNED NULL,
    redo_to    INT UNSIGNED NULL,
    layout     LONGBLOB NOT NULL,
    method     LONGBLOB NOT NULL,
    outcome    LONGBLOB NOT NULL,
    working    LONGBLOB NOT NULL,
    card       LONGBLOB NOT NULL,
    author     VARCHAR(200) NOT NULL,
    words      TEXT NOT NULL,
    change_key CHAR(36) CHARACTER SET ascii NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    PRIMARY KEY (run_id, number),
    CONSTRAINT change_made_once UNIQUE (run_id, change_key),
    CONSTRAINT revision_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- The answers of the current revision, for lists and queries across runs. `censor` marks a bound.
CREATE TABLE answer (
    run_id   BIGINT UNSIGNED NOT NULL,
    group_id VARCHAR(40) NOT NULL,
    name     VARCHAR(200) NOT NULL,
    role     VARCHAR(20) NOT NULL,
    value    DOUBLE NULL,
    lower    DOUBLE NULL,
    upper    DOUBLE NULL,
    censor   VARCHAR(2) NOT NULL DEFAULT '',
    unit     VARCHAR(40) NOT NULL,
    PRIMARY KEY (run_id, group_id),
    CONSTRAINT answer_censor CHECK (censor IN ('', '<', '>', '≤')),
    CONSTRAINT answer_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE ledger (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    at         DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    author     VARCHAR(200) NOT NULL,
    study_id   BIGINT UNSIGNED NULL,
    run_id     BIGINT UNSIGNED NULL,
    revision   INT UNSIGNED NULL,
    action     VARCHAR(40) NOT NULL,
    words      TEXT NOT NULL,
    KEY ledger_by_run (run_id, revision),
    CONSTRAINT ledger_study FOREIGN KEY (study_id) REFERENCES study (id),
    CONSTRAINT ledger_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
