-- A digest of which rows a snapshot has, in which order, and of its headings. Older snapshots have none.
ALTER TABLE snapshot ADD COLUMN digest BLOB;
