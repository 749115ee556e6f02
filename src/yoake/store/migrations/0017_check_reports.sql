-- The newest report of each tool about a stage, as it came from another machine.
CREATE TABLE check_reports (
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  stage_key TEXT NOT NULL,
  tool TEXT NOT NULL,
  identity TEXT NOT NULL,
  machine TEXT NOT NULL,
  errors INTEGER NOT NULL,
  warnings INTEGER NOT NULL,
  notes INTEGER NOT NULL,
  findings TEXT NOT NULL,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  PRIMARY KEY (application_id, stage_key, tool)
) WITHOUT ROWID;
