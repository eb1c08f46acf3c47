-- AVIF files with fewer chroma samples are made with other rounding now. One that was taken stays
-- what was taken, but is not found as the encode of its settings; the others go, and searches that
-- had ended with one run again.
CREATE TEMP TABLE rounded AS
SELECT id, id IN (
    SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL) AS was_taken
FROM encode
WHERE is_current
  AND json_extract(settings, '$.format') = 'avif'
  AND json_extract(settings, '$.chroma') <> '4:4:4'
  AND coalesce(json_extract(settings, '$.depth'), 8) = 8;

UPDATE search SET state = 'running', error_message = NULL
WHERE state = 'done' AND id IN (
  SELECT search_id FROM candidate WHERE encode_id IN (SELECT id FROM rounded));
UPDATE search_format SET state = 'running', encodes = 0, error_message = NULL
WHERE format = 'avif' AND search_id IN (SELECT id FROM search WHERE state = 'running');
DELETE FROM candidate WHERE encode_id IN (SELECT id FROM rounded);
UPDATE encode SET is_current = 0 WHERE id IN (SELECT id FROM rounded WHERE was_taken);
DELETE FROM encode WHERE id IN (SELECT id FROM rounded WHERE NOT was_taken);
DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob);
DROP TABLE rounded;
