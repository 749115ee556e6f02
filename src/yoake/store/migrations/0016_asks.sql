-- Paths that a command is asked for: it is a server then, and its answers are its tests.
ALTER TABLE run_settings ADD COLUMN asks TEXT NOT NULL DEFAULT '[]';
