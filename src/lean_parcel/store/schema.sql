-- The schema as the migrations lead to it, to be read. A test holds the two equal.
--
--   photo ──< entry            what was decided about it, step by step; its latest visit is the state
--     │  └──< search ──< search_format, candidate >── encode
--     │  └─── inspection, metadata_choice
--   original ──< framed ──< encode ─── damage
--                      └──< estimate
--
-- Everything large is a blob, named by its SHA-256. Bytes that can be made again may be let go: the
-- row stays, with no data.

CREATE TABLE blob (
  sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
  data BLOB NOT NULL
) STRICT;

-- Which workspace this is, so that a delivery or a backup is known as its own.
CREATE TABLE identity (
  workspace_id TEXT NOT NULL CHECK (length(workspace_id) = 32),
  is_backup INTEGER NOT NULL DEFAULT 0 CHECK (is_backup IN (0, 1))
) STRICT;

-- An original as it came. One that is on no page was removed; its row stays while undo reaches it.
CREATE TABLE photo (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (name <> ''),
  original_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  thumbnail_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  format TEXT NOT NULL,
  size_bytes INTEGER NOT NULL CHECK (size_bytes > 0),
  width_px INTEGER NOT NULL CHECK (width_px > 0),
  height_px INTEGER NOT NULL CHECK (height_px > 0),
  has_alpha INTEGER NOT NULL CHECK (has_alpha IN (0, 1)),
  added_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
  folder TEXT NOT NULL DEFAULT '',  -- where it lay, with / between the parts
  is_photograph INTEGER NOT NULL DEFAULT 0 CHECK (is_photograph IN (0, 1))
) STRICT;

-- The journals: of each photo, and with no photo that of the pages. `state` is the whole state, or
-- layout, after the step, as JSON; undo and redo visit other entries.
CREATE TABLE entry (
  id INTEGER PRIMARY KEY,
  photo_id INTEGER REFERENCES photo (id),
  parent_id INTEGER REFERENCES entry (id),
  words TEXT NOT NULL,
  state TEXT NOT NULL CHECK (json_valid(state)),
  visited INTEGER NOT NULL UNIQUE,  -- grows with every visit: the largest is the current entry
  made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
  picked_encode_id INTEGER
    GENERATED ALWAYS AS (json_extract(state, '$.picked_encode_id')) VIRTUAL REFERENCES encode (id),
  step_id INTEGER REFERENCES entry (id) ON DELETE SET NULL  -- the step of the pages it belongs to
) STRICT;

-- What was found in an original, as JSON.
CREATE TABLE inspection (
  photo_id INTEGER PRIMARY KEY REFERENCES photo (id),
  findings TEXT NOT NULL CHECK (json_valid(findings)),
  credit TEXT NOT NULL CHECK (json_valid(credit)),
  preview_sha256 TEXT NOT NULL REFERENCES blob (sha256)
) STRICT;

-- What each metadata policy lets through, and the bytes that it costs in each format.
CREATE TABLE metadata_choice (
  photo_id INTEGER NOT NULL REFERENCES photo (id),
  policy TEXT NOT NULL CHECK (policy IN ('nothing', 'credit', 'no-position', 'everything')),
  exif BLOB NOT NULL,
  xmp BLOB NOT NULL,
  costs TEXT NOT NULL CHECK (json_valid(costs)),
  PRIMARY KEY (photo_id, policy)
) STRICT;

-- An original framed by a plan: its pixels before (`plain`) and after sharpening, as PNG.
CREATE TABLE framed (
  id INTEGER PRIMARY KEY,
  original_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  plan TEXT NOT NULL CHECK (json_valid(plan)),
  plain_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  pixels_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  thumbnail_sha256 TEXT REFERENCES blob (sha256),
  search_input TEXT NOT NULL CHECK (json_valid(search_input)),
  UNIQUE (original_sha256, plan)
) STRICT;

