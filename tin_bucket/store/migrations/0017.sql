-- People name snapshots, write notes to them and pin them. One that is named or pinned stays whatever the rule of its
-- query lets go.
ALTER TABLE snapshot ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE snapshot ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE snapshot ADD COLUMN pinned INTEGER NOT NULL DEFAULT 0;
