-- Reports: pages of text with live figures and exhibits. A reader's key is of tables, or of one report alone.
CREATE TABLE report (
  id INTEGER PRIMARY KEY,
  title TEXT NOT NULL,
  address TEXT NOT NULL DEFAULT '',
  document TEXT NOT NULL,
  made TEXT NOT NULL,
  changed TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE UNIQUE INDEX report_address ON report (address) WHERE address <> '';
ALTER TABLE reader ADD COLUMN report_id INTEGER REFERENCES report (id) ON DELETE CASCADE;
