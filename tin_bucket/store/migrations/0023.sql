-- How many rows the newest table of a query has that starts from tables, and what it was made of when they were counted.
CREATE TABLE worked_rows (
  query_id INTEGER PRIMARY KEY REFERENCES query (id) ON DELETE CASCADE,
  made_of TEXT NOT NULL,
  snapshot_id INTEGER,
  dates INTEGER NOT NULL,
  rows INTEGER NOT NULL,
  problem TEXT NOT NULL DEFAULT ''
) STRICT;
