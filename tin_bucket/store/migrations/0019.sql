-- Up to which date of a query its changes were looked at.
CREATE TABLE looked (
  query_id INTEGER PRIMARY KEY REFERENCES query (id) ON DELETE CASCADE,
  taken TEXT NOT NULL
) STRICT;
