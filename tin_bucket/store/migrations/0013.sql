-- Answers of lookups that are kept for a while, so that only new values are asked for.
CREATE TABLE looked_up (
  question BLOB NOT NULL,
  value TEXT NOT NULL,
  asked TEXT NOT NULL,
  found BLOB,
  PRIMARY KEY (question, value)
) STRICT, WITHOUT ROWID;
