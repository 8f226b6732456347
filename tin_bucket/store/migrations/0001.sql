CREATE TABLE service (
  id TEXT PRIMARY KEY,
  document TEXT NOT NULL
) STRICT;

-- A sealed key opens only with the workspace's key file, for the service and the origin it was stored for.
CREATE TABLE key (
  service_id TEXT PRIMARY KEY REFERENCES service (id) ON DELETE CASCADE,
  origin TEXT NOT NULL,
  nonce BLOB NOT NULL,
  sealed BLOB NOT NULL,
  stored TEXT NOT NULL,
  last_used TEXT
) STRICT;

CREATE TABLE query (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  made TEXT NOT NULL,
  brief_id INTEGER
) STRICT;

-- Every saved version of a query's brief.
CREATE TABLE brief (
  id INTEGER PRIMARY KEY,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  saved TEXT NOT NULL,
  document TEXT NOT NULL
) STRICT;
CREATE INDEX brief_query ON brief (query_id);

CREATE TABLE run (
  id INTEGER PRIMARY KEY,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  brief TEXT NOT NULL,
  bindings TEXT NOT NULL,
  cause TEXT NOT NULL,
  process TEXT NOT NULL,
  state TEXT NOT NULL,
  started TEXT NOT NULL,
  ended TEXT,
  calls INTEGER NOT NULL DEFAULT 0,
  records INTEGER NOT NULL DEFAULT 0,
  rows INTEGER NOT NULL DEFAULT 0,
  stated_total INTEGER,
  stop TEXT,
  notes TEXT NOT NULL DEFAULT '{}',
  problem TEXT
) STRICT;
CREATE INDEX run_query ON run (query_id, id);

-- Calls are kept without their key. `answer` is cleared when the answers of an old run are let go.
CREATE TABLE call (
  run_id INTEGER NOT NULL REFERENCES run (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  stage TEXT NOT NULL,
  label TEXT NOT NULL,
  method TEXT NOT NULL,
  address TEXT NOT NULL,
  headers TEXT NOT NULL,
  status INTEGER NOT NULL,
  answer_headers TEXT NOT NULL,
  sent TEXT NOT NULL,
  seconds REAL NOT NULL,
  size INTEGER NOT NULL,
  records INTEGER NOT NULL,
  answer BLOB,
  problem TEXT,
  PRIMARY KEY (run_id, number)
) STRICT, WITHOUT ROWID;
CREATE INDEX call_answer ON call (answer);

CREATE TABLE answer (
  digest BLOB PRIMARY KEY,
  body BLOB NOT NULL
) STRICT;

-- The names of a table's columns, sorted: what the values of a stored row stand for.
CREATE TABLE layout (
  id INTEGER PRIMARY KEY,
  names TEXT NOT NULL UNIQUE
) STRICT;

-- Rows are stored once for each distinct content. A batch's rows have consecutive ids from `first_row`.
CREATE TABLE row_batch (
  first_row INTEGER PRIMARY KEY,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  layout_id INTEGER NOT NULL REFERENCES layout (id),
  count INTEGER NOT NULL,
  digests BLOB NOT NULL
) STRICT;
CREATE INDEX row_batch_query ON row_batch (query_id);

CREATE TABLE row (
  id INTEGER PRIMARY KEY,
  content BLOB NOT NULL
) STRICT;

CREATE TRIGGER row_batch_gone AFTER DELETE ON row_batch BEGIN
  DELETE FROM row WHERE id >= old.first_row AND id < old.first_row + old.count;
END;

-- A snapshot is an ordered list of row ids, told whole or by what it shares with the snapshot `base`.
CREATE TABLE snapshot (
  id INTEGER PRIMARY KEY,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  run_id INTEGER NOT NULL REFERENCES run (id) ON DELETE CASCADE,
  taken TEXT NOT NULL,
  headings TEXT NOT NULL,
  match TEXT NOT NULL,
  layout_id INTEGER NOT NULL REFERENCES layout (id),
  rows INTEGER NOT NULL,
  whole INTEGER NOT NULL,
  stated_total INTEGER,
  since TEXT NOT NULL,
  base INTEGER REFERENCES snapshot (id),
  depth INTEGER NOT NULL,
  row_ids BLOB NOT NULL,
  origins BLOB NOT NULL
) STRICT;
CREATE INDEX snapshot_query ON snapshot (query_id, taken);
