-- Review: where a run stands between draft and signed, every step of the way, signatures, and remarks with their answers.
ALTER TABLE run
    ADD COLUMN stage VARCHAR(10) NOT NULL DEFAULT 'draft',
    ADD COLUMN follows INT UNSIGNED NULL,
    ADD CONSTRAINT run_stage CHECK (stage IN ('draft', 'handed in', 'reviewed', 'signed'));

CREATE TABLE review_step (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    run_id     BIGINT UNSIGNED NOT NULL,
    revision   INT UNSIGNED NOT NULL,
    stage      VARCHAR(10) NOT NULL,
    account_id BIGINT UNSIGNED NULL,
    author     VARCHAR(200) NOT NULL,
    words      VARCHAR(1000) NOT NULL,
    at         DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT step_of_run FOREIGN KEY (run_id) REFERENCES run (id),
    CONSTRAINT step_by_account FOREIGN KEY (account_id) REFERENCES account (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- Written once, like the ledger. `digest` is that of what was signed: layout, method, outcome, readings and their source.
CREATE TABLE signature (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    run_id     BIGINT UNSIGNED NOT NULL,
    revision   INT UNSIGNED NOT NULL,
    account_id BIGINT UNSIGNED NULL,
    name       VARCHAR(200) NOT NULL,
    meaning    VARCHAR(20) NOT NULL,
    digest     BINARY(32) NOT NULL,
    at         DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT signature_of_revision FOREIGN KEY (run_id) REFERENCES run (id),
    CONSTRAINT signature_by_account FOREIGN KEY (account_id) REFERENCES account (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- `place` is what a remark is on: "run", "reading:" and its id, "step:" and its kind, "answer:" and its group; `named` what that is called.
CREATE TABLE remark (
    id        BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    run_id    BIGINT UNSIGNED NOT NULL,
    revision  INT UNSIGNED NOT NULL,
    place     VARCHAR(200) NOT NULL,
    named     VARCHAR(300) NOT NULL,
    text      TEXT NOT NULL,
    author    VARCHAR(200) NOT NULL,
    at        DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    closed_by VARCHAR(200) NULL,
    closed_at DATETIME(6) NULL,
    CONSTRAINT remark_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE remark_answer (
    id        BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    remark_id BIGINT UNSIGNED NOT NULL,
    text      TEXT NOT NULL,
    author    VARCHAR(200) NOT NULL,
    at        DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT answer_to_remark FOREIGN KEY (remark_id) REFERENCES remark (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE lab_setting (
    name  VARCHAR(40) NOT NULL PRIMARY KEY,
    value VARCHAR(200) NOT NULL
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
