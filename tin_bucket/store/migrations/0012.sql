-- What was changed in a query and not saved yet, step by step, so that steps can be undone after a restart too.
CREATE TABLE draft (
  query_id INTEGER PRIMARY KEY REFERENCES query(id) ON DELETE CASCADE,
  based_on INTEGER NOT NULL,
  version INTEGER NOT NULL,
  at INTEGER NOT NULL,
  unsaved INTEGER NOT NULL,
  changed TEXT NOT NULL,
  given TEXT NOT NULL
);
CREATE TABLE draft_step (
  query_id INTEGER NOT NULL REFERENCES draft(query_id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  PRIMARY KEY (query_id, number)
);
