-- What is asked of a scan stands in tables; a plan is a record of its own, so a stored scan is never rewritten.
ALTER TABLE scans ADD COLUMN clear REAL;
ALTER TABLE scans ADD COLUMN known REAL NOT NULL DEFAULT 0;
ALTER TABLE scans ADD COLUMN errors INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scans ADD COLUMN warnings INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scans ADD COLUMN notes INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scans ADD COLUMN places INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scans ADD COLUMN has_detail INTEGER NOT NULL DEFAULT 1;
UPDATE scans SET
  clear = json_extract(summary, '$.clear'),
  known = coalesce(json_extract(summary, '$.known'), 0),
  errors = coalesce(json_extract(summary, '$.levels.error'), 0),
  warnings = coalesce(json_extract(summary, '$.levels.warning'), 0),
  notes = coalesce(json_extract(summary, '$.levels.note'), 0),
  places = coalesce(json_extract(summary, '$.places'), 0);

-- ``outline``: the plan without the keys of its findings, for who only wants its stages; ``version`` grows when it is made again.
CREATE TABLE plans (
  scan_id INTEGER PRIMARY KEY REFERENCES scans (id) ON DELETE CASCADE,
  version INTEGER NOT NULL DEFAULT 1,
  safe_now INTEGER NOT NULL DEFAULT 0,
  outline TEXT NOT NULL,
  body TEXT NOT NULL
);
INSERT INTO plans (scan_id, safe_now, outline, body)
SELECT id, coalesce(json_extract(summary, '$.safe_now'), 0), json_extract(summary, '$.plan'), json_extract(summary, '$.plan')
FROM scans WHERE json_extract(summary, '$.plan') IS NOT NULL;
UPDATE scans SET summary = json_remove(summary, '$.plan', '$.safe_now');

-- A finding stands at its position: by cause, as it is read. ``ordinal`` is the order of the scan. ``cause`` is its group's title.
-- ``change`` against the scan before: first, new or still. ``text``: what a filter looks through, in small letters.
ALTER TABLE findings RENAME TO old_findings;
DROP INDEX findings_by_key;
CREATE TABLE findings (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  ordinal INTEGER NOT NULL,
  key TEXT NOT NULL,
  module TEXT NOT NULL,
  coordinate TEXT NOT NULL,
  kind TEXT NOT NULL,
  level TEXT NOT NULL,
  confidence TEXT NOT NULL,
  symbol TEXT NOT NULL,
  title TEXT NOT NULL,
  bites_at TEXT,
  window_state TEXT NOT NULL,
  replacement TEXT,
  remedy TEXT NOT NULL,
  mechanical INTEGER NOT NULL,
  minutes_likely REAL NOT NULL,
  minutes_high REAL NOT NULL,
  places INTEGER NOT NULL,
  open_places INTEGER NOT NULL,
  cause TEXT NOT NULL,
  change TEXT NOT NULL,
  text TEXT NOT NULL,
  PRIMARY KEY (scan_id, position)
) WITHOUT ROWID;
CREATE TABLE finding_bodies (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (scan_id, position)
) WITHOUT ROWID;
CREATE TABLE places (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  ordinal INTEGER NOT NULL,
  key TEXT NOT NULL,
  file TEXT NOT NULL,
  line INTEGER NOT NULL,
  "column" INTEGER NOT NULL,
  end_column INTEGER NOT NULL,
  first_line INTEGER NOT NULL,
  symbol TEXT NOT NULL,
  form TEXT NOT NULL,
  scope TEXT NOT NULL,
  guarded TEXT NOT NULL,
  level TEXT NOT NULL,
  role TEXT NOT NULL,
  PRIMARY KEY (scan_id, position, ordinal)
) WITHOUT ROWID;
INSERT INTO findings
WITH named AS (
  SELECT scan_id, ordinal, key, level, body,
    CASE
      WHEN level = 'note' AND json_extract(body, '$.kind') = 'deprecated' THEN 'deprecated, works at the goal'
      WHEN level = 'note' THEN 'guarded, or later than the goal'
      WHEN json_extract(body, '$.kind') = 'package' THEN 'packages'
      WHEN json_extract(body, '$.kind') = 'toolchain' THEN 'toolchain'
      WHEN json_extract(body, '$.bites_at') IS NULL THEN 'warns'
      ELSE 'bites at ' || upper(substr(json_extract(body, '$.coordinate'), instr(json_extract(body, '$.coordinate'), '/') + 1, 1))
        || substr(json_extract(body, '$.coordinate'), instr(json_extract(body, '$.coordinate'), '/') + 2) || ' ' || json_extract(body, '$.bites_at')
    END AS cause
  FROM old_findings),
ranked AS (SELECT *, min(ordinal) OVER (PARTITION BY scan_id, cause) AS first FROM named)
SELECT scan_id, row_number() OVER (PARTITION BY scan_id ORDER BY first, ordinal) - 1, ordinal, key,
  json_extract(body, '$.module'), json_extract(body, '$.coordinate'), json_extract(body, '$.kind'), level,
  json_extract(body, '$.confidence'), json_extract(body, '$.symbol'), json_extract(body, '$.title'),
  json_extract(body, '$.bites_at'), json_extract(body, '$.window.state'), json_extract(body, '$.replacement'),
  json_extract(body, '$.remedy'), json_extract(body, '$.mechanical'),
  json_extract(body, '$.effort[1]'), json_extract(body, '$.effort[2]'),
  json_array_length(body, '$.places'),
  (SELECT count(*) FROM json_each(body, '$.places') p WHERE json_extract(p.value, '$.level') <> 'note'),
  cause, 'still',
  lower(json_extract(body, '$.title') || ' ' || json_extract(body, '$.symbol') || ' ' || json_extract(body, '$.kind') || ' '
    || coalesce(json_extract(body, '$.replacement'), '') || ' ' || coalesce(json_extract(body, '$.bites_at'), ''))
