-- The columns of each query's newest long table, one by one, so that it is sorted and filtered without reading its rows.
CREATE TABLE column_copy (
  snapshot_id INTEGER NOT NULL REFERENCES snapshot (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  packs BLOB NOT NULL,
  PRIMARY KEY (snapshot_id, name)
) STRICT;
