-- Who may use this Yoake: accounts, what they are signed in with, and tokens for programs. Secrets are kept as digests only.
CREATE TABLE accounts (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  role TEXT NOT NULL CHECK (role IN ('reader', 'member', 'lead', 'admin')),
  password TEXT,
  subject TEXT UNIQUE,
  made_at TEXT NOT NULL,
  disabled_at TEXT
);
CREATE TABLE sessions (
  digest TEXT PRIMARY KEY,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  made_at TEXT NOT NULL,
  ends_at TEXT NOT NULL,
  agent TEXT NOT NULL DEFAULT ''
) WITHOUT ROWID;
CREATE TABLE tokens (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  digest TEXT NOT NULL UNIQUE,
  scope TEXT NOT NULL CHECK (scope IN ('read', 'scan', 'write')),
  made_at TEXT NOT NULL,
  ends_at TEXT NOT NULL,
  revoked_at TEXT
);
CREATE TABLE first_links (digest TEXT PRIMARY KEY, ends_at TEXT NOT NULL) WITHOUT ROWID;
CREATE INDEX events_of_person ON events (who, id);

-- What people edit has a version: a change that was begun on an older one is told.
ALTER TABLE steps ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE applications ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
