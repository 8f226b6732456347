-- The places that a run's answers have, with the kind of their values: what the next run is compared with.
ALTER TABLE run ADD COLUMN fields BLOB;

-- A snapshot that was read anew from its saved answers says when, and by which brief.
ALTER TABLE snapshot ADD COLUMN remade TEXT;
ALTER TABLE snapshot ADD COLUMN brief TEXT;

-- The columns of each query's newest long table, one by one, so that it is sorted and filtered without reading its rows.
CREATE TABLE column_copy (
  snapshot_id INTEGER NOT NULL REFERENCES snapshot (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  packs BLOB NOT NULL,
  PRIMARY KEY (snapshot_id, name)
) STRICT;
