-- Keeping house: what a run or study is about, whether it is put away or in the bin; the words runs are found by. `question` and `state` are
-- those of the current revision, for lists. Of a run that is gone for good only this row and the ledger are left.
ALTER TABLE study
    ADD COLUMN description TEXT NOT NULL DEFAULT '',
    ADD COLUMN archived_at DATETIME(6) NULL;

ALTER TABLE run
    ADD COLUMN description TEXT NOT NULL DEFAULT '',
    ADD COLUMN question VARCHAR(20) NOT NULL DEFAULT '',
    ADD COLUMN state VARCHAR(10) NOT NULL DEFAULT '',
    ADD COLUMN archived_at DATETIME(6) NULL,
    ADD COLUMN binned_at DATETIME(6) NULL,
    ADD COLUMN gone_at DATETIME(6) NULL,
    ADD COLUMN copied_from BIGINT UNSIGNED NULL,
    ADD CONSTRAINT run_copied_from FOREIGN KEY (copied_from) REFERENCES run (id);

CREATE TABLE run_tag (
    run_id BIGINT UNSIGNED NOT NULL,
    tag    VARCHAR(40) NOT NULL,
    PRIMARY KEY (run_id, tag),
    KEY run_by_tag (tag),
    CONSTRAINT tag_of_run FOREIGN KEY (run_id) REFERENCES run (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
