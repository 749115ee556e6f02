-- Runs: whether an application's code may be run and how, what a job about runs was asked for, what came of it, and who looked at what.
CREATE TABLE run_settings (
  application_id INTEGER PRIMARY KEY REFERENCES applications (id) ON DELETE CASCADE,
  module TEXT NOT NULL,
  command TEXT NOT NULL,
  beside TEXT NOT NULL,
  minutes REAL NOT NULL,
  who TEXT NOT NULL,
  at TEXT NOT NULL
);

CREATE TABLE run_jobs (
  job_id INTEGER PRIMARY KEY REFERENCES jobs (id) ON DELETE CASCADE,
  stage INTEGER NOT NULL,
  stage_key TEXT NOT NULL,
  branch TEXT NOT NULL
);

CREATE TABLE runs (
  id INTEGER PRIMARY KEY,
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  destination_id INTEGER NOT NULL REFERENCES destinations (id),
  stage INTEGER NOT NULL,
  stage_key TEXT NOT NULL,
  branch TEXT NOT NULL,
  content TEXT NOT NULL,
  problem TEXT NOT NULL,
  counts TEXT NOT NULL,
  body BLOB NOT NULL,
  who TEXT NOT NULL,
  at TEXT NOT NULL
);
CREATE INDEX runs_of_stage ON runs (application_id, destination_id, stage_key, id);

CREATE TABLE looks (
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  finding_key TEXT NOT NULL,
  places INTEGER NOT NULL,
  files TEXT NOT NULL,
  note TEXT NOT NULL,
  who TEXT NOT NULL,
  at TEXT NOT NULL,
  PRIMARY KEY (application_id, finding_key)
) WITHOUT ROWID;
