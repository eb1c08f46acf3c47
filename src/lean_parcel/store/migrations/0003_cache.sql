-- When each encode was last of use, on a clock of its own, so that the workspace can keep to a size.
ALTER TABLE encode ADD COLUMN used INTEGER NOT NULL DEFAULT 0;
CREATE INDEX encode_by_use ON encode (used);
