-- Jobs that make a library known, the role of a file, and filters that a person keeps.
ALTER TABLE jobs ADD COLUMN subject TEXT NOT NULL DEFAULT '';
ALTER TABLE scan_files ADD COLUMN role TEXT NOT NULL DEFAULT 'source';
CREATE TABLE kept_views (
  id INTEGER PRIMARY KEY,
  screen TEXT NOT NULL,
  name TEXT NOT NULL,
  query TEXT NOT NULL,
  by_whom TEXT NOT NULL DEFAULT '',
  kept_at TEXT NOT NULL,
  UNIQUE (screen, name)
);
