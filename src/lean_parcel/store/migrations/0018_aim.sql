-- An aim has a limit, a likeness, or both; before, one of them held, and a limit beside a likeness
-- was only remembered.

UPDATE entry SET state = without_remembered_limits(state)
WHERE state LIKE '%"likeness"%' AND state IS NOT without_remembered_limits(state);

ALTER TABLE search ADD COLUMN most_bytes INTEGER;
UPDATE search SET most_bytes = limit_bytes;
ALTER TABLE search DROP COLUMN limit_bytes;
ALTER TABLE search RENAME COLUMN most_bytes TO limit_bytes;

-- Of photographs, PNG is searched where it is asked for. Of those that are there it was.
ALTER TABLE photo ADD COLUMN is_photograph INTEGER NOT NULL DEFAULT 0
  CHECK (is_photograph IN (0, 1));
