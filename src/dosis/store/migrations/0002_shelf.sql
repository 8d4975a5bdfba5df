-- Layouts and look-up tables kept by name. A run holds copies of what it uses, so both may change or go.
-- `body` is zlib-compressed JSON.

CREATE TABLE saved_layout (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(120) NOT NULL,
    body       LONGBLOB NOT NULL,
    author     VARCHAR(200) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT layout_named_once UNIQUE (name),
    CONSTRAINT layout_has_name CHECK (CHAR_LENGTH(name) > 0)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE lookup_table (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(120) NOT NULL,
    body       LONGBLOB NOT NULL,
    author     VARCHAR(200) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT table_named_once UNIQUE (name),
    CONSTRAINT table_has_name CHECK (CHAR_LENGTH(name) > 0)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
