-- Which workspace this is, in all of its copies, and whether it is one that `backup` made: only such
-- a copy of the same workspace is replaced by the next backup.
CREATE TABLE identity (
  workspace_id TEXT NOT NULL CHECK (length(workspace_id) = 32),
  is_backup INTEGER NOT NULL DEFAULT 0 CHECK (is_backup IN (0, 1))
) STRICT;
