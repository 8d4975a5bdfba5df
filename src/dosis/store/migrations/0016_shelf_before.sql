-- What a layout, look-up table, style or calibration held before it was replaced or removed. Written once.
CREATE TABLE shelf_before (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    kind       VARCHAR(40) NOT NULL,
    name       VARCHAR(120) NOT NULL,
    body       LONGBLOB NOT NULL,
    author     VARCHAR(200) NOT NULL,
    ended_by   VARCHAR(200) NOT NULL,
    ended_at   DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    KEY before_by_name (kind, name)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
