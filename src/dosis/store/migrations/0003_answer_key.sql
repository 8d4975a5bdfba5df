-- A group can have several answers: one for each of its readings, or for each plate it was read on.
ALTER TABLE answer
    CHANGE COLUMN group_id answer_key VARCHAR(300) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
