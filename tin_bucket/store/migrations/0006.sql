-- Columns by the words that the field uses: iterations of a fan-out, complete and rebuilt snapshots.
ALTER TABLE call RENAME COLUMN round TO iteration;
ALTER TABLE run RENAME COLUMN rounds TO iterations;
ALTER TABLE snapshot RENAME COLUMN whole TO complete;
ALTER TABLE snapshot RENAME COLUMN remade TO rebuilt;
UPDATE run SET state = 'complete' WHERE state = 'whole';
UPDATE run SET state = 'incomplete' WHERE state = 'short';
