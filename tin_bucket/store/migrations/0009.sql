-- A run finds its snapshot without reading every other one.
CREATE INDEX snapshot_run ON snapshot (run_id);
-- How many rows each snapshot of a query has stands in the index itself.
DROP INDEX snapshot_query;
CREATE INDEX snapshot_query ON snapshot (query_id, taken, id, rows);
