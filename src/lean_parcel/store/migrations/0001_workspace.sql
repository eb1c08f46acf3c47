-- Content by its hash: originals, framed pixels, thumbnails and encoded files.
CREATE TABLE blob (
  sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
  data BLOB NOT NULL
) STRICT;

-- An original and its aim; `aim_order` is highest where the aim was set last. The pick is an encode
-- of one of its framings.
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
  css_width_px INTEGER NOT NULL CHECK (css_width_px > 0),
  density REAL NOT NULL CHECK (density > 0),
  limit_bytes INTEGER NOT NULL CHECK (limit_bytes > 0),
  background TEXT NOT NULL,
  formats TEXT NOT NULL CHECK (json_valid(formats)),
  picked_encode_id INTEGER REFERENCES encode (id),
  added_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
  aim_order INTEGER NOT NULL
) STRICT;

-- An original in a place: lossless pixels, and what a search has to know of them.
CREATE TABLE framing (
  id INTEGER PRIMARY KEY,
  original_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  device_width_px INTEGER NOT NULL CHECK (device_width_px > 0),
  pixels_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  subject TEXT NOT NULL CHECK (json_valid(subject)),
  UNIQUE (original_sha256, device_width_px)
) STRICT;

-- Every encode ever made of a framing: a point of the chart, and never made twice.
CREATE TABLE encode (
  id INTEGER PRIMARY KEY,
  framing_id INTEGER NOT NULL REFERENCES framing (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  width_px INTEGER NOT NULL CHECK (width_px > 0),
  height_px INTEGER NOT NULL CHECK (height_px > 0),
  file_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  size_bytes INTEGER NOT NULL CHECK (size_bytes > 0),
  likeness REAL NOT NULL CHECK (likeness <= 100),
  encode_ms REAL NOT NULL,
  UNIQUE (framing_id, settings, width_px, height_px)
) STRICT;

-- The latest search for each photo; an older one is replaced, and its id never used again.
CREATE TABLE search (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  photo_id INTEGER NOT NULL UNIQUE REFERENCES photo (id),
  framing_id INTEGER REFERENCES framing (id),
  limit_bytes INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped', 'failed')),
  error_message TEXT
) STRICT;

-- How far a search is in one format; `encodes` counts those it asked for, kept ones included.
CREATE TABLE search_format (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  format TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed')),
  encodes INTEGER NOT NULL DEFAULT 0,
  error_message TEXT,
  PRIMARY KEY (search_id, format)
) STRICT;

-- What a search found, best first when read.
CREATE TABLE candidate (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  encode_id INTEGER NOT NULL REFERENCES encode (id),
  within_limit INTEGER NOT NULL CHECK (within_limit IN (0, 1)),
  PRIMARY KEY (search_id, encode_id)
) STRICT;