-- A file that was made of framed pixels, without metadata, and what was measured of it.
CREATE TABLE encode (
  id INTEGER PRIMARY KEY,
  framed_id INTEGER NOT NULL REFERENCES framed (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  width_px INTEGER NOT NULL CHECK (width_px > 0),
  height_px INTEGER NOT NULL CHECK (height_px > 0),
  file_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  size_bytes INTEGER NOT NULL CHECK (size_bytes > 0),
  container_bytes INTEGER NOT NULL,  -- what the first metadata adds to the file beside itself
  likeness REAL NOT NULL CHECK (likeness <= 100),
  encode_ms REAL NOT NULL,
  used INTEGER NOT NULL DEFAULT 0,  -- grows with every use: the smallest are let go first
  version INTEGER  -- 0: by an encoder that was mended since, and only here because it was taken
) STRICT;

-- What is wrong with an encode, by place.
CREATE TABLE damage (
  encode_id INTEGER PRIMARY KEY REFERENCES encode (id) ON DELETE CASCADE,
  strengths TEXT NOT NULL CHECK (json_valid(strengths)),
  verdict TEXT NOT NULL,
  worst_kind TEXT,
  worst_strength REAL NOT NULL,
  flip REAL NOT NULL CHECK (flip BETWEEN 0 AND 1),
  map_rows INTEGER NOT NULL CHECK (map_rows > 0),
  map_columns INTEGER NOT NULL CHECK (map_columns > 0),
  maps BLOB NOT NULL
) STRICT;

-- What drafts of a part came to, which are no files.
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

-- The newest search of a photo at each density of its variants; 0 is its own. Ids are never used
-- again: of two searches the later one counts.
CREATE TABLE search (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  photo_id INTEGER NOT NULL REFERENCES photo (id),
  density REAL NOT NULL DEFAULT 0 CHECK (density >= 0),
  framed_id INTEGER REFERENCES framed (id),
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped', 'failed')),
  error_message TEXT,
  limit_bytes INTEGER,
  UNIQUE (photo_id, density)
) STRICT;

CREATE TABLE search_format (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  format TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed')),
  encodes INTEGER NOT NULL DEFAULT 0,
  error_message TEXT,
  PRIMARY KEY (search_id, format)
) STRICT;

-- What a search offers; one may be offered in the place of another that it improves.
CREATE TABLE candidate (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  encode_id INTEGER NOT NULL REFERENCES encode (id),
  meets_aim INTEGER NOT NULL CHECK (meets_aim IN (0, 1)),
  improves_id INTEGER REFERENCES encode (id) ON DELETE SET NULL,
  PRIMARY KEY (search_id, encode_id)
) STRICT;

-- Photos of a page that are weighed together. How far they are, their searches say.
CREATE TABLE batch (
  id INTEGER PRIMARY KEY,
  page_id INTEGER NOT NULL UNIQUE,
  words TEXT NOT NULL,
  begun_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

CREATE TABLE batch_photo (
  batch_id INTEGER NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
  photo_id INTEGER NOT NULL REFERENCES photo (id) ON DELETE CASCADE,
  PRIMARY KEY (batch_id, photo_id)
) STRICT;

CREATE INDEX blob_by_size ON blob (sha256, length(data));  -- all sizes, without reading the data
CREATE INDEX photo_by_original ON photo (original_sha256);
CREATE INDEX entry_by_visit ON entry (photo_id, visited);
CREATE INDEX entry_by_parent ON entry (parent_id, visited);
CREATE INDEX entry_by_pick ON entry (picked_encode_id);
CREATE INDEX entry_by_step ON entry (step_id) WHERE step_id IS NOT NULL;
CREATE UNIQUE INDEX encode_by_trial ON encode (framed_id, settings, width_px, height_px, version);
CREATE INDEX encode_by_use ON encode (used);
CREATE INDEX encode_by_file ON encode (file_sha256);
CREATE INDEX candidate_by_encode ON candidate (encode_id);
CREATE INDEX search_by_framed ON search (framed_id);

-- What stays when room is made: photos that an entry of the pages has on a page; encodes that are
-- offered, taken or being searched; their framed pixels; and every blob that is named by those.
CREATE VIEW kept_photo AS
SELECT DISTINCT json_extract(spot.value, '$.photo_id') AS id
FROM entry, json_each(entry.state, '$.pages') AS page, json_each(page.value, '$.spots') AS spot
WHERE entry.photo_id IS NULL;

CREATE VIEW kept_encode AS
SELECT encode_id AS id FROM candidate
UNION SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL
UNION SELECT json_extract(pick.value, '$.encode_id')
  FROM entry, json_each(entry.state, '$.variant_picks') AS pick WHERE entry.photo_id IS NOT NULL
UNION SELECT encode.id FROM encode JOIN search USING (framed_id) WHERE search.state = 'running';

CREATE VIEW kept_framed AS
SELECT framed_id AS id FROM search WHERE framed_id IS NOT NULL
UNION SELECT framed_id FROM encode WHERE id IN (SELECT id FROM kept_encode);

CREATE VIEW kept_blob AS
SELECT original_sha256 AS sha256 FROM photo WHERE id IN (SELECT id FROM kept_photo)
UNION SELECT thumbnail_sha256 FROM photo WHERE id IN (SELECT id FROM kept_photo)
UNION SELECT preview_sha256 FROM inspection WHERE photo_id IN (SELECT id FROM kept_photo)
UNION SELECT original_sha256 FROM framed WHERE id IN (SELECT id FROM kept_framed)
UNION SELECT plain_sha256 FROM framed WHERE id IN (SELECT id FROM kept_framed)
UNION SELECT pixels_sha256 FROM framed WHERE id IN (SELECT id FROM kept_framed)
UNION SELECT thumbnail_sha256 FROM framed
  WHERE id IN (SELECT id FROM kept_framed) AND thumbnail_sha256 IS NOT NULL
UNION SELECT file_sha256 FROM encode WHERE id IN (SELECT id FROM kept_encode);

-- Every hash that something names; all other blobs go.
CREATE VIEW named_blob AS
SELECT original_sha256 AS sha256 FROM photo
UNION SELECT thumbnail_sha256 FROM photo
UNION SELECT preview_sha256 FROM inspection
UNION SELECT original_sha256 FROM framed
UNION SELECT plain_sha256 FROM framed
UNION SELECT pixels_sha256 FROM framed
UNION SELECT thumbnail_sha256 FROM framed WHERE thumbnail_sha256 IS NOT NULL
UNION SELECT file_sha256 FROM encode;
