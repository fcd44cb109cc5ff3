-- People, definitions as versioned documents, drafts, releases, audit. Times are UTC.

CREATE TABLE person (
  name          VARCHAR(60)  NOT NULL PRIMARY KEY,
  password_hash VARCHAR(100) NOT NULL,
  role          VARCHAR(20)  NOT NULL,
  must_change   BOOLEAN      NOT NULL DEFAULT FALSE,
  made_at       DATETIME(3)  NOT NULL
);

CREATE TABLE release_made (
  id      BIGINT      NOT NULL AUTO_INCREMENT PRIMARY KEY,
  made_at DATETIME(3) NOT NULL,
  made_by VARCHAR(60) NOT NULL,
  summary LONGTEXT    NOT NULL
);

-- One row per thing and release that touched it; a NULL document says that it was removed there.
CREATE TABLE definition_version (
  definition_id CHAR(8)      NOT NULL,
  release_id    BIGINT       NOT NULL,
  kind          VARCHAR(20)  NOT NULL,
  name          VARCHAR(120) NOT NULL,
  document      LONGTEXT,
  PRIMARY KEY (definition_id, release_id),
  FOREIGN KEY (release_id) REFERENCES release_made (id)
);

-- Every edit is a revision, so that it can be undone; the highest one counts. A NULL document drafts a removal.
CREATE TABLE draft (
  definition_id CHAR(8)      NOT NULL,
  revision      INT          NOT NULL,
  kind          VARCHAR(20)  NOT NULL,
  name          VARCHAR(120) NOT NULL,
  document      LONGTEXT,
  edited_by     VARCHAR(60)  NOT NULL,
  edited_at     DATETIME(3)  NOT NULL,
  PRIMARY KEY (definition_id, revision)
);

CREATE TABLE audit (
  id     BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
  at     DATETIME(3)  NOT NULL,
  who    VARCHAR(60)  NOT NULL,
  what   VARCHAR(60)  NOT NULL,
  detail VARCHAR(1000) NOT NULL,
  KEY (at)
);
