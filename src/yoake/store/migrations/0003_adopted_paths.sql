-- The path a set of modules was put on: which way, how it was shaped, and the plan as it was then.
CREATE TABLE adopted_paths (
  application_id INTEGER NOT NULL REFERENCES applications (id),
  destination_id INTEGER NOT NULL REFERENCES destinations (id),
  set_name TEXT NOT NULL,
  choice TEXT NOT NULL,
  shape TEXT NOT NULL,
  plan TEXT NOT NULL,
  finished TEXT NOT NULL DEFAULT '[]',
  by_whom TEXT NOT NULL,
  why TEXT NOT NULL DEFAULT '',
  adopted_at TEXT NOT NULL,
  PRIMARY KEY (application_id, destination_id, set_name)
);
