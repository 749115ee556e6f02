-- What was left of the portfolio, week by week: days of work, and how many applications have arrived of all.
CREATE TABLE kept_work (
  made TEXT PRIMARY KEY,
  days_left REAL NOT NULL,
  arrived INTEGER NOT NULL,
  applications INTEGER NOT NULL
) WITHOUT ROWID;
