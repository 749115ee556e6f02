-- The records: sources, applications, destinations, scans, findings, steps, waivers, events, jobs.
CREATE TABLE sources (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('folder', 'git', 'archive')),
  location TEXT NOT NULL,
  ref TEXT NOT NULL DEFAULT '',
  subfolder TEXT NOT NULL DEFAULT '',
  UNIQUE (kind, location, ref, subfolder)
);
CREATE TABLE destinations (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  targets TEXT NOT NULL
);
CREATE TABLE applications (
  id INTEGER PRIMARY KEY,
  slug TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  owner TEXT NOT NULL DEFAULT '',
  team TEXT NOT NULL DEFAULT '',
  days_per_week REAL,
  source_id INTEGER NOT NULL REFERENCES sources (id),
  taken_in TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE application_destinations (
  application_id INTEGER NOT NULL REFERENCES applications (id),
  destination_id INTEGER NOT NULL REFERENCES destinations (id),
  is_current INTEGER NOT NULL DEFAULT 1,
  PRIMARY KEY (application_id, destination_id)
);
CREATE TABLE said_lines (
  application_id INTEGER NOT NULL REFERENCES applications (id),
  module TEXT NOT NULL DEFAULT '',
  coordinate TEXT NOT NULL,
  line TEXT NOT NULL,
  PRIMARY KEY (application_id, module, coordinate)
);
CREATE TABLE scans (
  id INTEGER PRIMARY KEY,
  application_id INTEGER NOT NULL REFERENCES applications (id),
  destination_id INTEGER NOT NULL REFERENCES destinations (id),
  snapshot TEXT NOT NULL,
  label TEXT NOT NULL,
  taken_at TEXT NOT NULL,
  seconds REAL NOT NULL,
  analyser TEXT NOT NULL,
  knowledge TEXT NOT NULL,
  summary TEXT NOT NULL,
  detail TEXT NOT NULL
);
CREATE INDEX scans_of_application ON scans (application_id, destination_id, id);
CREATE TABLE findings (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  ordinal INTEGER NOT NULL,
  key TEXT NOT NULL,
  level TEXT NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (scan_id, ordinal)
) WITHOUT ROWID;
CREATE INDEX findings_by_key ON findings (key, scan_id);
CREATE TABLE scan_files (
  scan_id INTEGER NOT NULL REFERENCES scans (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  state TEXT NOT NULL,
  reason TEXT NOT NULL,
  language TEXT NOT NULL,
  lines INTEGER NOT NULL,
  digest TEXT NOT NULL,
  holds REAL NOT NULL,
  fails REAL NOT NULL,
  unknown REAL NOT NULL,
  PRIMARY KEY (scan_id, path)
) WITHOUT ROWID;
CREATE TABLE texts (
  digest TEXT PRIMARY KEY,
  body BLOB NOT NULL
) WITHOUT ROWID;
CREATE TABLE steps (
  id INTEGER PRIMARY KEY,
  application_id INTEGER NOT NULL REFERENCES applications (id),
  destination_id INTEGER NOT NULL REFERENCES destinations (id),
  finding_key TEXT NOT NULL,
  stage INTEGER NOT NULL,
  title TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('open', 'closed', 'reopened', 'not seen')),
  why TEXT NOT NULL DEFAULT '',
  owner TEXT NOT NULL DEFAULT '',
  due TEXT,
  note TEXT NOT NULL DEFAULT '',
  places INTEGER NOT NULL DEFAULT 0,
  minutes REAL NOT NULL DEFAULT 0,
  files TEXT NOT NULL DEFAULT '[]',
  opened_at TEXT NOT NULL,
  closed_at TEXT,
  UNIQUE (application_id, destination_id, finding_key)
);
CREATE TABLE waivers (
  application_id INTEGER NOT NULL REFERENCES applications (id),
  finding_key TEXT NOT NULL,
  by_whom TEXT NOT NULL,
  why TEXT NOT NULL,
  until TEXT,
  PRIMARY KEY (application_id, finding_key)
);
CREATE TABLE events (
  id INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  application_id INTEGER REFERENCES applications (id),
  subject TEXT NOT NULL,
  what TEXT NOT NULL,
  why TEXT NOT NULL DEFAULT '',
  before TEXT,
  after TEXT,
  minutes REAL
);
CREATE INDEX events_of_application ON events (application_id, id);
CREATE TABLE jobs (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL,
  application_id INTEGER REFERENCES applications (id),
  batch TEXT NOT NULL DEFAULT '',
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'stopped')),
  who TEXT NOT NULL DEFAULT '',
  problem TEXT NOT NULL DEFAULT '',
  asked_at TEXT NOT NULL,
  started_at TEXT,
  ended_at TEXT
);
CREATE INDEX jobs_by_state ON jobs (state, id);
