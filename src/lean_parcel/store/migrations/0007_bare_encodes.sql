-- Metadata goes into a file when it is handed out, so encodes are kept without. Those of the same
-- settings that differed in their metadata become one. `bare`, `container_bytes` and `sha256` are
-- functions of `functions.py`.
CREATE TABLE new_encode (
  id INTEGER PRIMARY KEY,
  framed_id INTEGER NOT NULL REFERENCES framed (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  width_px INTEGER NOT NULL CHECK (width_px > 0),
  height_px INTEGER NOT NULL CHECK (height_px > 0),
  file_sha256 TEXT NOT NULL REFERENCES blob (sha256),
  size_bytes INTEGER NOT NULL CHECK (size_bytes > 0),
  -- What the first metadata adds to the file beside itself.
  container_bytes INTEGER NOT NULL,
  likeness REAL NOT NULL CHECK (likeness <= 100),
  encode_ms REAL NOT NULL,
  used INTEGER NOT NULL DEFAULT 0,
  -- 0: by an encoder that was mended since, and only here because it was taken.
  is_current INTEGER NOT NULL DEFAULT 1 CHECK (is_current IN (0, 1))
) STRICT;

CREATE TEMP TABLE known AS
SELECT id, file_sha256, json_extract(settings, '$.format') AS format,
  coalesce(json_extract(settings, '$.pass_through'), 0) AS is_original,
  segments_sha256 NOT LIKE 'shifted %' AS is_current,
  segments_sha256 IN ('', 'shifted ') AS is_bare
FROM encode;
CREATE TEMP TABLE stripped AS
SELECT id, bare(data, format) AS data FROM known JOIN blob ON sha256 = file_sha256
WHERE NOT is_bare AND NOT is_original;
INSERT INTO blob (sha256, data) SELECT sha256(data), data FROM stripped WHERE data IS NOT NULL
ON CONFLICT DO NOTHING;
UPDATE known SET file_sha256 = sha256(data) FROM stripped WHERE stripped.id = known.id;

-- Which one stands for each: of several the one that was made first.
CREATE TEMP TABLE stands AS
SELECT id, min(id) OVER (
  PARTITION BY framed_id, settings, width_px, height_px, is_current) AS kept_id
FROM encode JOIN known USING (id) WHERE known.file_sha256 IS NOT NULL;

INSERT INTO new_encode (id, framed_id, settings, width_px, height_px, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms, used, is_current)
SELECT id, framed_id,
  replace(settings, '"pass_through"', '"keeps_metadata": true, "pass_through"'),
  width_px, height_px, known.file_sha256, length(data),
  iif(is_original, 0, container_bytes(data, format)), likeness, encode_ms, used, is_current
FROM encode JOIN known USING (id) JOIN blob ON sha256 = known.file_sha256
WHERE id IN (SELECT kept_id FROM stands);

UPDATE entry SET state = json_set(state, '$.picked_encode_id', (
  SELECT kept_id FROM stands WHERE id = json_extract(state, '$.picked_encode_id')))
WHERE json_extract(state, '$.picked_encode_id') IS NOT NULL;

CREATE TABLE new_candidate (
  search_id INTEGER NOT NULL REFERENCES search (id) ON DELETE CASCADE,
  encode_id INTEGER NOT NULL REFERENCES encode (id),
  meets_aim INTEGER NOT NULL CHECK (meets_aim IN (0, 1)),
  PRIMARY KEY (search_id, encode_id)
) STRICT;
INSERT INTO new_candidate (search_id, encode_id, meets_aim)
SELECT search_id, kept_id, meets_aim FROM candidate JOIN stands ON id = encode_id
WHERE true ON CONFLICT DO NOTHING;

-- An original that was taken, and may not go out as it came: its picture alone is taken now.
CREATE TEMP TABLE passed AS
SELECT DISTINCT made.id, bare(data, json_extract(settings, '$.format')) AS data
FROM entry JOIN new_encode AS made ON made.id = json_extract(state, '$.picked_encode_id')
JOIN blob ON sha256 = file_sha256
WHERE json_extract(settings, '$.pass_through')
  AND json_extract(state, '$.framing.metadata') <> 'everything';
INSERT INTO blob (sha256, data) SELECT sha256(data), data FROM passed WHERE data IS NOT NULL
ON CONFLICT DO NOTHING;
INSERT INTO new_encode (framed_id, settings, width_px, height_px, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms)
SELECT framed_id, replace(settings, '"keeps_metadata": true', '"keeps_metadata": false'), width_px,
  height_px, sha256(data), length(data),
  container_bytes(data, json_extract(settings, '$.format')), likeness, encode_ms
FROM new_encode JOIN passed USING (id) WHERE data IS NOT NULL;
UPDATE entry SET state = json_set(state, '$.picked_encode_id', (
  SELECT alone.id FROM new_encode AS alone JOIN new_encode AS whole
    USING (framed_id, width_px, height_px)
  WHERE whole.id = json_extract(entry.state, '$.picked_encode_id')
    AND alone.settings = replace(
      whole.settings, '"keeps_metadata": true', '"keeps_metadata": false')))
WHERE json_extract(state, '$.picked_encode_id') IN (SELECT id FROM passed)
  AND json_extract(state, '$.framing.metadata') <> 'everything';

CREATE TEMP TABLE replaced AS SELECT DISTINCT file_sha256 AS sha256 FROM encode;
DROP TABLE candidate;
DROP TABLE encode;
ALTER TABLE new_encode RENAME TO encode;
ALTER TABLE new_candidate RENAME TO candidate;
CREATE UNIQUE INDEX encode_by_trial ON encode (framed_id, settings, width_px, height_px)
WHERE is_current;
CREATE INDEX encode_by_use ON encode (used);
CREATE INDEX encode_by_file ON encode (file_sha256);

-- A pick is held by a foreign key.
ALTER TABLE entry ADD COLUMN picked_encode_id INTEGER
  GENERATED ALWAYS AS (json_extract(state, '$.picked_encode_id')) VIRTUAL REFERENCES encode (id);
CREATE INDEX entry_by_pick ON entry (picked_encode_id);

DELETE FROM blob
WHERE sha256 IN (SELECT sha256 FROM replaced)
  AND NOT EXISTS (SELECT 1 FROM encode WHERE file_sha256 = sha256)
  AND NOT EXISTS (SELECT 1 FROM photo WHERE sha256 IN (original_sha256, thumbnail_sha256))
  AND NOT EXISTS (SELECT 1 FROM inspection WHERE preview_sha256 = sha256)
  AND NOT EXISTS (
    SELECT 1 FROM framed WHERE sha256 IN (plain_sha256, pixels_sha256, thumbnail_sha256));
DROP TABLE known;
DROP TABLE stripped;
DROP TABLE stands;
DROP TABLE passed;
DROP TABLE replaced;
