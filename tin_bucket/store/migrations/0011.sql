-- Whether a table is whole has three answers, each with its evidence. What was called complete because one call had
-- been made, or because a page had fewer rows than the first, was never proved.
ALTER TABLE snapshot ADD COLUMN state TEXT NOT NULL DEFAULT 'complete';
ALTER TABLE snapshot ADD COLUMN evidence TEXT NOT NULL DEFAULT '';
UPDATE run SET state = 'unverified'
WHERE state = 'complete'
  AND (stop = 'one call, no pages' OR stop LIKE '%has fewer rows than the first' OR stop LIKE '% iterations reached %')
  AND stated_total IS NULL;
UPDATE snapshot SET state = 'incomplete' WHERE complete = 0;
UPDATE snapshot SET
  state = coalesce(
    (SELECT 'unverified' FROM run WHERE run.id = snapshot.run_id AND run.state = 'unverified' AND snapshot.complete),
    state),
  evidence = coalesce((SELECT stop FROM run WHERE run.id = snapshot.run_id), '');
ALTER TABLE snapshot DROP COLUMN complete;

-- What “Is there more?” tried and what it found out.
CREATE TABLE finding (
  id INTEGER PRIMARY KEY,
  query_id INTEGER REFERENCES query(id) ON DELETE CASCADE,
  asked TEXT NOT NULL,
  state TEXT NOT NULL,
  document TEXT NOT NULL
);
CREATE INDEX finding_of_query ON finding(query_id, id);
