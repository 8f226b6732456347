-- Columns by the words that the field uses: iterations of a fan-out, complete and rebuilt snapshots.
ALTER TABLE call RENAME COLUMN round TO iteration;
ALTER TABLE run RENAME COLUMN rounds TO iterations;
ALTER TABLE snapshot RENAME COLUMN whole TO complete;
ALTER TABLE snapshot RENAME COLUMN remade TO rebuilt;
UPDATE run SET state = 'complete' WHERE state = 'whole';
UPDATE run SET state = 'incomplete' WHERE state = 'short';
-- What is in memory of a snapshot is known by its version: a snapshot that is rebuilt gets another one.
ALTER TABLE snapshot ADD COLUMN version INTEGER NOT NULL DEFAULT 0;
-- The report of a run has another shape than its notes had.
ALTER TABLE run RENAME COLUMN notes TO report;
UPDATE run SET report = '{}';
