-- Applications that move piece by piece: the two sides, their routes, calls, comparisons, and every move.
CREATE TABLE crossings (
  application_id INTEGER PRIMARY KEY REFERENCES applications (id) ON DELETE CASCADE,
  new_id INTEGER REFERENCES applications (id) ON DELETE SET NULL,
  rules TEXT NOT NULL,
  answers INTEGER NOT NULL DEFAULT 200,
  days INTEGER NOT NULL DEFAULT 3,
  quiet INTEGER NOT NULL DEFAULT 14,
  read_until INTEGER NOT NULL DEFAULT 0,
  counted TEXT NOT NULL DEFAULT '{}',
  begun_at TEXT NOT NULL,
  routes_at TEXT,
  version INTEGER NOT NULL DEFAULT 1
);
-- needs: what the route drags along, as JSON; gone_at: since when it is not in the code any more.
CREATE TABLE crossing_routes (
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  side TEXT NOT NULL CHECK (side IN ('old', 'new')),
  method TEXT NOT NULL,
  path TEXT NOT NULL,
  handler TEXT NOT NULL,
  file TEXT NOT NULL,
  line INTEGER NOT NULL,
  framework TEXT NOT NULL,
  rest TEXT NOT NULL DEFAULT '',
  source TEXT NOT NULL,
  needs TEXT NOT NULL DEFAULT '{}',
  safe INTEGER NOT NULL DEFAULT 0,
  mended_at TEXT,
  seen_at TEXT NOT NULL,
  gone_at TEXT,
  PRIMARY KEY (application_id, side, method, path)
) WITHOUT ROWID;
CREATE TABLE crossing_calls (
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  route TEXT NOT NULL,
  day TEXT NOT NULL,
  source TEXT NOT NULL,
  calls INTEGER NOT NULL,
  PRIMARY KEY (application_id, route, day, source)
) WITHOUT ROWID;
CREATE TABLE crossing_unmatched (
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  method TEXT NOT NULL,
  path TEXT NOT NULL,
  requests INTEGER NOT NULL,
  answered INTEGER NOT NULL,
  PRIMARY KEY (application_id, method, path)
) WITHOUT ROWID;
CREATE TABLE crossing_comparisons (
  id INTEGER PRIMARY KEY,
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  route TEXT NOT NULL,
  at TEXT NOT NULL,
  alike INTEGER NOT NULL,
  path TEXT NOT NULL,
  old_ms REAL NOT NULL,
  new_ms REAL NOT NULL,
  differences TEXT NOT NULL
);
CREATE INDEX crossing_comparisons_of_route ON crossing_comparisons (application_id, route, id);
CREATE TABLE crossing_moves (
  id INTEGER PRIMARY KEY,
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  route TEXT NOT NULL,
  standing TEXT NOT NULL,
  share REAL NOT NULL DEFAULT 0,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  why TEXT NOT NULL DEFAULT ''
);
CREATE INDEX crossing_moves_of_route ON crossing_moves (application_id, route, id);
CREATE TABLE crossing_slices (
  application_id INTEGER NOT NULL REFERENCES crossings (application_id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  name TEXT NOT NULL,
  routes TEXT NOT NULL,
  PRIMARY KEY (application_id, position)
) WITHOUT ROWID;
