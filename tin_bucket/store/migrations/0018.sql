-- Rows and figures that are watched on the desk.
CREATE TABLE watch (
  id INTEGER PRIMARY KEY,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  document TEXT NOT NULL,
  UNIQUE (query_id, document)
) STRICT;
