-- Looks of figures kept by name, and the one in which a study's figures open. `body` is zlib-compressed JSON.

CREATE TABLE saved_style (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(120) NOT NULL,
    body       LONGBLOB NOT NULL,
    author     VARCHAR(200) NOT NULL,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT style_named_once UNIQUE (name),
    CONSTRAINT style_has_name CHECK (CHAR_LENGTH(name) > 0)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

ALTER TABLE study
    ADD COLUMN style_id BIGINT UNSIGNED NULL,
    ADD CONSTRAINT study_style FOREIGN KEY (style_id) REFERENCES saved_style (id) ON DELETE SET NULL;
