-- Framing beyond a width, the journal, pages and places. Photos, picks and every file that was made
-- are carried over; searches run again, since their pixels are planned anew.

-- Every step: on a photo (its state) or, where photo_id is null, on the pages (their layout). The
-- entry of a photo that was visited last is the current one; undo visits the parent, redo the child
-- that was visited last, so that nothing is ever lost.
CREATE TABLE entry (
  id INTEGER PRIMARY KEY,
  photo_id INTEGER REFERENCES photo (id),
  parent_id INTEGER REFERENCES entry (id),
  words TEXT NOT NULL,
  state TEXT NOT NULL CHECK (json_valid(state)),
  visited INTEGER NOT NULL UNIQUE,
  made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
CREATE INDEX entry_by_visit ON entry (photo_id, visited);
CREATE INDEX entry_by_parent ON entry (parent_id, visited);

INSERT INTO entry (photo_id, words, state, visited)
SELECT id, 'Added', json_object(
    'framing', json_object('background', background),
    'aim', json_object(
      'place', json_object('css_width_px', css_width_px, 'density', density),
      'limit_bytes', limit_bytes,
      'formats', json(formats)),
    'picked_encode_id', picked_encode_id),
  row_number() OVER (ORDER BY aim_order, id)
FROM photo;

INSERT INTO entry (photo_id, words, state, visited)
SELECT NULL, 'Began', json_object('pages', json_array(json_object(
    'id', 1,
    'name', 'First page',
    'budget_bytes', NULL,
    'spots', json((
      SELECT json_group_array(json_object('photo_id', id, 'name', name))
      FROM (SELECT id, name FROM photo ORDER BY id)))))),
  (SELECT coalesce(max(visited), 0) + 1 FROM entry);

-- An original; its name is that of the file. What was found in it may be missing for one that came
-- before this version, and is looked for when it is asked for.
CREATE TABLE new_photo (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (name <> ''),
  original_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  thumbnail_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  format TEXT NOT NULL,
  size_bytes INTEGER NOT NULL CHECK (size_bytes > 0),
  width_px INTEGER NOT NULL CHECK (width_px > 0),
  height_px INTEGER NOT NULL CHECK (height_px > 0),
  has_alpha INTEGER NOT NULL CHECK (has_alpha IN (0, 1)),
  added_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
INSERT INTO new_photo (id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px,
  height_px, has_alpha, added_at)
SELECT id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, added_at FROM photo;
DROP TABLE photo;
ALTER TABLE new_photo RENAME TO photo;

-- What was found in an original: words, credit, a reduced copy of it.
CREATE TABLE inspection (
  photo_id INTEGER PRIMARY KEY REFERENCES photo (id),
  findings TEXT NOT NULL CHECK (json_valid(findings)),
  credit TEXT NOT NULL CHECK (json_valid(credit)),
  preview_sha256 TEXT NOT NULL REFERENCES blob (sha256)
) STRICT;

-- What each policy lets through of an original's metadata, and what it adds to each format.
CREATE TABLE metadata_choice (
  photo_id INTEGER NOT NULL REFERENCES photo (id),
  policy TEXT NOT NULL CHECK (policy IN ('nothing', 'credit', 'no-position', 'everything')),
  exif BLOB NOT NULL,
  xmp BLOB NOT NULL,
  costs TEXT NOT NULL CHECK (json_valid(costs)),
  PRIMARY KEY (photo_id, policy)
) STRICT;

-- An original with a plan carried out: lossless pixels before and after sharpening, a thumbnail, and
-- what a search has to know. Plans of earlier versions are only kept for the sake of their files.
CREATE TABLE framed (
  id INTEGER PRIMARY KEY,
  original_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  plan TEXT NOT NULL CHECK (json_valid(plan)),
  plain_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  pixels_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  thumbnail_sha256 TEXT REFERENCES blob (sha256),
  subject TEXT NOT NULL CHECK (json_valid(subject)),
  UNIQUE (original_sha256, plan)
) STRICT;
INSERT INTO framed (id, original_sha256, plan, plain_sha256, pixels_sha256, subject)
SELECT id, original_sha256, json_object('version', 1, 'device_width_px', device_width_px),
  pixels_sha256, pixels_sha256, subject FROM framing;

-- Every encode ever made of framed pixels with the metadata that travels along (the hash of its
-- blocks): a point of the chart, and never made twice.
CREATE TABLE new_encode (
  id INTEGER PRIMARY KEY,
  framed_id INTEGER NOT NULL REFERENCES framed (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  width_px INTEGER NOT NULL CHECK (width_px > 0),
  height_px INTEGER NOT NULL CHECK (height_px > 0),
  blocks_sha256 TEXT NOT NULL,
  file_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  size_bytes INTEGER NOT NULL CHECK (size_bytes > 0),
  likeness REAL NOT NULL CHECK (likeness <= 100),
  encode_ms REAL NOT NULL,
  UNIQUE (framed_id, blocks_sha256, settings, width_px, height_px)
) STRICT;
INSERT INTO new_encode (id, framed_id, settings, width_px, height_px, blocks_sha256, file_sha256,
  size_bytes, likeness, encode_ms)
SELECT id, framing_id, settings, width_px, height_px, '', file_sha256, size_bytes, likeness,
  encode_ms FROM encode;
DROP TABLE candidate;
DROP TABLE search_format;
DROP TABLE encode;
DROP TABLE framing;
ALTER TABLE new_encode RENAME TO encode;

-- The latest search for each photo; an older one is replaced, and its id never used again.
CREATE TABLE new_search (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  photo_id INTEGER NOT NULL UNIQUE REFERENCES photo (id),
  framed_id INTEGER REFERENCES framed (id),
  limit_bytes INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped', 'failed')),
  error_message TEXT
) STRICT;
INSERT INTO new_search (photo_id, limit_bytes, state)
SELECT photo_id, limit_bytes, 'running' FROM search;
DROP TABLE search;
ALTER TABLE new_search RENAME TO search;

-- How far a search is in one format; `encodes` counts those it asked for, kept ones included.
CREATE TABLE search_format (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  format TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed')),
  encodes INTEGER NOT NULL DEFAULT 0,
  error_message TEXT,
  PRIMARY KEY (search_id, format)
) STRICT;
INSERT INTO search_format (search_id, format, state)
SELECT search.id, json_each.value, 'running'
FROM search JOIN entry ON entry.photo_id = search.photo_id,
  json_each(entry.state, '$.aim.formats');

-- What a search found, best first when read.
CREATE TABLE candidate (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  encode_id INTEGER NOT NULL REFERENCES encode (id),
  within_limit INTEGER NOT NULL CHECK (within_limit IN (0, 1)),
  PRIMARY KEY (search_id, encode_id)
) STRICT;

-- Places that photos stand in, for choosing; a photo keeps the numbers, not the row.
CREATE TABLE place (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (name <> ''),
  css_width_px INTEGER NOT NULL CHECK (css_width_px > 0),
  css_height_px INTEGER CHECK (css_height_px > 0),
  fit TEXT NOT NULL CHECK (fit IN ('cover', 'contain')),
  density REAL NOT NULL CHECK (density > 0)
) STRICT;
INSERT INTO place (name, css_width_px, css_height_px, fit, density) VALUES
  ('Full-width banner', 1440, 600, 'cover', 2),
  ('Column', 720, NULL, 'cover', 2),
  ('Card', 380, 285, 'cover', 2),
  ('Thumbnail', 120, 120, 'cover', 2),
  ('E-mail', 600, NULL, 'cover', 2);
