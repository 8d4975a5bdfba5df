-- What was brought in can be understood anew. Each set of readings is written once, as before; a revision names the set
-- it is of. `source` stands with the first set alone, because it is the same for all.
ALTER TABLE readings
    ADD COLUMN number INT UNSIGNED NOT NULL DEFAULT 1 AFTER run_id,
    DROP PRIMARY KEY,
    ADD PRIMARY KEY (run_id, number);

ALTER TABLE revision
    ADD COLUMN readings INT UNSIGNED NOT NULL DEFAULT 1 AFTER redo_to;
