-- How many steps are to do in each stage of an application, kept whenever something bears on it: counting a million takes too long.
CREATE TABLE step_groups (
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  stage INTEGER NOT NULL,
  steps INTEGER NOT NULL,
  minutes REAL NOT NULL,
  PRIMARY KEY (application_id, stage)
) WITHOUT ROWID;
INSERT INTO step_groups SELECT application_id, stage, count(*), sum(minutes) FROM steps WHERE live = 1 GROUP BY application_id, stage;
