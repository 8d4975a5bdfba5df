-- The run that a run was handed on from, such as the scans whose values are its readings.
ALTER TABLE run ADD COLUMN from_run BIGINT UNSIGNED NULL, ADD CONSTRAINT handed_from FOREIGN KEY (from_run) REFERENCES run (id);
