-- Files that come in pieces because they are large, as they came. Written once; `readings` name the file they are of. One that none
-- names is swept away after a day. `ends` : line ends of a piece, counted as it arrives. `done` says how many pieces have been read by who reads the
-- file in, `stopped` tells that process to end.
CREATE TABLE file (
    id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name       VARCHAR(200) NOT NULL,
    size       BIGINT UNSIGNED NOT NULL,
    make_key   CHAR(36) NOT NULL,
    done       INT UNSIGNED NOT NULL DEFAULT 0,
    stopped    BOOLEAN NOT NULL DEFAULT FALSE,
    created_at DATETIME(6) NOT NULL DEFAULT (UTC_TIMESTAMP(6)),
    CONSTRAINT file_made_once UNIQUE (make_key)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

CREATE TABLE file_piece (
    file_id BIGINT UNSIGNED NOT NULL,
    number  INT UNSIGNED NOT NULL,
    ends    INT UNSIGNED NOT NULL,
    data    LONGBLOB NOT NULL,
    PRIMARY KEY (file_id, number),
    CONSTRAINT piece_of_file FOREIGN KEY (file_id) REFERENCES file (id) ON DELETE CASCADE
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;

-- `numbers` names the copy of a long recording that a machine lays out from its blocks, to read from it what is wanted.
ALTER TABLE readings
    ADD COLUMN file_id BIGINT UNSIGNED NULL,
    ADD COLUMN numbers CHAR(32) NULL,
    ADD CONSTRAINT readings_of_file FOREIGN KEY (file_id) REFERENCES file (id);
