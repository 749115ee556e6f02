-- What a scan says of lines, checks, sets, modules, references and used symbols stands in tables; its JSON text “detail” goes.
CREATE TABLE today_lines (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  ordinal INTEGER NOT NULL,
  module TEXT NOT NULL,
  coordinate TEXT NOT NULL,
  line TEXT NOT NULL,
  how TEXT NOT NULL,
  file TEXT NOT NULL,
  line_number INTEGER NOT NULL,
  disagreements TEXT NOT NULL,
  PRIMARY KEY (scan_id, ordinal)
) WITHOUT ROWID;
INSERT INTO today_lines
SELECT s.id, t.key, coalesce(json_extract(t.value, '$.module'), ''), json_extract(t.value, '$.coordinate'),
  json_extract(t.value, '$.line'), coalesce(json_extract(t.value, '$.how'), ''), coalesce(json_extract(t.value, '$.file'), ''),
  coalesce(json_extract(t.value, '$.line_number'), 0), coalesce(json_extract(t.value, '$.disagreements'), '[]')
FROM scans s, json_each(s.summary, '$.today') t;

CREATE TABLE scan_checks (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  ordinal INTEGER NOT NULL,
  sort TEXT NOT NULL,
  holds REAL NOT NULL,
  fails REAL NOT NULL,
  unknown REAL NOT NULL,
  PRIMARY KEY (scan_id, ordinal)
) WITHOUT ROWID;
INSERT INTO scan_checks
SELECT s.id, row_number() OVER (PARTITION BY s.id ORDER BY t.id), t.key, json_extract(t.value, '$.holds'),
  json_extract(t.value, '$.fails'), json_extract(t.value, '$.unknown')
FROM scans s, json_each(s.summary, '$.tallies') t;

-- ``body``: a set of modules with its spans and what surrounds it; a module with its manifests, faults and pins.
CREATE TABLE module_sets (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  ordinal INTEGER NOT NULL,
  name TEXT NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (scan_id, ordinal)
) WITHOUT ROWID;
INSERT INTO module_sets
SELECT s.id, t.key, json_extract(t.value, '$.name'), json_set(t.value, '$.spans', json((
  SELECT json_group_object(p.key, json_object('today', json_extract(p.value, '$[0]'), 'goal', json_extract(p.value, '$[1]')))
  FROM json_each(t.value, '$.spans') p)))
FROM scans s, json_each(s.detail, '$.sets') t;

CREATE TABLE scan_modules (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  ordinal INTEGER NOT NULL,
  path TEXT NOT NULL,
  holds REAL NOT NULL,
  fails REAL NOT NULL,
  unknown REAL NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (scan_id, ordinal)
) WITHOUT ROWID;
INSERT INTO scan_modules
SELECT s.id, t.key, json_extract(t.value, '$.path'), coalesce(json_extract(c.value, '$.holds'), 0),
  coalesce(json_extract(c.value, '$.fails'), 0), coalesce(json_extract(c.value, '$.unknown'), 0), t.value
FROM scans s JOIN json_each(s.detail, '$.modules') t
LEFT JOIN json_each(s.detail, '$.by_module') c ON c.key = json_extract(t.value, '$.path');

CREATE TABLE folder_references (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  source TEXT NOT NULL,
  target TEXT NOT NULL,
  count INTEGER NOT NULL,
  PRIMARY KEY (scan_id, source, target)
) WITHOUT ROWID;
INSERT OR IGNORE INTO folder_references
SELECT s.id, json_extract(t.value, '$[0]'), json_extract(t.value, '$[1]'), json_extract(t.value, '$[2]')
FROM scans s, json_each(s.detail, '$.references') t;

CREATE TABLE used_symbols (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  coordinate TEXT NOT NULL,
  symbol TEXT NOT NULL,
  PRIMARY KEY (scan_id, coordinate, symbol)
) WITHOUT ROWID;
INSERT OR IGNORE INTO used_symbols
SELECT s.id, t.key, u.value FROM scans s, json_each(s.detail, '$.used') t, json_each(t.value) u;

-- ``lonely``: no other file names it.
ALTER TABLE scan_files ADD COLUMN lonely INTEGER NOT NULL DEFAULT 0;
UPDATE scan_files SET lonely = 1 WHERE (scan_id, path) IN (SELECT s.id, t.value FROM scans s, json_each(s.detail, '$.lonely') t);

UPDATE scans SET summary = json_remove(summary, '$.today', '$.tallies');
ALTER TABLE scans DROP COLUMN detail;
