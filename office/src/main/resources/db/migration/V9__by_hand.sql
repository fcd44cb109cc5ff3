-- Values that people entered or corrected, each with the one that was there before: what was recorded stays here for good.
CREATE TABLE archive_by_hand (
  id       BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
  tag      BIGINT       NOT NULL,
  at       BIGINT       NOT NULL, -- 100 ns ticks since 1601
  was      MEDIUMTEXT   NULL,     -- what the archive had at this instant; null where there was nothing
  was_mark INT          NULL,     -- its quality
  is_now   MEDIUMTEXT   NULL,     -- null where there is none
  why      VARCHAR(500) NOT NULL,
  who      VARCHAR(100) NOT NULL,
  noted    DATETIME(3)  NOT NULL, -- UTC
  KEY by_tag (tag, at)
);
