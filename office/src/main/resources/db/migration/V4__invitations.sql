-- Whoever is added, or lost a password, is invited to choose one: by an address that works once and for some days. Of the
-- token in it only the SHA-256 is kept.

ALTER TABLE person ADD COLUMN invitation CHAR(64) CHARACTER SET ascii NULL;
ALTER TABLE person ADD COLUMN invited_until DATETIME(3) NULL;
