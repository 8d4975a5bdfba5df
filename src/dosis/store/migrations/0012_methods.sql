-- Methods with their versions, the numbers of runs that are watched, limits of control charts, and batches of runs.
CREATE TABLE method (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(120) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT method_named_once UNIQUE (name),
    CONSTRAINT method_has_name CHECK (CHAR_LENGTH(name) > 0)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Appended, never rewritten but for their state. `body` is zlib-compressed JSON.
CREATE TABLE method_version (
    method_id  BIGINT UNSIGNED NOT NULL,
    number     INT UNSIGNED NOT NULL,
    state      VARCHAR(10) NOT NULL,
    body       LONGBLOB NOT NULL,
    words      TEXT NOT NULL,
    author     VARCHAR(200) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    PRIMARY KEY (method_id, number),
    CONSTRAINT version_state CHECK (state IN ('draft', 'use', 'retired')),
    CONSTRAINT version_of_method FOREIGN KEY (method_id) REFERENCES method (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Many files worked by one method. An item's `item_key` is the key its run is made by, so that it is made once.
CREATE TABLE batch (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(200) NOT NULL,
    study_id   BIGINT UNSIGNED NOT NULL,
    method_id  BIGINT UNSIGNED NOT NULL,
    version    INT UNSIGNED NOT NULL,
    state      VARCHAR(10) NOT NULL DEFAULT 'filling',
    author     VARCHAR(200) NOT NULL,
    create_key CHAR(36) CHARACTER SET ascii NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    started_at DATETIME(6) NULL,
    ended_at   DATETIME(6) NULL,
    CONSTRAINT batch_made_once UNIQUE (create_key),
    CONSTRAINT batch_state CHECK (state IN ('filling', 'running', 'stopped', 'done')),
    CONSTRAINT batch_in_study FOREIGN KEY (study_id) REFERENCES study (id),
    CONSTRAINT batch_by_method FOREIGN KEY (method_id, version) REFERENCES method_version (method_id, number)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE batch_item (
    batch_id BIGINT UNSIGNED NOT NULL,
    number   INT UNSIGNED NOT NULL,
    name     VARCHAR(200) NOT NULL,
    item_key CHAR(36) CHARACTER SET ascii NOT NULL,
    source   LONGBLOB NOT NULL,
    state    VARCHAR(10) NOT NULL DEFAULT 'waiting',
    run_id   BIGINT UNSIGNED NULL,
    words    TEXT NOT NULL DEFAULT '',
    tried    INT UNSIGNED NOT NULL DEFAULT 0,
    ended_at DATETIME(6) NULL,
    PRIMARY KEY (batch_id, number),
    KEY item_by_state (batch_id, state),
    CONSTRAINT item_made_once UNIQUE (item_key),
    CONSTRAINT item_state CHECK (state IN ('waiting', 'done', 'failed')),
    CONSTRAINT item_of_batch FOREIGN KEY (batch_id) REFERENCES batch (id),
    CONSTRAINT item_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- `departs` is why the run is not as its method says, in the words of a person.
ALTER TABLE run
    ADD COLUMN method_id BIGINT UNSIGNED NULL,
    ADD COLUMN method_version INT UNSIGNED NULL,
    ADD COLUMN departs TEXT NOT NULL DEFAULT '',
    ADD KEY run_by_method (method_id),
    ADD CONSTRAINT run_by_version FOREIGN KEY (method_id, method_version) REFERENCES method_version (method_id, number);

-- The numbers of the current revision that are watched over runs; `each_one` what single readings come to, as JSON.
CREATE TABLE measure (
    run_id      BIGINT UNSIGNED NOT NULL,
    measure_key VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
    place       INT UNSIGNED NOT NULL,
    title       VARCHAR(300) NOT NULL,
    unit        VARCHAR(60) NOT NULL,
    value       DOUBLE NOT NULL,
    lower       DOUBLE NULL,
    upper       DOUBLE NULL,
    nominal     DOUBLE NULL,
    each_one    TEXT NOT NULL,
    PRIMARY KEY (run_id, measure_key),
    CONSTRAINT measure_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- What a method's numbers are held against where a person has chosen it: runs that limits come from, or typed limits.
CREATE TABLE chart_base (
    method_id   BIGINT UNSIGNED NOT NULL,
    measure_key VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
    body        TEXT NOT NULL,
    author      VARCHAR(200) NOT NULL,
    set_at      DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    PRIMARY KEY (method_id, measure_key),
    CONSTRAINT base_of_method FOREIGN KEY (method_id) REFERENCES method (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Readings that were put in the place of others have a source of their own; `source_of` is the set that has it.
ALTER TABLE readings
    ADD COLUMN source_of INT UNSIGNED NOT NULL DEFAULT 1;

-- What a person wrote about a sample or a reading; `place` is a group's id, or "reading:" and its id.
CREATE TABLE run_note (
    run_id     BIGINT UNSIGNED NOT NULL,
    place      VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
    text       TEXT NOT NULL,
    author     VARCHAR(200) NOT NULL,
    written_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    PRIMARY KEY (run_id, place),
    CONSTRAINT note_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
