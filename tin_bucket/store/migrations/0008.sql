-- An id is never used again: what is remembered of a query, run or snapshot that was deleted never belongs to another.
-- Made as in https://sqlite.org/lang_altertable.html, section 7; foreign keys are off while a step runs.
CREATE TABLE new_query (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL UNIQUE,
  made TEXT NOT NULL,
  brief_id INTEGER
) STRICT;
INSERT INTO new_query (
  id, name, made, brief_id
) SELECT
  id, name, made, brief_id
FROM query;
DROP TABLE query;
ALTER TABLE new_query RENAME TO query;

CREATE TABLE new_brief (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  saved TEXT NOT NULL,
  document TEXT NOT NULL
) STRICT;
INSERT INTO new_brief (
  id, query_id, saved, document
) SELECT
  id, query_id, saved, document
FROM brief;
DROP TABLE brief;
ALTER TABLE new_brief RENAME TO brief;
CREATE INDEX brief_query ON brief (query_id);

CREATE TABLE new_run (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
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
  report TEXT NOT NULL DEFAULT '{}',
  problem TEXT,
  iterations TEXT NOT NULL DEFAULT '[{}]',
  resumed_from INTEGER,
  fields BLOB
) STRICT;
INSERT INTO new_run (
  id, query_id, brief, bindings, cause, process, state, started, ended, calls, records, rows, stated_total,
  stop, report, problem, iterations, resumed_from, fields
) SELECT
  id, query_id, brief, bindings, cause, process, state, started, ended, calls, records, rows, stated_total,
  stop, report, problem, iterations, resumed_from, fields
FROM run;
DROP TABLE run;
ALTER TABLE new_run RENAME TO run;
CREATE INDEX run_query ON run (query_id, id);

CREATE TABLE new_snapshot (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  query_id INTEGER NOT NULL REFERENCES query (id) ON DELETE CASCADE,
  run_id INTEGER NOT NULL REFERENCES run (id) ON DELETE CASCADE,
  taken TEXT NOT NULL,
  headings TEXT NOT NULL,
  match TEXT NOT NULL,
  layout_id INTEGER NOT NULL REFERENCES layout (id),
  rows INTEGER NOT NULL,
  complete INTEGER NOT NULL,
  stated_total INTEGER,
  since TEXT NOT NULL,
  base INTEGER REFERENCES snapshot (id),
  depth INTEGER NOT NULL,
  row_ids BLOB NOT NULL,
  origins BLOB NOT NULL,
  rebuilt TEXT,
  brief TEXT,
  version INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO new_snapshot (
  id, query_id, run_id, taken, headings, match, layout_id, rows, complete, stated_total, since, base, depth,
  row_ids, origins, rebuilt, brief, version
) SELECT
  id, query_id, run_id, taken, headings, match, layout_id, rows, complete, stated_total, since, base, depth,
  row_ids, origins, rebuilt, brief, version
FROM snapshot;
DROP TABLE snapshot;
ALTER TABLE new_snapshot RENAME TO snapshot;
CREATE INDEX snapshot_query ON snapshot (query_id, taken);

CREATE TABLE new_sheet (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL UNIQUE,
  file TEXT NOT NULL,
  settings TEXT NOT NULL,
  headings TEXT NOT NULL,
  rows INTEGER NOT NULL,
  added TEXT NOT NULL,
  body BLOB NOT NULL
) STRICT;
INSERT INTO new_sheet (
  id, name, file, settings, headings, rows, added, body
) SELECT
  id, name, file, settings, headings, rows, added, body
FROM sheet;
DROP TABLE sheet;
ALTER TABLE new_sheet RENAME TO sheet;
