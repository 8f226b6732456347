-- `turn` orders the calls of a round as its pages are turned, whatever their answers' order; `state` is how the call
-- ended; `saved` is 1 where the answer is one that an earlier run had saved, and no call was made.
ALTER TABLE call ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;
ALTER TABLE call ADD COLUMN state TEXT NOT NULL DEFAULT '';
ALTER TABLE call ADD COLUMN saved INTEGER NOT NULL DEFAULT 0;
UPDATE call SET turn = number;
UPDATE call SET state = CASE WHEN problem IS NULL THEN 'answered' ELSE 'failed' END;

-- The run that this one goes on from.
ALTER TABLE run ADD COLUMN goes_on INTEGER;

-- When calls were answered, in seconds since 1970, for the limits of their service.
CREATE TABLE paced (
  service_id TEXT NOT NULL REFERENCES service (id) ON DELETE CASCADE,
  at REAL NOT NULL,
  process TEXT NOT NULL
) STRICT;
CREATE INDEX paced_service ON paced (service_id, at);
