-- The archive of tags. A tag has one number everywhere (dachshund.core.archive.TagKey). Times are 100 ns ticks since 1601; a
-- span is eight hours. Blocks of one tag may overlap; of two values at one instant that of the higher id is the one.

CREATE TABLE archive_tag (
  tag     BIGINT        NOT NULL PRIMARY KEY,
  source  VARCHAR(40)   NOT NULL,
  address VARCHAR(2000) NOT NULL,
  name    VARCHAR(2000) NOT NULL,
  days    INT           NOT NULL -- values are kept for so long; 0 for ever
);

CREATE TABLE archive_block (
  id         BIGINT     NOT NULL AUTO_INCREMENT PRIMARY KEY,
  tag        BIGINT     NOT NULL,
  span       BIGINT     NOT NULL,
  first_time BIGINT     NOT NULL,
  last_time  BIGINT     NOT NULL,
  taken      INT        NOT NULL, -- values in it, gaps not counted
  sort       TINYINT    NOT NULL, -- 0 numbers, 1 whole numbers, 2 truth values, 3 texts
  whole      TINYINT    NOT NULL, -- whether it was put together from the blocks of its span
  bytes      INT        NOT NULL,
  data       MEDIUMBLOB NOT NULL,
  KEY by_tag (tag, span, taken, bytes, first_time, last_time),
  KEY in_pieces (whole, span, tag)
);

-- How far the lane of a rule is, of each journal that there was; what became of the values of all its entries.
CREATE TABLE archive_lane (
  journal  CHAR(16)    NOT NULL,
  lane     VARCHAR(40) NOT NULL,
  nth      BIGINT      NOT NULL,
  run      BIGINT      NOT NULL,
  at       BIGINT      NOT NULL,
  offered  BIGINT      NOT NULL,
  kept     BIGINT      NOT NULL,
  replaced BIGINT      NOT NULL,
  within   BIGINT      NOT NULL,
  refused  BIGINT      NOT NULL,
  PRIMARY KEY (journal, lane)
);

-- What there was beside the lanes: values that were brought in from files, that were filled from sources' own history; that gave way to another of the same instant when blocks were
-- put together (replaced); that were removed because their time was over.
CREATE TABLE archive_later (
  what VARCHAR(20) NOT NULL PRIMARY KEY,
  taken BIGINT     NOT NULL
);
