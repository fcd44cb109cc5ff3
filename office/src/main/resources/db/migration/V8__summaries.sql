-- Summaries of blocks (dachshund.core.archive.Summary), so that a long time is read without its values: packed minutes, and
-- packed hours. In whole: 0 a piece as it came, 1 put together, 2 put together and its
-- own summary (no longer than one would be), 3 a summary alone, whose values are not kept any longer.
ALTER TABLE archive_block
  ADD COLUMN minutes MEDIUMBLOB NULL,
  ADD COLUMN hours   MEDIUMBLOB NULL;

ALTER TABLE archive_tag
  ADD COLUMN summaries INT NOT NULL DEFAULT 0; -- summaries are kept for so long behind the values; 0 for as long as these

-- Hours in plain rows, for any SQL client. An hour in which nothing came has no row: what holds is what held at the end of the
-- one before. Numbers, whole numbers and truth values (0 and 1); times are UTC. Values hold until the next one comes.
CREATE TABLE archive_hour (
  tag          BIGINT      NOT NULL,
  hour         DATETIME    NOT NULL, -- its beginning
  taken        INT         NOT NULL, -- values that can be used
  least        DOUBLE      NULL,
  least_at     DATETIME(6) NULL,
  greatest     DOUBLE      NULL,
  greatest_at  DATETIME(6) NULL,
  first        DOUBLE      NULL,
  last         DOUBLE      NULL,
  total        DOUBLE      NULL,     -- of the values
  area         DOUBLE      NOT NULL, -- value times seconds, over the seconds that are good
  good_seconds DOUBLE      NOT NULL, -- how much of the hour a value could be used; the rest was bad, or nothing was recorded
  at_end       DOUBLE      NULL,     -- what holds at its end; null where nothing is known there
  PRIMARY KEY (tag, hour)
);

CREATE VIEW archive_hours AS
  SELECT archive_tag.source, archive_tag.address, archive_tag.name, archive_hour.*,
         CASE WHEN good_seconds > 0 THEN area / good_seconds END AS average
  FROM archive_hour JOIN archive_tag USING (tag);

-- Blocks of before are put together again, which makes their summaries.
UPDATE archive_block SET whole = 0 WHERE sort < 3;
