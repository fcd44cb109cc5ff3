-- What each person opened lately, so that it stands first for them.
CREATE TABLE lately_used (
  person        VARCHAR(100) NOT NULL,
  definition_id CHAR(8)      NOT NULL,
  used_at       DATETIME(3)  NOT NULL,
  PRIMARY KEY (person, definition_id)
);
