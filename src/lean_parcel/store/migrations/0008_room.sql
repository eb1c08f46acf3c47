-- What stays when room is made. A photo stays while a step that undo can come to has it on a page;
-- its framed pixels while its search shows them; an encode while it is picked, offered, or of a search
-- that runs.
CREATE VIEW kept_photo AS
SELECT DISTINCT json_extract(spot.value, '$.photo_id') AS id
FROM entry, json_each(entry.state, '$.pages') AS page, json_each(page.value, '$.spots') AS spot
WHERE entry.photo_id IS NULL;

CREATE VIEW kept_encode AS
SELECT encode_id AS id FROM candidate
UNION SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL
UNION SELECT encode.id FROM encode JOIN search USING (framed_id) WHERE search.state = 'running';

CREATE VIEW kept_framed AS
SELECT framed_id AS id FROM search WHERE framed_id IS NOT NULL
UNION SELECT framed_id FROM encode WHERE id IN (SELECT id FROM kept_encode);

-- Every hash that something names, and those of what stays.
CREATE VIEW named_blob AS
SELECT original_sha256 AS sha256 FROM photo
UNION SELECT thumbnail_sha256 FROM photo
UNION SELECT preview_sha256 FROM inspection
UNION SELECT original_sha256 FROM framed
UNION SELECT plain_sha256 FROM framed
UNION SELECT pixels_sha256 FROM framed
UNION SELECT thumbnail_sha256 FROM framed WHERE thumbnail_sha256 IS NOT NULL
UNION SELECT file_sha256 FROM encode;

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

-- The sizes of all files, without reading them.
CREATE INDEX blob_by_size ON blob (sha256, length(data));
CREATE INDEX photo_by_original ON photo (original_sha256);
CREATE INDEX candidate_by_encode ON candidate (encode_id);
CREATE INDEX search_by_framed ON search (framed_id);
