-- What a feed remembers of the last time, what it handed over then, and when it is tried again.
CREATE TABLE feed (
  query_id INTEGER NOT NULL REFERENCES query(id) ON DELETE CASCADE,
  key TEXT NOT NULL,
  memory TEXT NOT NULL DEFAULT '{}',
  snapshot_id INTEGER,
  tries INTEGER NOT NULL DEFAULT 0,
  next_try TEXT,
  PRIMARY KEY (query_id, key)
) STRICT, WITHOUT ROWID;
CREATE TABLE hand_over (
  id INTEGER PRIMARY KEY,
  query_id INTEGER NOT NULL REFERENCES query(id) ON DELETE CASCADE,
  key TEXT NOT NULL,
  place TEXT NOT NULL,
  cause TEXT NOT NULL,
  snapshot_id INTEGER,
  taken TEXT,
  started TEXT NOT NULL,
  ended TEXT NOT NULL,
  state TEXT NOT NULL,
  rows INTEGER NOT NULL,
  told TEXT NOT NULL,
  problem TEXT
) STRICT;
CREATE INDEX hand_over_of_feed ON hand_over(query_id, key, id);
