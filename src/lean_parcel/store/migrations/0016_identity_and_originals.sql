-- Which workspace this is, in all of its copies, and whether it is one that `backup` made: only such
-- a copy of the same workspace is replaced by the next backup.
CREATE TABLE identity (
  workspace_id TEXT NOT NULL CHECK (length(workspace_id) = 32),
  is_backup INTEGER NOT NULL DEFAULT 0 CHECK (is_backup IN (0, 1))
) STRICT;

-- Originals that were passed through before they were decoded again as they go out are not offered
-- again without that: their searches go on, and use what was encoded.
UPDATE search SET state = 'running'
WHERE state = 'done' AND id IN (
  SELECT candidate.search_id FROM candidate JOIN encode ON encode.id = candidate.encode_id
  WHERE json_extract(encode.settings, '$.pass_through'));
DELETE FROM candidate WHERE encode_id IN (
  SELECT id FROM encode WHERE json_extract(settings, '$.pass_through'));
