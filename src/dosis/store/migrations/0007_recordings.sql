-- Readings that are curves: their numbers, apart from `cells`, which says what was read. A block holds some places of
-- the axis (`width`), from `first` on, of `height` readings from `reading` on; reading −1 is the axis itself. `numbers` are float64,
-- little-endian, the first bytes of all before the second ones, compressed by zlib. Written once, as all readings.
CREATE TABLE recording_block (
    run_id   BIGINT UNSIGNED NOT NULL,
    number   INT UNSIGNED NOT NULL,
    reading  INT NOT NULL,
    first    INT UNSIGNED NOT NULL,
    height   INT UNSIGNED NOT NULL,
    width    INT UNSIGNED NOT NULL,
    numbers  LONGBLOB NOT NULL,
    PRIMARY KEY (run_id, number, reading, first),
    CONSTRAINT block_of_readings FOREIGN KEY (run_id, number) REFERENCES readings (run_id, number)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
