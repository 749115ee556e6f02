"""The records, in SQLite through plain SQL."""
