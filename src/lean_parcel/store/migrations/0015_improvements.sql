-- A candidate may be a better one in the place of another, found once the search had ended. What
-- drafts of a part have estimated of a large picture is kept, so that a step back computes nothing.
ALTER TABLE candidate ADD COLUMN improves_id INTEGER REFERENCES encode (id) ON DELETE SET NULL;

CREATE TABLE estimate (
  framed_id INTEGER NOT NULL REFERENCES framed (id) ON DELETE CASCADE,
  settings TEXT NOT NULL,
  width_px INTEGER NOT NULL,
  height_px INTEGER NOT NULL,
  version INTEGER NOT NULL,
  size_bytes INTEGER NOT NULL,
  likeness REAL NOT NULL,
  PRIMARY KEY (framed_id, settings, width_px, height_px, version)
) STRICT, WITHOUT ROWID;
