-- AVIF files made before had shifted colours. One that was taken stays what was taken, but is not
-- found as the encode of its settings; the others go, and searches that had ended with one run
-- again.
CREATE TEMP TABLE shifted AS
SELECT id, file_sha256, id IN (
    SELECT json_extract(state, '$.picked_encode_id') FROM entry
    WHERE json_extract(state, '$.picked_encode_id') IS NOT NULL) AS was_taken
FROM encode
WHERE json_extract(settings, '$.format') = 'avif'
  AND json_extract(settings, '$.pass_through') IS NULL;

UPDATE search SET state = 'running', error_message = NULL
WHERE state = 'done' AND id IN (
  SELECT search_id FROM candidate WHERE encode_id IN (SELECT id FROM shifted));
UPDATE search_format SET state = 'running', encodes = 0, error_message = NULL
WHERE format = 'avif' AND search_id IN (SELECT id FROM search WHERE state = 'running');
DELETE FROM candidate WHERE encode_id IN (SELECT id FROM shifted);
UPDATE encode SET segments_sha256 = 'shifted ' || segments_sha256
WHERE id IN (SELECT id FROM shifted WHERE was_taken);
DELETE FROM encode WHERE id IN (SELECT id FROM shifted WHERE NOT was_taken);
DELETE FROM blob
WHERE sha256 IN (SELECT file_sha256 FROM shifted WHERE NOT was_taken)
  AND NOT EXISTS (SELECT 1 FROM encode WHERE file_sha256 = sha256)
  AND NOT EXISTS (SELECT 1 FROM photo WHERE sha256 IN (original_sha256, thumbnail_sha256))
  AND NOT EXISTS (SELECT 1 FROM inspection WHERE preview_sha256 = sha256)
  AND NOT EXISTS (
    SELECT 1 FROM framed WHERE sha256 IN (plain_sha256, pixels_sha256, thumbnail_sha256));
DROP TABLE shifted;
