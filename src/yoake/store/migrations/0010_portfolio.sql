CREATE TABLE teams (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  features REAL NOT NULL DEFAULT 0,
  version INTEGER NOT NULL DEFAULT 1
);
CREATE TABLE team_people (
  team_id INTEGER NOT NULL REFERENCES teams (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  days REAL NOT NULL,
  since TEXT,
  until TEXT,
  PRIMARY KEY (team_id, name)
) WITHOUT ROWID;
-- absence: of a person or a team; holiday: of a team or of all (empty); freeze: of a team, an application or all.
CREATE TABLE days_off (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('absence', 'holiday', 'freeze')),
  team TEXT NOT NULL DEFAULT '' COLLATE NOCASE,
  person TEXT NOT NULL DEFAULT '',
  application_id INTEGER REFERENCES applications (id) ON DELETE CASCADE,
  first TEXT NOT NULL,
  last TEXT NOT NULL,
  title TEXT NOT NULL DEFAULT '',
  calendar TEXT NOT NULL DEFAULT ''
);
CREATE INDEX days_off_of_team ON days_off (team, first);
-- An application of more than one team: shares of its work, which add up to 1. None: all of it is its own team's.
CREATE TABLE application_teams (
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  team TEXT NOT NULL COLLATE NOCASE,
  share REAL NOT NULL,
  PRIMARY KEY (application_id, team)
) WITHOUT ROWID;
ALTER TABLE applications ADD COLUMN features REAL NOT NULL DEFAULT 0;
ALTER TABLE applications ADD COLUMN late_cost REAL NOT NULL DEFAULT 1;
CREATE TABLE fixed_stages (
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  stage_key TEXT NOT NULL,
  begins TEXT NOT NULL,
  by_whom TEXT NOT NULL,
  why TEXT NOT NULL DEFAULT '',
  at TEXT NOT NULL,
  PRIMARY KEY (application_id, stage_key)
) WITHOUT ROWID;
-- The order of stages that was last found for a state of things (mark), as keys in JSON.
CREATE TABLE wave_orders (
  mark TEXT PRIMARY KEY,
  stages TEXT NOT NULL,
  bound REAL,
  best INTEGER NOT NULL,
  seconds REAL NOT NULL,
  at TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE what_ifs (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  changes TEXT NOT NULL,
  by_whom TEXT NOT NULL,
  at TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1
);
-- An application that somebody else moves: who, who was asked and when, what they answered, and the day they promised.
CREATE TABLE outside_applications (
  application_id INTEGER PRIMARY KEY REFERENCES applications (id) ON DELETE CASCADE,
  vendor TEXT NOT NULL,
  contact TEXT NOT NULL DEFAULT '',
  asked TEXT,
  answer TEXT NOT NULL DEFAULT '',
  promised TEXT,
  chase TEXT,
  arrived TEXT,
  version INTEGER NOT NULL DEFAULT 1
);
-- What a forecast said of a stage, to see later how often it held; one a stage and week (its Monday).
CREATE TABLE kept_forecasts (
  application_id INTEGER NOT NULL REFERENCES applications (id) ON DELETE CASCADE,
  stage_key TEXT NOT NULL,
  made TEXT NOT NULL,
  p50 TEXT,
  p80 TEXT,
  late REAL,
  PRIMARY KEY (application_id, stage_key, made)
) WITHOUT ROWID;
-- What is done by itself: every so many days, 0 for never; when it was done last.
CREATE TABLE watch (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  rescan_days INTEGER NOT NULL DEFAULT 0,
  records_days INTEGER NOT NULL DEFAULT 0,
  digest_days INTEGER NOT NULL DEFAULT 0,
  next_days INTEGER NOT NULL DEFAULT 0,
  mail_to TEXT NOT NULL DEFAULT '',
  rescanned_at TEXT,
  looked_up_at TEXT,
  digest_at TEXT,
  next_at TEXT,
  version INTEGER NOT NULL DEFAULT 1
);
INSERT INTO watch (id) VALUES (1);
-- Lines that come after another destination, scanned before anybody has to; nobody heads for them.
ALTER TABLE destinations ADD COLUMN after_id INTEGER REFERENCES destinations (id);
ALTER TABLE steps ADD COLUMN spent REAL NOT NULL DEFAULT 0;
ALTER TABLE steps ADD COLUMN kind TEXT NOT NULL DEFAULT '';
ALTER TABLE steps ADD COLUMN coordinate TEXT NOT NULL DEFAULT '';
CREATE INDEX steps_spent ON steps (id) WHERE spent > 0;
