-- Who may read live addresses. Of a key only its digest is kept, and how it begins.
CREATE TABLE reader (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  digest BLOB NOT NULL UNIQUE,
  begins TEXT NOT NULL,
  made TEXT NOT NULL,
  last_used TEXT,
  revoked TEXT
) STRICT;
