-- What became of the files that reports are written to.
CREATE TABLE report_file (
  report_id INTEGER NOT NULL REFERENCES report (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  written TEXT,
  place TEXT NOT NULL DEFAULT '',
  size INTEGER NOT NULL DEFAULT 0,
  problem TEXT,
  next_try TEXT,
  tries INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (report_id, path)
) STRICT, WITHOUT ROWID;
