-- A run that ended with its program is interrupted; one that goes on with saved answers says which run it resumes.
ALTER TABLE run RENAME COLUMN goes_on TO resumed_from;
UPDATE run SET state = 'interrupted' WHERE state = 'broken off';
UPDATE run SET problem = json_set(problem, '$.kind', 'interrupted') WHERE json_extract(problem, '$.kind') = 'broken-off';
