-- Notices: standing instructions to tell somebody; what was told and is not over; and the messages.
CREATE TABLE notice (
  id INTEGER PRIMARY KEY,
  document TEXT NOT NULL,
  made TEXT NOT NULL,
  changed TEXT NOT NULL
) STRICT;
CREATE TABLE notice_told (
  notice_id INTEGER NOT NULL REFERENCES notice (id) ON DELETE CASCADE,
  subject TEXT NOT NULL,
  mark TEXT NOT NULL,
  PRIMARY KEY (notice_id, subject)
) STRICT, WITHOUT ROWID;
CREATE TABLE message (
  id INTEGER PRIMARY KEY,
  notice_id INTEGER REFERENCES notice (id) ON DELETE SET NULL,
  notice TEXT NOT NULL,
  channel TEXT NOT NULL,
  place TEXT NOT NULL,
  title TEXT NOT NULL,
  content TEXT NOT NULL,
  made TEXT NOT NULL,
  state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'sent', 'failed')),
  next_try TEXT,
  tries INTEGER NOT NULL DEFAULT 0,
  sent TEXT,
  problem TEXT
) STRICT;
CREATE INDEX message_due ON message (next_try) WHERE state = 'waiting';
CREATE TRIGGER secret_of_notice AFTER DELETE ON notice BEGIN
  DELETE FROM key WHERE service_id LIKE 'hook:' || old.id || ':%';
END;
