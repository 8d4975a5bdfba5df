-- The chain of the ledger: each seal holds the hash of its row, of what the row did, and of the seal before. Written once, in the order in
-- which rows were found committed; a row of the ledger itself is never touched again.
CREATE TABLE ledger_seal (
    number    BIGINT UNSIGNED NOT NULL PRIMARY KEY,
    ledger_id BIGINT UNSIGNED NOT NULL,
    did       BINARY(32) NULL,
    hash      BINARY(32) NOT NULL,
    CONSTRAINT sealed_once UNIQUE (ledger_id),
    CONSTRAINT seal_of_row FOREIGN KEY (ledger_id) REFERENCES ledger (id)
) ENGINE = InnoDB DEFAULT CHARSET = utf8mb4 COLLATE = utf8mb4_unicode_520_ci;
