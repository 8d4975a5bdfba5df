-- Calibrations of a logger's channels kept by name. `body` is zlib-compressed JSON.
CREATE TABLE kept_calibration (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(120) NOT NULL,
    body       LONGBLOB NOT NULL,
    author     VARCHAR(200) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT calibration_named_once UNIQUE (name),
    CONSTRAINT calibration_has_name CHECK (CHAR_LENGTH(name) > 0)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
