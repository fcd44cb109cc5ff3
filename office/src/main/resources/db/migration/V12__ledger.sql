-- Runs of transactions: why each fired, what it read, what became of each step, and the answer.
CREATE TABLE ledger_run (
  nth           BIGINT       NOT NULL AUTO_INCREMENT,
  id            VARCHAR(60)  CHARACTER SET ascii NOT NULL,
  thing         CHAR(8)      CHARACTER SET ascii NOT NULL,
  fired_at      DATETIME(6)  NOT NULL,
  outcome       VARCHAR(12)  CHARACTER SET ascii NOT NULL,
  millis        INT          NOT NULL,
  document      MEDIUMTEXT   NOT NULL,
  PRIMARY KEY (nth),
  UNIQUE KEY (id),
  KEY (fired_at, nth),
  KEY (thing, fired_at, nth)
) ENGINE=InnoDB;

CREATE TABLE ledger_key (
  value         VARCHAR(120) NOT NULL,
  fired_at      DATETIME(6)  NOT NULL,
  run           BIGINT       NOT NULL,
  name          VARCHAR(60)  NOT NULL,
  PRIMARY KEY (value, fired_at, run, name),
  KEY (run)
) ENGINE=InnoDB;
