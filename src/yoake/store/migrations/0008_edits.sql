-- Edits that were proposed for an application, the newest only, and what a job about edits was asked for.
CREATE TABLE edit_proposals (
  application_id INTEGER PRIMARY KEY REFERENCES applications (id) ON DELETE CASCADE,
  scope TEXT NOT NULL,
  body BLOB NOT NULL,
  who TEXT NOT NULL,
  at TEXT NOT NULL
);

CREATE TABLE edit_jobs (
  job_id INTEGER PRIMARY KEY REFERENCES jobs (id) ON DELETE CASCADE,
  scope TEXT NOT NULL,
  keys TEXT NOT NULL,
  left_out TEXT NOT NULL,
  branch TEXT NOT NULL
);
