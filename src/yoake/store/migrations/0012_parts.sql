-- What routes reach is one graph of parts, of which some are cut off; what may be asked twice stands in the file of rules alone.
ALTER TABLE crossing_routes DROP COLUMN safe;
ALTER TABLE crossing_routes DROP COLUMN needs;
-- tested: a test of the new side calls it; tests: that is asked for; grows: shares grow by themselves.
ALTER TABLE crossing_routes ADD COLUMN tested INTEGER NOT NULL DEFAULT 0;
ALTER TABLE crossings ADD COLUMN tests INTEGER NOT NULL DEFAULT 1;
ALTER TABLE crossings ADD COLUMN grows INTEGER NOT NULL DEFAULT 0;
CREATE TABLE crossing_parts (
  application_id INTEGER PRIMARY KEY REFERENCES crossings (application_id) ON DELETE CASCADE,
  body BLOB NOT NULL
);
CREATE TABLE crossing_choices (
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  file TEXT NOT NULL,
  name TEXT NOT NULL,
  choice TEXT NOT NULL CHECK (choice IN ('bring', 'bridge', 'leave')),
  PRIMARY KEY (application_id, file, name)
) WITHOUT ROWID;
INSERT INTO jobs (kind, application_id, batch, state, who, asked_at)
  SELECT 'routes', application_id, 'parts', 'waiting', '', begun_at FROM crossings WHERE routes_at IS NOT NULL;
