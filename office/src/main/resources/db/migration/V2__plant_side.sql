-- Lists of tags stand apart from the documents that have them: a source with 50,000 tags is edited without writing them
-- again. A list is named by the SHA-256 of its content, so versions and drafts share it.

CREATE TABLE tag_list (
  hash CHAR(64) NOT NULL PRIMARY KEY,
  tags LONGBLOB NOT NULL COMMENT 'JSON, gzip'
);

ALTER TABLE definition_version ADD COLUMN tag_list CHAR(64) NULL;
ALTER TABLE draft ADD COLUMN tag_list CHAR(64) NULL;

-- Tokens of programs. The token itself is shown once; only its SHA-256 is kept.
CREATE TABLE api_token (
  id         BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name       VARCHAR(120) NOT NULL,
  hash       CHAR(64)     NOT NULL,
  scopes     VARCHAR(200) NOT NULL,
  made_by    VARCHAR(60)  NOT NULL,
  made_at    DATETIME(3)  NOT NULL,
  last_used  DATETIME(3)  NULL,
  revoked_at DATETIME(3)  NULL,
  revoked_by VARCHAR(60)  NULL,
  UNIQUE KEY (hash)
);
