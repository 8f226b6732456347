-- Keys are of feeds too, such as the password of a database; they go with their query as others go with their service.
CREATE TABLE key_now (
  service_id TEXT PRIMARY KEY,
  origin TEXT NOT NULL,
  nonce BLOB NOT NULL,
  sealed BLOB NOT NULL,
  stored TEXT NOT NULL,
  last_used TEXT,
  fields TEXT NOT NULL DEFAULT '[]',
  expires TEXT,
  fingerprint TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO key_now SELECT service_id, origin, nonce, sealed, stored, last_used, fields, expires, fingerprint FROM key;
DROP TABLE key;
ALTER TABLE key_now RENAME TO key;
CREATE TRIGGER key_of_service AFTER DELETE ON service BEGIN
  DELETE FROM key WHERE service_id = old.id;
END;
CREATE TRIGGER key_of_query AFTER DELETE ON query BEGIN
  DELETE FROM key WHERE service_id LIKE 'feed:' || old.id || ':%';
END;
