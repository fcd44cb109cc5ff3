-- Where a thing is filed: a folder and labels, of any kind of thing. Not part of its design: it changes at once, and nothing
-- that works is touched. Sources had theirs in their documents before.

CREATE TABLE filed (
  definition_id CHAR(8)       NOT NULL PRIMARY KEY,
  folder        VARCHAR(200)  NOT NULL,
  labels        VARCHAR(2000) NOT NULL
);

INSERT IGNORE INTO filed (definition_id, folder, labels)
SELECT s.definition_id, COALESCE(LEFT(JSON_VALUE(s.document, '$.folder'), 200), ''),
       LEFT(COALESCE(GROUP_CONCAT(l.label SEPARATOR ', '), ''), 2000)
FROM (
  SELECT definition_id, document FROM draft WHERE kind = 'SOURCE' AND document IS NOT NULL
    AND (definition_id, revision) IN (SELECT definition_id, MAX(revision) FROM draft GROUP BY definition_id)
  UNION ALL
  SELECT definition_id, document FROM definition_version WHERE kind = 'SOURCE' AND document IS NOT NULL
    AND definition_id NOT IN (SELECT definition_id FROM draft)
    AND (definition_id, release_id) IN (SELECT definition_id, MAX(release_id) FROM definition_version GROUP BY definition_id)
) s LEFT JOIN JSON_TABLE(s.document, '$.labels[*]' COLUMNS (label VARCHAR(60) PATH '$')) l ON TRUE
GROUP BY s.definition_id;

DELETE FROM filed WHERE folder = '' AND labels = '';
