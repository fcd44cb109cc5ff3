-- Each entry carries a checksum over itself and the checksum of the one before (core.audit.AuditChain). Numbers have no
-- gaps and are given by the application; entries of before are numbered and summed at the first entry after this.

ALTER TABLE audit MODIFY COLUMN id BIGINT NOT NULL;
ALTER TABLE audit ADD COLUMN mark CHAR(32) CHARACTER SET ascii NULL COMMENT 'drawn with the entry: one that is brought in late is there once';
ALTER TABLE audit ADD COLUMN sum VARCHAR(80) CHARACTER SET ascii NULL;
ALTER TABLE audit ADD UNIQUE KEY (mark);
