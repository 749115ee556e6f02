-- What can be made and taken back has a version too: the number of the event that wrote it, so that it never comes twice.
ALTER TABLE waivers ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE adopted_paths ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE kept_views ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE accounts ADD COLUMN version INTEGER NOT NULL DEFAULT 1;

-- A rare word among a million steps is looked for where it can stand: among the titles there are, and in what people wrote.
CREATE TABLE step_titles (title TEXT PRIMARY KEY) WITHOUT ROWID;
INSERT OR IGNORE INTO step_titles SELECT DISTINCT title FROM steps;
CREATE INDEX steps_by_title ON steps (title);
CREATE INDEX steps_written ON steps (id) WHERE owner <> '' OR note <> '';
