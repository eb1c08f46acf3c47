-- Searches of variants: at densities beside the photo's own search, whose density is 0. Chosen
-- variants stay when room is made. Photos know the folder that they came in. The banner that ships
-- as a treatment has the two densities that it is for.
ALTER TABLE photo ADD COLUMN folder TEXT NOT NULL DEFAULT '';

DROP VIEW kept_blob;
DROP VIEW kept_framed;
DROP VIEW kept_encode;
CREATE TABLE new_search (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  photo_id INTEGER NOT NULL REFERENCES photo (id),
  density REAL NOT NULL DEFAULT 0 CHECK (density >= 0),
  framed_id INTEGER REFERENCES framed (id),
  limit_bytes INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped', 'failed')),
  error_message TEXT,
  UNIQUE (photo_id, density)
) STRICT;
INSERT INTO new_search (id, photo_id, framed_id, limit_bytes, state, error_message)
SELECT id, photo_id, framed_id, limit_bytes, state, error_message FROM search;
DROP TABLE search;
ALTER TABLE new_search RENAME TO search;
CREATE INDEX search_by_framed ON search (framed_id);

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

UPDATE entry SET state = json_set(state, '$.treatments', json((
  SELECT json_group_array(json(iif(
    json_extract(value, '$.id') = 2
      AND json_extract(value, '$.name') = 'Banner, sharp on dense screens',
    json_set(value, '$.name', 'Banner at two densities',
      '$.treatment.aim.variants', json('{"densities": [1]}')),
    value)))
  FROM (SELECT value FROM json_each(entry.state, '$.treatments') ORDER BY key))))
WHERE photo_id IS NULL;
