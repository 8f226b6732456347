-- A key is made of fields; an empty list stands for the one field of the first version.
ALTER TABLE key ADD COLUMN fields TEXT NOT NULL DEFAULT '[]';
ALTER TABLE key ADD COLUMN expires TEXT;
ALTER TABLE key ADD COLUMN fingerprint TEXT NOT NULL DEFAULT '';

-- With a row here the vault's key comes from a passphrase (scrypt, RFC 7914), and not from the key file.
CREATE TABLE vault_lock (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  salt BLOB NOT NULL,
  cost INTEGER NOT NULL,
  nonce BLOB NOT NULL,
  sealed BLOB NOT NULL
) STRICT;

-- Where the key goes is a list of places, and where it comes from is said.
UPDATE service SET document = json_set(document, '$.key', json_object(
  'name', json_extract(document, '$.key.name'),
  'source', json_object('by', 'stored'),
  'places', json_array(json_object(
    'at', 'header',
    'name', json_extract(document, '$.key.header'),
    'prefix', json_extract(document, '$.key.prefix')
  ))
)) WHERE json_extract(document, '$.key.header') IS NOT NULL;

-- `used` is 0 for a call whose answer is no part of the table, such as one that was refused and made again.
ALTER TABLE call ADD COLUMN used INTEGER NOT NULL DEFAULT 1;
ALTER TABLE call ADD COLUMN round INTEGER NOT NULL DEFAULT 0;
ALTER TABLE call ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE call ADD COLUMN body BLOB;

-- The values that the question was asked for, a list of objects.
ALTER TABLE run ADD COLUMN rounds TEXT NOT NULL DEFAULT '[{}]';

CREATE TABLE sheet (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  file TEXT NOT NULL,
  settings TEXT NOT NULL,
  headings TEXT NOT NULL,
  rows INTEGER NOT NULL,
  added TEXT NOT NULL,
  body BLOB NOT NULL
) STRICT;

CREATE TABLE setting (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;
