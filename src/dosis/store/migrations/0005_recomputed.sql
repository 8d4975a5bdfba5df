-- The outcome of a large run is stored whole with every n-th revision and worked out again for the others. `digest` is
-- the SHA-256 of its JSON, by which that is checked; `program` the version of Dosis that computed it. Revisions from
-- before have neither.
ALTER TABLE revision
    MODIFY COLUMN outcome LONGBLOB NULL,
    ADD COLUMN digest BINARY(32) NULL AFTER outcome,
    ADD COLUMN program VARCHAR(40) CHARACTER SET ascii NULL AFTER digest;