FROM ranked;
INSERT INTO finding_bodies
SELECT f.scan_id, f.position, json_remove(o.body, '$.places') FROM findings f
JOIN old_findings o ON o.scan_id = f.scan_id AND o.ordinal = f.ordinal;
INSERT INTO places
SELECT f.scan_id, f.position, p.key,
  json_extract(p.value, '$.key'), json_extract(p.value, '$.file'), json_extract(p.value, '$.line'),
  json_extract(p.value, '$.column'), json_extract(p.value, '$.end_column'), coalesce(json_extract(p.value, '$.first_line'), 0),
  json_extract(p.value, '$.symbol'), json_extract(p.value, '$.form'), json_extract(p.value, '$.scope'),
  json_extract(p.value, '$.guarded'), json_extract(p.value, '$.level'), 'source'
FROM findings f JOIN old_findings o ON o.scan_id = f.scan_id AND o.ordinal = f.ordinal, json_each(o.body, '$.places') p;
UPDATE places SET role = coalesce(
  (SELECT role FROM scan_files s WHERE s.scan_id = places.scan_id AND s.path = places.file), 'source');
DROP TABLE old_findings;
CREATE INDEX findings_by_key ON findings (key, scan_id);
CREATE INDEX places_by_file ON places (scan_id, file, position, level);

CREATE TABLE packages (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  ordinal INTEGER NOT NULL,
  coordinate TEXT NOT NULL,
  module TEXT NOT NULL,
  direct INTEGER NOT NULL,
  state TEXT NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (scan_id, ordinal)
) WITHOUT ROWID;
INSERT INTO packages
SELECT s.id, p.key, json_extract(p.value, '$.coordinate'), json_extract(p.value, '$.module'),
  coalesce(json_extract(p.value, '$.direct'), 1), json_extract(p.value, '$.state'), p.value
FROM scans s, json_each(s.detail, '$.packages') p;
CREATE INDEX packages_by_coordinate ON packages (coordinate, direct, scan_id);
UPDATE scans SET detail = json_remove(detail, '$.packages');

-- Places to change in a file, for the map; digests are asked for when texts that nobody names any more are dropped.
ALTER TABLE scan_files ADD COLUMN work INTEGER NOT NULL DEFAULT 0;
UPDATE scan_files SET work =
  (SELECT count(*) FROM places p WHERE p.scan_id = scan_files.scan_id AND p.file = scan_files.path AND p.level <> 'note');
CREATE INDEX scan_files_by_digest ON scan_files (digest);
CREATE INDEX scan_files_by_work ON scan_files (scan_id, work DESC, path) WHERE work > 0;

-- Answers that take long to make, kept with a mark of all they depend on; packages that an application is to others.
CREATE TABLE kept_answers (
  application_id INTEGER NOT NULL REFERENCES applications (id),
  name TEXT NOT NULL,
  mark TEXT NOT NULL,
  body BLOB NOT NULL,
  PRIMARY KEY (application_id, name)
) WITHOUT ROWID;
CREATE TABLE offered (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  coordinate TEXT NOT NULL,
  PRIMARY KEY (scan_id, coordinate)
) WITHOUT ROWID;
CREATE INDEX offered_by_coordinate ON offered (coordinate);
INSERT OR IGNORE INTO offered
SELECT s.id, k.kind || lower(json_extract(m.value, '$.name')) FROM scans s, json_each(s.detail, '$.modules') m,
  (SELECT 'pkg:pypi/' AS kind UNION SELECT 'pkg:npm/') k
WHERE coalesce(json_extract(m.value, '$.name'), '') <> '';

-- ``live``: 1 to do, 2 closed, both towards the current destination of an application that is looked after; 0 all others.
ALTER TABLE steps ADD COLUMN live INTEGER NOT NULL DEFAULT 0;
UPDATE steps SET live = CASE WHEN state = 'closed' THEN 2 ELSE 1 END
WHERE EXISTS (
  SELECT 1 FROM applications a
  JOIN application_destinations d ON d.application_id = a.id AND d.destination_id = steps.destination_id AND d.is_current = 1
  WHERE a.id = steps.application_id AND a.removed_at IS NULL);
CREATE INDEX steps_in_order ON steps (live, (state = 'reopened') DESC, coalesce(due, '9999'), stage, application_id, id);
CREATE INDEX steps_of_application ON steps (application_id, live, (state = 'reopened') DESC, coalesce(due, '9999'), stage, id);
CREATE INDEX steps_of_owner ON steps (owner COLLATE NOCASE, live) WHERE owner <> '';
CREATE INDEX steps_due ON steps (due) WHERE due IS NOT NULL AND live = 1;
CREATE INDEX steps_again ON steps (id) WHERE state = 'reopened' AND live = 1;
ALTER TABLE applications ADD COLUMN open_steps INTEGER NOT NULL DEFAULT 0;
ALTER TABLE applications ADD COLUMN closed_steps INTEGER NOT NULL DEFAULT 0;
UPDATE applications SET
  open_steps = (SELECT count(*) FROM steps s WHERE s.application_id = applications.id AND s.live = 1),
  closed_steps = (SELECT count(*) FROM steps s WHERE s.application_id = applications.id AND s.live = 2);
CREATE INDEX jobs_of_application ON jobs (kind, application_id, id);
