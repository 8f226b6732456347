-- The places that a run's answers have, with the kind of their values: what the next run is compared with.
ALTER TABLE run ADD COLUMN fields BLOB;

-- A snapshot that was read anew from its saved answers says when, and by which brief.
ALTER TABLE snapshot ADD COLUMN remade TEXT;
ALTER TABLE snapshot ADD COLUMN brief TEXT;
